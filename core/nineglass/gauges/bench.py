"""All that the Bench shows beside the picture, in one go."""

import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.cuts import cuts_of
from nineglass.gauges.notes import as_json, notes_of
from nineglass.gauges.slips import driven_ranges, slip_pictures
from nineglass.gauges.stage_plan import plan_of
from nineglass.gauges.within import MIDDLE, depth_of, is_subsurface, scattering_of, transmitted
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.srgb import to_hex

CUT_STEPS = 9


def read_bench(reading: Reading, inside: str = "") -> dict:
    """Gauges, notes, slip pictures, driven ranges, and what the section is drawn from; plain JSON values.

    inside: the use of a module that is open on the network, if any.
    """
    return {
        "gauges": [
            about | {"computed": GAUGES.all[about["name"]].compute(reading)}
            for about in GAUGES.as_json()
            if GAUGES.all[about["name"]].wanted(reading)
        ],
        "notes": as_json(notes_of(reading)),
        "inside": inside,
        "slips": slip_pictures(reading, inside),
        "driven": driven_ranges(reading, inside),
        "section": _section(reading),
        "plan": plan_of(reading.stage) if reading.stage else None,
    }


def _section(reading: Reading) -> dict:
    depth, sigma_s = depth_of(reading), scattering_of(reading)
    cut = rgb_of_filter(transmitted(reading, np.linspace(0, depth, CUT_STEPS)))
    if is_subsurface(reading):
        cut = np.array([reading.values["subsurface", "subsurface_color"]] * 2)
    scattered = rgb_of_filter(sigma_s / max(float(sigma_s.max()), 1e-9))
    return {
        "depth_cm": depth,
        "cut": [to_hex(c) for c in np.clip(cut, 0, 1)],
        "scatterings": float(sigma_s[MIDDLE]) * depth / 100,
        "scattered": to_hex(np.clip(scattered, 0, 1)),
        "bands": cuts_of(reading),
    }
