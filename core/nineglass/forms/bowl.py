from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, lathe
from nineglass.forms.vessels import AROUND, outline


@FORMS.kind(title="Bowl", family="vessel")
class Bowl:
    """An open bowl on a low foot."""

    diameter = dial(14, 2, 60, hard=(0.1, 1000), unit="cm", scale="log", ends=("salt", "basin"))
    deep = dial(0.45, 0.15, 0.9, ends=("dish", "cup"), help="Its height over its width.")
    wall = dial(0.5, 0.05, 3, hard=(0.005, 100), unit="cm", scale="log", ends=("thin", "heavy"))

    def mesh(self, dials) -> Mesh:
        r = dials["diameter"] / 200
        h = 2 * r * dials["deep"]
        w = min(dials["wall"] / 100, r * 0.2, h * 0.2)
        outer = outline(
            [
                (0, 0),
                (r * 0.34, 0),
                (r * 0.38, h * 0.03),
                (r * 0.42, h * 0.1),
                (r * 0.76, h * 0.34),
                (r * 0.96, h * 0.72),
                (r, h),
            ]
        )
        inner = outline(
            [
                (0, w * 1.6),
                (r * 0.36, max(h * 0.1, w) + w),
                (r * 0.76 - w, h * 0.34 + w),
                (r * 0.96 - w, h * 0.72),
                (r - w * 0.9, h),
            ]
        )
        return lathe([*outer, *inner[::-1]], AROUND)
