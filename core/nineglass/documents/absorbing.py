"""An interior that absorbs as something was measured, or found, to."""

from nineglass.documents.bands.interior import CURVE

BAND = "interior"


def absorbing(points: list[list[float]], depth_cm: float) -> dict:
    """The dials of `BAND`. points: the share of light left after the depth, [nm, share]."""
    return {"absorption": CURVE, "transmittance": points, "transmission_depth": depth_cm, "concentration": 1.0}
