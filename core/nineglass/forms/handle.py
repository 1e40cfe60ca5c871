from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, centred, lathe
from nineglass.forms.vessels import AROUND, outline


@FORMS.kind(title="Turned handle", family="solid")
class TurnedHandle:
    """A handle as of a brush, turned: a foot, a waist, a belly, and a shoulder with a flat top."""

    height = dial(5.5, 1, 20, hard=(0.1, 1000), unit="cm", scale="log", ends=("knob", "stick"))
    width = dial(3.4, 0.5, 12, hard=(0.05, 1000), unit="cm", scale="log", ends=("slim", "stout"))
    waist = dial(0.55, 0.2, 1, ends=("narrow", "straight"), help="The width of its waist over that of its foot.")
    top = dial(0.72, 0.1, 1, ends=("narrow", "wide"), help="The width of its top over that of its foot.")

    def mesh(self, dials) -> Mesh:
        r, h = dials["width"] / 200, dials["height"] / 100
        waist, top = r * dials["waist"], r * dials["top"]
        sides = outline([(0, 0), (r * 0.9, 0), (r, h * 0.04), (r * 0.97, h * 0.1), (waist, h * 0.38), (max(waist, top) * 1.06, h * 0.66),
                         (top * 1.08, h * 0.86), (top, h * 0.97), (top * 0.93, h)])  # fmt: skip
        return centred(lathe([*sides, (0, h)], AROUND))
