"""What is told of a ray of light that was followed."""

from dataclasses import asdict, dataclass, field


@dataclass
class RayStep:
    """A straight way and what it ends at. Lengths in cm, angles in degrees to the normal, places about the middle of the stage. A way
    through a coat has no length."""

    start_cm: list[float]
    end_cm: list[float]
    length_cm: float
    medium: str
    object: str
    event: str
    """enters, leaves, passes, totally reflected, reflected, is scattered, ends at ... or goes out"""
    angle_deg: float | None
    angle_beyond_deg: float | None
    index_before: float
    index_beyond: float | None
    reflectance: float | None
    left: float
    """Share of the light left after the step and its boundary."""


@dataclass
class Ray:
    """A way of light at one wavelength, from the eye's end."""

    wavelength_nm: float
    steps: list[RayStep] = field(default_factory=list)
    left: float = 1.0

    def as_json(self) -> dict:
        return asdict(self)

    def branch(self) -> "Ray":
        return Ray(self.wavelength_nm, list(self.steps), self.left)
