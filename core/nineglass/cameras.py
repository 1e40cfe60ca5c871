"""Cameras."""

from nineglass.describe import Catalogue, dial

CAMERAS = Catalogue("camera")


@CAMERAS.kind(title="Camera", family="camera")
class Camera:
    """Looks at the middle of the stage, on a frame 36 mm wide."""

    focal_length = dial(80, 20, 300, hard=(5, 2000), unit="mm", scale="log", ends=("wide", "long"))
    distance = dial(45, 5, 500, hard=(1, 1000000), unit="cm", scale="log", ends=("close", "far"))
    azimuth = dial(0, -180, 180, hard=(-3600, 3600), unit="deg", ends=("left", "right"))
    elevation = dial(12, -10, 80, hard=(-89, 89), unit="deg", ends=("level", "from above"))
    raised = dial(0, -20, 20, hard=(-1e5, 1e5), label="Looks above", unit="cm", ends=("lower", "higher"))
    aside = dial(0, -20, 20, hard=(-1e5, 1e5), label="Looks aside", unit="cm", ends=("left", "right"))
    focus = dial(
        0,
        -20,
        20,
        hard=(-1e6, 1e6),
        label="Focus",
        unit="cm",
        ends=("before", "behind"),
        help="What is sharp: 0 is the middle of the stage, more is farther.",
    )
    f_stop = dial(
        22, 1, 64, hard=(0.5, 512), label="Aperture", scale="log", ends=("shallow", "deep"), help="The f-number."
    )
    exposure = dial(0, -6, 6, hard=(-20, 20), unit="EV", ends=("darker", "lighter"))
