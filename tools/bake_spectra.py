"""Make the data files of the rooms spectra and optics. Run once; the results are committed.

python tools/bake_spectra.py observer   from the package colour-science
python tools/bake_spectra.py sigmoids   by fitting (about a minute)
python tools/bake_spectra.py energy     by quadrature (about a minute)
"""

import sys

import numpy as np


def bake_observer():
    import colour
    from nineglass.spectra.observer import DATA

    shape = colour.SpectralShape(380, 780, 1)
    observer = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape)
    daylight = colour.SDS_ILLUMINANTS["D65"].copy().align(shape)
    np.savez_compressed(DATA / "observer.npz", xyz=observer.values, d65=daylight.values)


def bake_sigmoids():
    from nineglass.spectra import upsampling

    n = upsampling.RESOLUTION
    share = np.linspace(0, 1, n)
    table = np.zeros((3, n, n, n, 3), np.float32)
    first, second = (grid.ravel() for grid in np.meshgrid(share, share, indexing="ij"))
    for brightest in range(3):
        start = None
        middle = n // 2
        for k in [*range(middle, n), *range(middle - 1, -1, -1)]:
            if k == middle - 1:
                start = table[brightest, middle].reshape(-1, 3).astype(float)
            top = upsampling.table_nodes()[k]
            rgb = np.zeros((n * n, 3))
            rgb[:, brightest] = top
            rgb[:, (brightest + 1) % 3] = first * top
            rgb[:, (brightest + 2) % 3] = second * top
            start = upsampling.fit(rgb, start=start, steps=200)
            table[brightest, k] = start.reshape(n, n, 3)
    np.save(upsampling.DATA / "sigmoids.npy", table)


def bake_energy():
    from nineglass.optics import energy

    np.save(energy.DATA / "dielectric_albedo.npy", energy.tabulate())


if __name__ == "__main__":
    {"observer": bake_observer, "sigmoids": bake_sigmoids, "energy": bake_energy}[sys.argv[1]]()
