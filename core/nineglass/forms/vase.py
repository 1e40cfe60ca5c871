from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, lathe
from nineglass.forms.vessels import AROUND, outline


@FORMS.kind(title="Vase", family="vessel")
class Vase:
    """A tall vase, empty: a foot, a belly, a neck and a lip that flares, with a thick floor."""

    height = dial(20, 2, 60, hard=(0.1, 1000), unit="cm", scale="log", ends=("bud", "floor vase"))
    belly = dial(
        11, 1, 40, hard=(0.1, 1000), unit="cm", scale="log", ends=("slim", "round"), help="Where it is widest."
    )
    neck = dial(0.42, 0.15, 0.9, ends=("narrow", "wide"), help="The width of its neck over that of its belly.")
    lip = dial(0.62, 0.2, 1, ends=("straight", "flared"), help="The width of its lip over that of its belly.")
    wall = dial(0.5, 0.05, 3, hard=(0.005, 100), unit="cm", scale="log", ends=("thin", "heavy"))

    def mesh(self, dials) -> Mesh:
        r, h = dials["belly"] / 200, dials["height"] / 100
        neck, lip = r * dials["neck"], r * max(dials["lip"], dials["neck"])
        w = min(dials["wall"] / 100, neck * 0.4, h * 0.1)
        outer = outline([(0, 0), (r * 0.56, 0), (r * 0.62, h * 0.02), (r * 0.78, h * 0.14), (r, h * 0.38), (r * 0.86, h * 0.58),
                         (neck * 1.12, h * 0.75), (neck, h * 0.83), (neck * 1.08, h * 0.9), (lip, h)])  # fmt: skip
        inner = outline([(0, w * 2.4), (r * 0.5 - w, w * 2.5), (r * 0.78 - w, max(h * 0.14, w * 3.6)), (r - w, h * 0.38), (r * 0.86 - w, h * 0.58),
                         (neck * 1.12 - w, h * 0.75), (neck - w, h * 0.83), (neck * 1.08 - w, h * 0.9), (lip - w * 0.8, h)])  # fmt: skip
        return lathe([*outer, *inner[::-1]], AROUND)
