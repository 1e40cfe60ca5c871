from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, lathe


@FORMS.kind(title="Rod", family="solid")
class Rod:
    """A round rod, upright."""

    diameter = dial(1, 0.1, 10, hard=(0.001, 1000), unit="cm", scale="log", ends=("thread", "pillar"))
    length = dial(12, 1, 60, hard=(0.01, 10000), unit="cm", scale="log", ends=("stub", "long"))

    def mesh(self, dials) -> Mesh:
        r, h = dials["diameter"] / 200, dials["length"] / 100
        e = min(r * 0.08, h * 0.1)
        return lathe([(0, 0), (r - e, 0), (r, e), (r, h - e), (r - e, h), (0, h)], around=96)
