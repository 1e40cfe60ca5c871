from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.vessels import Filled, outline


@FORMS.kind(title="Beaker", family="vessel")
class Beaker(Filled):
    """A straight thin-walled beaker with a rolled rim."""

    diameter = dial(6, 1, 30, hard=(0.1, 1000), unit="cm", scale="log", ends=("small", "large"))
    height = dial(9, 1, 40, hard=(0.1, 1000), unit="cm", scale="log", ends=("low", "tall"))
    wall = dial(0.18, 0.03, 1, hard=(0.005, 50), unit="cm", scale="log", ends=("thin", "heavy"))

    def outlines(self, dials):
        """The outer and the inner outline, (n, 2) radius and height in m."""
        r, h = dials["diameter"] / 200, dials["height"] / 100
        w = min(dials["wall"] / 100, r * 0.25, h * 0.15)
        outer = outline([(0, 0), (r * 0.86, 0), (r * 0.97, h * 0.025), (r, h * 0.08), (r, h * 0.93), (r + w * 0.5, h * 0.965),
                         (r + w * 1.1, h * 0.985), (r + w * 0.7, h)])  # fmt: skip
        inner = outline([(0, w * 1.3), (r * 0.8, w * 1.35), (r - w * 1.4, w * 1.3 + h * 0.03), (r - w, h * 0.1), (r - w, h * 0.93), (r - w * 0.6, h * 0.97),
                         (r + w * 0.2, h)])  # fmt: skip
        return outer, inner
