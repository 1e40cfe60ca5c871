from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.vessels import Filled, outline


@FORMS.kind(title="Squat jar", family="vessel")
class SquatJar(Filled):
    """A low jar with round shoulders and a thick floor, as for ink."""

    diameter = dial(7, 1, 30, hard=(0.1, 1000), unit="cm", scale="log", ends=("vial", "crock"))
    height = dial(6, 1, 30, hard=(0.1, 1000), unit="cm", scale="log", ends=("low", "tall"))
    wall = dial(0.4, 0.05, 2, hard=(0.005, 50), unit="cm", scale="log", ends=("thin", "heavy"))

    def outlines(self, dials):
        """The outer and the inner outline, (n, 2) radius and height in m."""
        r, h = dials["diameter"] / 200, dials["height"] / 100
        w = min(dials["wall"] / 100, r * 0.25, h * 0.15)
        neck = r * 0.62
        outer = outline([(0, 0), (r * 0.8, 0), (r * 0.97, h * 0.06), (r, h * 0.2), (r, h * 0.52), (r * 0.93, h * 0.68),
                         (neck + w, h * 0.82), (neck, h * 0.88), (neck, h * 0.94), (neck + w * 0.6, h * 0.97), (neck + w * 0.4, h)])  # fmt: skip
        inner = outline([(0, w * 1.6), (r * 0.72, w * 1.65), (r - w * 1.5, w * 2.2), (r - w, h * 0.24), (r - w, h * 0.5), (r * 0.93 - w, h * 0.655),
                         (neck + w * 0.1, h * 0.78), (neck - w, h * 0.86), (neck - w, h * 0.95), (neck - w * 0.8, h)])  # fmt: skip
        return outer, inner
