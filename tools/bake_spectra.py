"""Make the data files of the rooms spectra and optics. Run once; the results are committed.

python tools/bake_spectra.py observer   from the package colour-science
python tools/bake_spectra.py sigmoids   by fitting (about a minute)
python tools/bake_spectra.py energy     by quadrature (about a minute)
python tools/bake_spectra.py mirror     by quadrature
python tools/bake_spectra.py sanded     by quadrature (some minutes)
python tools/bake_spectra.py light      by constrained least squares
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


def bake_mirror():
    from nineglass.optics import conductor, energy

    np.save(energy.DATA / "mirror_albedo.npy", conductor.mirror_albedo())


def bake_sanded():
    from nineglass.optics import energy, sanded

    np.save(energy.DATA / "sanded_missing.npy", sanded.tabulate())


def bake_light():
    """The smoothest three spectra within 0 and 1 that sum to 1 and look like the primaries under D65 (10 nm steps)."""
    from nineglass.spectra.observer import CMF, D65, DATA, WAVELENGTHS_NM, XYZ_TO_RGB
    from scipy.optimize import minimize

    nodes = np.arange(380, 781, 10)
    spread = np.stack([np.interp(WAVELENGTHS_NM, nodes, row) for row in np.eye(len(nodes))])
    weights = (XYZ_TO_RGB @ (CMF * D65[:, None]).T) @ spread.T
    count = len(nodes)
    steps = np.diff(np.eye(count), axis=0)
    rough = np.kron(np.eye(3), steps.T @ steps)
    looks = np.kron(np.eye(3), weights)
    sums = np.hstack([np.eye(count)] * 3)
    fixed = np.vstack([looks[:6], sums])
    wanted = np.concatenate([np.eye(3).ravel()[:6], np.ones(count)])
    found = minimize(
        lambda x: x @ rough @ x,
        np.full(3 * count, 1 / 3),
        jac=lambda x: 2 * rough @ x,
        bounds=[(0, 1)] * (3 * count),
        constraints={"type": "eq", "fun": lambda x: fixed @ x - wanted, "jac": lambda x: fixed},
        method="SLSQP",
        options={"maxiter": 1000, "ftol": 1e-12},
    )
    basis = found.x.reshape(3, count) @ spread
    print(found.message, "largest miss", np.abs(fixed @ found.x - wanted).max())
    np.save(DATA / "light_basis.npy", basis / basis.sum(axis=0))


if __name__ == "__main__":
    kinds = {"observer": bake_observer, "sigmoids": bake_sigmoids, "energy": bake_energy}
    (kinds | {"mirror": bake_mirror, "sanded": bake_sanded, "light": bake_light})[sys.argv[1]]()
