"""Bench notes on bands and what drives them: values past what a dial takes, a split of one side, films that cannot be seen."""

import numpy as np

from nineglass.catalogue import BANDS
from nineglass.documents.model import Band
from nineglass.documents.note import Change, Note, PutOnWire
from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.film import beneath, film_colors
from nineglass.gauges.surface import places, values_at
from nineglass.matter.substances import D_NM, WAVELENGTHS_NM
from nineglass.network.compile import splits

TRUE_EDGE = BANDS.kinds["body"].dials["shade_edge"].default
HARDLY_PAST = 0.002
"""Past an end by less than this share of the range is not told."""

ALIKE = 0.03
MANY_ORDERS_NM = 900
PALE = 0.12
"""(brightest less darkest channel) over the mean, below which a film has no colour to speak of."""

COLORFUL_NM = 380.0
SEEN_INDEX = 2.0


def notes_on_layers(reading: Reading) -> list[Note]:
    return [
        *_past_the_range(reading),
        *_one_side(reading),
        *_read_of_the_first(reading),
        *_films(reading),
        *_edge_of_shade(reading),
        *_bare_flakes(reading),
    ]


def _title(band: Band) -> str:
    return band.name or BANDS.kinds[band.kind].title


def _arriving(reading: Reading) -> dict[tuple[str, str], np.ndarray]:
    """(channels, places) of what arrives at each driven dial of a band that takes numbers or colours."""
    bands = {band.id: BANDS.kinds[band.kind] for band in reading.material.section.bands if band.on}
    signals = {}
    for target in (wire.target for wire in reading.material.wires):
        if target.part in bands and bands[target.part].dials[target.dial].type in ("number", "color"):
            signals[target.part, target.dial] = reading.compiled.arriving[target.part, target.dial]
    return values_at(reading, signals, places(reading))


def _past_the_range(reading: Reading):
    bands = {band.id: band for band in reading.material.section.bands}
    for (part, dial), values in _arriving(reading).items():
        about = BANDS.kinds[bands[part].kind].dials[dial]
        low, high = about.hard_low, about.hard_high
        margin = HARDLY_PAST * (high - low)
        past = (values < low - margin) | (values > high + margin)
        if not past.any():
            continue
        share = past.any(axis=0).mean()
        furthest = float(values.max()) if values.max() > high + margin else float(values.min())
        is_number = about.type == "number"
        yield Note(
            "past the range",
            f"{_title(bands[part])}, {about.label.lower()}: what arrives runs from {values.min():.3g} to {values.max():.3g}, "
            f"past {low:g} to {high:g} on {share:.0%} of the form; there it is held at the end.",
            furthest,
            part,
            dial,
            "Put a clamp on the wire" if is_number else "Lower what drives it",
            [PutOnWire(part, dial, "clamp", {"low": low, "high": high})] if is_number else [],
        )


def _edge_of_shade(reading: Reading):
    """A shade that no matter has is named as untrue."""
    for band in reading.material.section.bands:
        if band.kind == "body" and band.on and (edge := band.dials.get("shade_edge", TRUE_EDGE)) != TRUE_EDGE:
            says = f"{_title(band)}: the edge of its shade is made {'sharper' if edge < TRUE_EDGE else 'softer'} than that of any matter; its energy is kept."
            change = Change(band.id, "shade_edge", TRUE_EDGE)
            yield Note("untrue shade", says, edge, band.id, "shade_edge", "Show the true edge", [change])


def _bare_flakes(reading: Reading):
    """Flakes are held by a coat."""
    bands = [band for band in reading.material.section.bands if band.on]
    for k, band in enumerate(bands):
        if band.kind == "flakes" and not any(above.kind == "coat" for above in bands[:k]):
            says = (
                f"{_title(band)}: no coat lies over them, so they are as bright as bare metal, and nothing holds them."
            )
            yield Note("bare flakes", says, 0.0, band.id, "flake_depth", "Lay a coat above them", [])


def _one_side(reading: Reading):
    band = next((b for b in reading.material.section.bands if b.kind == "split" and b.on), None)
    if band is None:
        return
    mask = reading.compiled.ops.value_of(reading.compiled.mask)
    if mask is not None and not 0 < mask < 1:
        side = "first" if mask <= 0 else "second"
        says = f"{_title(band)}: the mask is {mask:g} everywhere, so only the {side} side is seen."
        yield Note("one side", says, mask, band.id, "mask", "Show half of each", [Change(band.id, "mask", 0.5)])


def _read_of_the_first(reading: Reading):
    """Of two media that are mixed, plots and notes read one."""
    leaves, media = reading.compiled.leaves, set(GAUGES.all["slab"].bands)
    if len(leaves) == 1 or any(media.isdisjoint(leaf.order) for leaf in leaves):
        return
    band = next(band for band in reading.material.section.bands if splits(band) and band.on)
    says = f"{_title(band)}: there is matter within on both sides; what the plots and notes tell of it is told of the first side."
    yield Note("first side read", says, 0.0, band.id, "mask", "Put the other on the first side to read it", [])


def _films(reading: Reading):
    """On the outermost film, when it lies alone."""
    if list(reading.compiled.leaves[0].kinds.values()).count("film") != 1:
        return
    band = next(b for b in reading.material.section.bands if b.kind == "film" and b.on)
    leaf, values = reading.compiled.leaves[0], reading.values
    index, extinction = beneath(leaf, values)
    ior, under = values["film", "thin_film_ior"], float(np.interp(D_NM, WAVELENGTHS_NM, index))
    if not reading.varies("film", "thin_film_ior") and not extinction.any() and abs(ior - under) < ALIKE:
        yield Note(
            "unseen film",
            f"{_title(band)}: its index, {ior:.2f}, is that of what it lies on, {under:.2f}; light does not see where one ends.",
            abs(ior - under),
            band.id,
            "thin_film_ior",
            f"Set its index to {SEEN_INDEX:g}",
            [Change(band.id, "thin_film_ior", SEEN_INDEX)],
        )
        return
    thickness = values["film", "thin_film_thickness"]
    if reading.varies("film", "thin_film_thickness") or thickness < MANY_ORDERS_NM:
        return
    [color] = film_colors(leaf, values, 1.0, [thickness])
    colorful = float(np.ptp(color) / max(color.mean(), 1e-9))
    if colorful < PALE:
        yield Note(
            "many orders",
            f"{_title(band)}: at {thickness:.0f} nm the colours of many orders overlap, and {colorful:.0%} of colour is left.",
            colorful,
            band.id,
            "thin_film_thickness",
            f"Set its thickness to {COLORFUL_NM:g} nm",
            [Change(band.id, "thin_film_thickness", COLORFUL_NM)],
        )
