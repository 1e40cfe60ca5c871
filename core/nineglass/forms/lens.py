import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, lathe


@FORMS.kind(title="Ring-stepped lens", family="solid")
class RingLens:
    """A lighthouse lens: a round middle and prism rings about it, each with the slope that sends light to one focus."""

    diameter = dial(12, 2, 60, hard=(0.1, 1000), unit="cm", scale="log", ends=("small", "large"))
    focal_length = dial(
        14, 3, 100, hard=(0.5, 10000), unit="cm", scale="log", ends=("near", "far"), help="For index 1.52."
    )
    rings = dial(6, 1, 20, hard=(0, 40), label="Rings", ends=("one", "many"))
    base = dial(0.6, 0.1, 3, hard=(0.01, 100), label="Thinnest", unit="cm", scale="log", ends=("thin", "thick"))

    DESIGN_INDEX = 1.52

    def mesh(self, dials) -> Mesh:
        radius, base, rings = dials["diameter"] / 200, dials["base"] / 100, round(dials["rings"])
        return _upright(lathe(self._profile(radius, dials["focal_length"] / 100, base, rings), around=128))

    def _profile(self, radius: float, focus: float, base: float, rings: int) -> list:
        """Back face flat; each ring of the front falls with the slope of the plano-convex lens and steps back to its height."""
        edges = radius * np.linspace(0.34 if rings else 1.0, 1, rings + 1)
        inner = np.concatenate([[0.0], edges[:-1]])
        front = []
        for near, far in zip(inner[::-1], edges[::-1], strict=True):
            r = np.linspace(far, near, 14)
            sag = self._sag(r, focus)
            front += list(zip(r, base + self._sag(far, focus) - sag, strict=True))
        return [(0.0, 0.0), (radius, 0.0), *front]

    def _sag(self, r, focus: float):
        """Depth below the vertex of the aspheric front that brings parallel light to a focus beyond a flat back.

        A conic of eccentricity n seen from inside the glass would do so within it; here the thin plano-convex form is used:
        curvature 1 / ((n - 1) f), conic constant -1 / n^2. Source: Hecht, Optics, 5th ed., 5.2.
        """
        c, k = 1 / ((self.DESIGN_INDEX - 1) * focus), -1 / self.DESIGN_INDEX**2
        inside = np.maximum(1 - (1 + k) * c * c * r * r, 1e-3)
        return c * r * r / (1 + np.sqrt(inside))


def _upright(mesh: Mesh) -> Mesh:
    """Stood on its edge, its front towards the viewer."""
    turn = np.array([[1, 0, 0], [0, 0, -1], [0, 1, 0]], np.float32)
    return Mesh(mesh.vertices @ turn.T, mesh.normals @ turn.T, mesh.faces)
