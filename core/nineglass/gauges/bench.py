"""All that the Bench shows beside the picture, in one go."""

import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.ladder import transmitted
from nineglass.gauges.notes import as_json, notes_of
from nineglass.gauges.slips import driven_ranges, slip_pictures
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.srgb import to_hex

CUT_STEPS = 9


def read_bench(reading: Reading) -> dict:
    """Gauges, notes, slip pictures, driven ranges, and what the section is drawn from; plain JSON values."""
    return {
        "gauges": [about | {"computed": GAUGES.all[about["name"]].compute(reading)} for about in GAUGES.as_json()],
        "notes": as_json(notes_of(reading)),
        "slips": slip_pictures(reading),
        "driven": driven_ranges(reading),
        "section": _section(reading),
    }


def _section(reading: Reading) -> dict:
    color, depth = (reading.values["interior", name] for name in ("transmission_color", "transmission_depth"))
    cut = rgb_of_filter(transmitted(color, depth, np.linspace(0, depth, CUT_STEPS)))
    return {
        "ior": reading.values["interface", "specular_ior"],
        "roughness": reading.values["interface", "specular_roughness"],
        "depth_cm": depth,
        "cut": [to_hex(c) for c in cut],
    }
