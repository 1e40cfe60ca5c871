from nineglass.describe import choice, color_dial, dial
from nineglass.forms import FLOORS


@FLOORS.kind(title="Floor", family="ground")
class Floor:
    """A matt level ground that the form stands on, plain or in squares of a true size."""

    pattern = choice("plain", "squares", label="Pattern")
    color = color_dial((0.42, 0.42, 0.42), label="Colour")
    second_color = color_dial((0.2, 0.2, 0.2), label="Second colour")
    square_size = dial(5, 0.5, 50, hard=(0.01, 10000), unit="cm", scale="log", ends=("fine", "broad"), label="Squares")
