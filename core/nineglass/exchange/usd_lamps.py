"""Lamps of a stage as lights of OpenUSD, and back. Source: UsdLux. Lengths are in cm, the unit of the stages that are written here.

The light of a lamp is what the picture has as 1 at exposure 0: renderers take an intensity of 1 so.
"""

from dataclasses import dataclass
from math import atan2, degrees, hypot, pi, radians, sin

import numpy as np

from nineglass.catalogue import LAMPS
from nineglass.documents.model import Lamp
from nineglass.exchange.report import Report
from nineglass.lamps.light import DISC, POINT, RECTANGLE, SPHERE, SUN, Light, light_of
from nineglass.spectra.lamp_light import white_of
from nineglass.spectra.observer import rgb_of

CM = 100.0
POINT_RADIUS_CM = 0.1
"""Of a point lamp: renderers know none, and take a very small ball."""

SHAPED = ("spot", "photometric")


def put_place(made, axes, offset) -> None:
    """Have a prim stand somewhere. axes: (3, 3) its axes as rows; offset in cm."""
    from pxr import Gf, UsdGeom

    place = Gf.Matrix4d(1)
    for k, row in enumerate((*axes, offset)):
        place.SetRow(k, Gf.Vec4d(*map(float, row), float(k == 3)))
    UsdGeom.Xformable(made).AddTransformOp().Set(place)


def put_lamp(stage, path: str, lamp: Lamp, report: Report, ies: str | None) -> None:
    """ies: the name of its photometric file beside the stage."""
    from pxr import Gf, UsdGeom, UsdLux

    about = LAMPS.kinds[lamp.kind]
    dials = about.defaults() | lamp.dials
    light = light_of(about, dials)
    made = _OUTLINES[light.shape](stage, path, light)
    api = UsdLux.LightAPI(made)
    color = np.array(light.color)
    if light.spectrum is None:
        api.CreateColorTemperatureAttr(float(light.kelvin))
    else:
        color = np.maximum(rgb_of(white_of(light.kelvin, light.spectrum)), 0) * color
        report.add("nearly", f"Lamp {lamp.name or lamp.id}", "its spectrum as the colour that it has in Rec.709")
    api.CreateEnableColorTemperatureAttr(light.spectrum is None)
    api.CreateColorAttr(Gf.Vec3f(*map(float, color)))
    toward = light.centre / max(float(np.linalg.norm(light.centre)), 1e-12)
    side = np.array([toward[2], 0, -toward[0]])
    side = side / np.linalg.norm(side) if np.linalg.norm(side) > 1e-9 else np.array([1.0, 0, 0])
    put_place(made, (side, np.cross(toward, side), toward), light.centre * (0 if light.shape == SUN else CM))
    if not lamp.on:
        UsdGeom.Imageable(made).MakeInvisible()
    if lamp.kind in SHAPED:
        _shape(made, lamp.kind, dials, light, ies)
        report.add("nearly", f"Lamp {lamp.name or lamp.id}", "its beam by the shaping of UsdLux")
    report.add("exactly" if light.shape != POINT else "nearly", f"Lamp {lamp.name or lamp.id}", "place, size, light")
    if lamp.lights is not None:
        report.add("not", f"Lamp {lamp.name or lamp.id}", "what it lights alone: it lights everything there")


def _shape(made, kind: str, dials: dict, light: Light, ies: str | None) -> None:
    from pxr import Sdf, UsdLux

    shaping = UsdLux.ShapingAPI.Apply(made.GetPrim())
    if kind == "spot":
        shaping.CreateShapingConeAngleAttr(float(dials["cone"]) / 2)
        shaping.CreateShapingConeSoftnessAttr(float(dials["edge"]))
        UsdLux.LightAPI(made).GetIntensityAttr().Set(float(light.radiance * light.beam[0].mean()))
    elif ies:
        shaping.CreateShapingIesFileAttr(Sdf.AssetPath(f"./{ies}"))


def _rectangle(stage, path: str, light: Light):
    from pxr import UsdLux

    made = UsdLux.RectLight.Define(stage, path)
    made.CreateWidthAttr(float(2 * CM * np.linalg.norm(light.across)))
    made.CreateHeightAttr(float(2 * CM * np.linalg.norm(light.up)))
    made.CreateIntensityAttr(float(light.radiance))
    return made


def _disc(stage, path: str, light: Light):
    from pxr import UsdLux

    made = UsdLux.DiskLight.Define(stage, path)
    made.CreateRadiusAttr(float(CM * np.linalg.norm(light.across)))
    made.CreateIntensityAttr(float(light.radiance))
    return made


def _sphere(stage, path: str, light: Light):
    from pxr import UsdLux

    made = UsdLux.SphereLight.Define(stage, path)
    made.CreateRadiusAttr(CM * float(light.spread))
    made.CreateIntensityAttr(float(light.radiance))
    return made


def _point(stage, path: str, light: Light):
    from pxr import UsdLux

    made = UsdLux.SphereLight.Define(stage, path)
    made.CreateRadiusAttr(POINT_RADIUS_CM)
    made.CreateTreatAsPointAttr(True)
    made.CreateIntensityAttr(float(light.radiance) / (pi * (POINT_RADIUS_CM / CM) ** 2))
    return made


def _sun(stage, path: str, light: Light):
    from pxr import UsdLux

    made = UsdLux.DistantLight.Define(stage, path)
    made.CreateAngleAttr(degrees(2 * light.spread))
    made.CreateIntensityAttr(float(light.radiance))
    return made


_OUTLINES = {RECTANGLE: _rectangle, DISC: _disc, SPHERE: _sphere, POINT: _point, SUN: _sun}


@dataclass(frozen=True)
class LightRead:
    """A light as a file has it: its outline, its dials of size in cm, its radiance, where it is (cm, about the middle of the stage; of a sun the
    way to it), and the way that it looks."""

    kind: str
    sizes: dict
    radiance: float
    place: np.ndarray
    looks: np.ndarray
    kelvin: float
    color: tuple[float, float, float]
    name: str


def read_light(prim, place: np.ndarray, turned: np.ndarray, cm: float) -> LightRead | None:
    """place: in cm; turned: (3, 3) its axes as rows; cm: of one unit of the file. None for a light of another outline."""
    from pxr import UsdLux

    api = UsdLux.LightAPI(prim)
    intensity = float(api.GetIntensityAttr().Get() or 0) * 2 ** float(api.GetExposureAttr().Get() or 0)
    kelvin = float(api.GetColorTemperatureAttr().Get() or 6500) if api.GetEnableColorTemperatureAttr().Get() else 6500.0
    color = tuple(float(v) for v in api.GetColorAttr().Get() or (1, 1, 1))
    looks = -turned[2]
    if prim.IsA(UsdLux.RectLight):
        light = UsdLux.RectLight(prim)
        sizes = {"width": cm * light.GetWidthAttr().Get(), "height": cm * light.GetHeightAttr().Get()}
        kind, area = "rectangle", sizes["width"] * sizes["height"]
    elif prim.IsA(UsdLux.DiskLight):
        sizes = {"diameter": 2 * cm * UsdLux.DiskLight(prim).GetRadiusAttr().Get()}
        kind, area = "disc", pi * sizes["diameter"] ** 2 / 4
        if (cone := UsdLux.ShapingAPI(prim).GetShapingConeAngleAttr().Get()) and cone < 89:
            kind, sizes = "spot", sizes | {"cone": 2 * float(cone)}
            sizes["edge"] = float(UsdLux.ShapingAPI(prim).GetShapingConeSoftnessAttr().Get() or 0)
    elif prim.IsA(UsdLux.SphereLight):
        sizes = {"diameter": 2 * cm * UsdLux.SphereLight(prim).GetRadiusAttr().Get()}
        kind, area = "sphere", pi * sizes["diameter"] ** 2
    elif prim.IsA(UsdLux.DistantLight):
        sizes = {"diameter": float(UsdLux.DistantLight(prim).GetAngleAttr().Get() or 0.53)}
        kind, area, place = "sun", 1.0, -looks
    else:
        return None
    if api.GetNormalizeAttr().Get():
        intensity /= max(area / CM**2 if kind != "sun" else pi * sin(radians(sizes["diameter"] / 2)) ** 2, 1e-12)
    return LightRead(kind, sizes, intensity, place, looks, kelvin, color, prim.GetName())


def lamp_of(read: LightRead, number: int, report: Report) -> Lamp:
    """The lamp of ours that comes nearest: it looks at the middle of the stage."""
    about = LAMPS.kinds[read.kind]
    x, y, z = read.place
    distance = float(np.linalg.norm(read.place))
    dials = {"azimuth": degrees(atan2(x, z)), "elevation": degrees(atan2(y, hypot(x, z)))} | read.sizes
    dials |= {"kelvin": read.kelvin, "color": list(read.color)}
    strength = "irradiance" if read.kind == "sun" else "power"
    if read.kind != "sun":
        dials["distance"] = distance
        off = degrees(np.arccos(np.clip(read.looks @ -read.place / max(distance, 1e-9), -1, 1)))
        if read.kind != "sphere" and off > 1:
            report.add("nearly", f"Light {read.name}", "it looks at the middle of the stage", f"{off:.0f} degrees off")
    dials = {name: _held(about.dials[name], value) for name, value in dials.items()}
    one = about.make().light(about.defaults() | dials | {strength: 1.0})
    dials[strength] = _held(about.dials[strength], read.radiance / one.radiance)
    report.add("exactly", f"Light {read.name}", f"as a {about.title.lower()}")
    return Lamp(id=f"lamp_{number}", name=read.name[:120], kind=read.kind, dials=dials)


def _held(dial, value):
    """Within what the dial can be."""
    if dial.type != "number":
        return value
    low = dial.low if dial.hard_low is None else dial.hard_low
    high = dial.high if dial.hard_high is None else dial.hard_high
    return float(min(max(value, low), high))
