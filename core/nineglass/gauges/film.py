import itertools
import math

import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.index import metal_curves
from nineglass.matter.material import index_curve
from nineglass.matter.substances import WAVELENGTHS_NM
from nineglass.network.compile import Leaf
from nineglass.optics.film import boundary_reflectance
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.srgb import to_hex

SHOWN_NM = WAVELENGTHS_NM[::10]
COLORS = 48


def outermost(leaf: Leaf) -> str:
    """The slot of the film that light meets first."""
    return next((slot for slot, kind in leaf.kinds.items() if kind == "film"), "")


def films_of(leaf: Leaf, values: dict, thickness_nm: float | None = None, first: str = "") -> list[tuple[float, tuple]]:
    """The films that lie on one another from a slot inwards (the outermost unless given), with another thickness for the first.

    Gives (share of the surface, films as `optics.film.NO_FILMS`) for each set of them that is met somewhere: each covers its share, whatever
    lies on or beneath it. values: of the dials of the stack, by slot and name.
    """
    found = []
    for slot in itertools.takewhile(lambda slot: leaf.kinds[slot] == "film", _inwards(leaf, first)):
        thickness, ior = values[slot, "thin_film_thickness"], values[slot, "thin_film_ior"]
        found.append([thickness, ior, min(max(values[slot, "thin_film_weight"], 0.0), 1.0)])
    if thickness_nm is not None and found:
        found[0][0] = thickness_nm
    sets = []
    for there in itertools.product((True, False), repeat=len(found)):
        share = math.prod(film[2] if is_there else 1 - film[2] for film, is_there in zip(found, there, strict=True))
        if share > 0:
            sets.append((share, _films([film for film, is_there in zip(found, there, strict=True) if is_there])))
    return sets


def _inwards(leaf: Leaf, first: str) -> list[str]:
    """The slots from a film inwards; none without a film."""
    first = first or outermost(leaf)
    return leaf.order[leaf.order.index(first) :] if first else []


def _films(found: list) -> tuple:
    flat = [np.float32(v) for thickness, ior, _ in found for v in (thickness, ior)]
    return (len(found), *flat, *[np.float32(0), np.float32(1)] * (4 - len(found)))


def beneath(leaf: Leaf, values: dict, first: str = "") -> tuple[np.ndarray, np.ndarray]:
    """(index, extinction) over wavelength of what the films from a slot inwards lie on."""
    base = next((slot for slot in _inwards(leaf, first) or leaf.order if leaf.kinds[slot] != "film"), "interface")
    none = np.zeros(len(WAVELENGTHS_NM))
    if leaf.kinds.get(base) == "coat":
        return none + values[base, "coat_ior"], none
    if base == "metal":
        return metal_curves(leaf.settings["metal"], values)
    return index_curve(leaf.settings["interface"] | {"specular_ior": values["interface", "specular_ior"]}), none


def reflectance_of(
    films: list[tuple[float, tuple]], cosine: float, index: float, extinction: float, nm: float
) -> float:
    """Reflectance from outside of films (as `films_of`) on matter with an index and extinction at a wavelength."""
    about = tuple(np.float32(v) for v in (cosine, 1, index, extinction, nm))
    return sum(share * float(boundary_reflectance(some, *about)) for share, some in films)


def film_colors(leaf: Leaf, values: dict, cosine: float, thicknesses_nm, first: str = "") -> np.ndarray:
    """(n, 3) linear Rec.709 of white light off the films of a stack, from a slot inwards, at some thicknesses of the first of them."""
    at = [np.interp(SHOWN_NM, WAVELENGTHS_NM, curve) for curve in beneath(leaf, values, first)]
    found = []
    for thickness in thicknesses_nm:
        films = films_of(leaf, values, thickness, first)
        shares = [reflectance_of(films, cosine, *about) for about in zip(*at, SHOWN_NM, strict=True)]
        found.append(rgb_of_filter(np.interp(WAVELENGTHS_NM, SHOWN_NM, shares)))
    return np.array(found)


def to_show(rgb: np.ndarray) -> list[str]:
    """Display colours of reflections, brought up so that the brightest is light."""
    return [to_hex(c) for c in np.clip(rgb * (0.85 / max(float(rgb.max()), 1e-3)), 0, 1)]


@GAUGES.gauge(title="Film", plot="strips", bands=("film",), place=4)
def film(reading: Reading) -> dict:
    """The colour of white light off the film over its thickness, face-on and at a slant; the mark is the thickness it has."""
    leaf = reading.compiled.leaves[0]
    slot = outermost(leaf)
    now = reading.values[slot, "thin_film_thickness"]
    top = max(1000.0, 1.5 * now)
    thicknesses = np.linspace(0, top, COLORS)
    rows = []
    for angle in (0, 45, 70):
        rows.append(
            {
                "label": f"{angle}°",
                "hex": to_show(film_colors(leaf, reading.values, np.cos(np.radians(angle)), thicknesses)),
            }
        )
    return {
        "x": {"label": "thickness", "unit": "nm", "low": 0.0, "high": top},
        "rows": rows,
        "mark": now,
        "varies": reading.varies("film", "thin_film_thickness"),
        "caption": f"{now:.0f} nm of index {reading.values['film', 'thin_film_ior']:.2f}; brightened to be seen.",
    }
