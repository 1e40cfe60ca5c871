from nineglass.describe import color_dial, dial
from nineglass.documents.bands import BANDS


@BANDS.kind(title="Interior", family="matter", standard="anisotropic_vdf")
class Interior:
    """The clear matter inside: it takes a share of the light for each length that light travels in it.

    When its dials are driven they are read where light enters.
    """

    transmission_color = color_dial(
        (1.0, 1.0, 1.0),
        label="Transmission colour",
        help="The colour of white light after it has gone as deep as the depth below.",
        standard="transmission_color",
        drivable=True,
    )
    transmission_depth = dial(
        2.0,
        0.05,
        100.0,
        hard=(0.001, 100000.0),
        label="at depth",
        unit="cm",
        scale="log",
        ends=("inky", "water-clear"),
        help="The depth at which the transmission colour is reached. Half of it squares the colour.",
        standard="transmission_depth",
        drivable=True,
    )
