"""The two dials of a surface that may be rugged more along than across, for each band that has a boundary."""

from nineglass.describe import Dial, dial


def anisotropy_dial(standard: str) -> Dial:
    """How much more it is rugged along than across. standard: the dial's name in OpenPBR."""
    return dial(
        0.0,
        0.0,
        1.0,
        label="Sanded",
        ends=("alike", "one way"),
        help="How much more it is rugged along its direction than across: highlights are drawn out along it.",
        standard=standard,
        drivable=True,
    )


def direction_dial(anisotropy: str) -> Dial:
    """Along where it is. anisotropy: the name of the other dial."""
    return dial(
        0.0,
        -180.0,
        180.0,
        hard=(-3600.0, 3600.0),
        label="Direction",
        unit="deg",
        ends=("left", "right"),
        help="Turned from the form's first texture coordinate; a picture may drive it.",
        drivable=True,
        beside=anisotropy,
    )
