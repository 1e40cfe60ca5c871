from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.vessels import Filled, outline


@FORMS.kind(title="Bottle", family="vessel")
class Bottle(Filled):
    """A thin-walled bottle with a pushed-up floor and a long neck."""

    diameter = dial(7.5, 1, 30, hard=(0.1, 1000), unit="cm", scale="log", ends=("phial", "carboy"))
    height = dial(22, 2, 60, hard=(0.1, 1000), unit="cm", scale="log", ends=("low", "tall"))
    wall = dial(0.25, 0.03, 1, hard=(0.005, 50), unit="cm", scale="log", ends=("thin", "heavy"))

    def outlines(self, dials):
        """The outer and the inner outline, (n, 2) radius and height in m."""
        r, h = dials["diameter"] / 200, dials["height"] / 100
        w = min(dials["wall"] / 100, r * 0.15, h * 0.1)
        neck = max(r * 0.36, 2.2 * w)
        outer = outline([(0, 0), (r * 0.84, 0), (r * 0.97, h * 0.012), (r, h * 0.04), (r, h * 0.56), (r * 0.9, h * 0.64),
                         (neck * 1.15, h * 0.75), (neck, h * 0.82), (neck * 0.94, h * 0.95), (neck + w * 0.7, h * 0.96), (neck + w * 0.7, h * 0.985),
                         (neck + w * 0.3, h)])  # fmt: skip
        inner = outline([(0, w * 1.5), (r * 0.76, w * 1.6), (r - w * 1.6, w * 1.6 + h * 0.012), (r - w, h * 0.05), (r - w, h * 0.555), (r * 0.9 - w, h * 0.635),
                         (neck * 1.15 - w, h * 0.745), (neck - w, h * 0.82), (neck * 0.94 - w, h * 0.95), (neck * 0.96 - w, h)])  # fmt: skip
        return outer, inner
