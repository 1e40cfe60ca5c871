"""Trials: one material in many pictures. An axis says what is turned from picture to picture, and what each of its steps is called."""

import colorsys
from collections.abc import Callable
from dataclasses import replace
from typing import Annotated, Any, Literal, get_args

import numpy as np
from pydantic import Field

from nineglass.catalogue import BANDS, CAMERAS, FORMS, LAMPS, SLIPS, SURROUNDS
from nineglass.describe import Fault, Kind, Refused
from nineglass.documents.model import Document, Id, Material, Name, Part, Stage, Versioned, faults_of, read
from nineglass.documents.modules import kinds_of_modules
from nineglass.spectra.srgb import decode, encode

ON_STAGE = "stage:"
"""Before the path of a part of the stage, as in `stage:lamps.0`."""

CHANNELS = {"hue": (0.0, 0.8), "saturation": (0.15, 1.0), "brightness": (0.2, 1.0)}
"""What of a colour as a screen shows it may be turned, 0 to 1, and over what range it usually is. Source: Smith 1978, Color Gamut
Transform Pairs."""

MOST_ALONG = 12
Condition = Literal[
    "as it is", "form turned", "lamps turned", "more light", "less light", "half the size", "twice the size"
]
Channel = Literal["", "hue", "saturation", "brightness"]
Path = Annotated[str, Field(max_length=200)]


class DialAxis(Document):
    """One dial of the material or the stage at several values."""

    kind: Literal["dial"] = "dial"
    module: Path = ""
    """The module that the slip is in; none for the material itself."""
    part: Path
    """A band or slip, or `stage:` and the path of a part of the stage."""
    dial: Id
    channel: Channel = ""
    """Of a colour: which of it is turned."""
    values: Annotated[list[Any], Field(min_length=1, max_length=MOST_ALONG)]
    label: Annotated[str, Field(max_length=120)] = ""
    unit: Annotated[str, Field(max_length=16)] = ""

    def steps(self) -> list[str]:
        return [_said(value, self.unit) for value in self.values]

    def at(self, step: int, material: Material, stage: Stage) -> tuple[Material, Stage]:
        value = self.values[step]
        if self.part.startswith(ON_STAGE):
            return material, turned_on_stage(stage, self.part.removeprefix(ON_STAGE), self.dial, value, self.channel)
        return turned(material, self.module, self.part, self.dial, value, self.channel), stage


class StagesAxis(Document):
    """The material on several stages."""

    kind: Literal["stages"] = "stages"
    stages: Annotated[list[Stage], Field(min_length=1, max_length=MOST_ALONG)]
    label: Annotated[str, Field(max_length=120)] = "stage"

    def steps(self) -> list[str]:
        return [stage.name for stage in self.stages]

    def at(self, step: int, material: Material, stage: Stage) -> tuple[Material, Stage]:
        return material, self.stages[step]


class MaterialsAxis(Document):
    """Several materials on one stage."""

    kind: Literal["materials"] = "materials"
    materials: Annotated[list[Material], Field(min_length=1, max_length=MOST_ALONG)]
    label: Annotated[str, Field(max_length=120)] = ""

    def steps(self) -> list[str]:
        return [material.name for material in self.materials]

    def at(self, step: int, material: Material, stage: Stage) -> tuple[Material, Stage]:
        return self.materials[step], stage


class StandsUpAxis(Document):
    """What a material has to stand: its form turned, the lamps turned, more and less light, other sizes."""

    kind: Literal["stands up"] = "stands up"
    values: Annotated[list[Condition], Field(min_length=1, max_length=MOST_ALONG)] = list(get_args(Condition))
    label: Annotated[str, Field(max_length=120)] = ""

    def steps(self) -> list[str]:
        return list(self.values)

    def at(self, step: int, material: Material, stage: Stage) -> tuple[Material, Stage]:
        return material, CONDITIONS[self.values[step]](stage)


Axis = Annotated[DialAxis | StagesAxis | MaterialsAxis | StandsUpAxis, Field(discriminator="kind")]


class Trial(Versioned):
    """A strip of pictures along one axis, or a sheet of them along two."""

    format: Literal["nineglass.trial"] = "nineglass.trial"
    version: Literal[1] = 1
    name: Name = "Trial"
    material: Material
    stage: Stage
    across: Axis
    down: Axis | None = None

    @property
    def columns(self) -> int:
        return len(self.across.steps())

    @property
    def rows(self) -> int:
        return len(self.down.steps()) if self.down else 1

    @property
    def count(self) -> int:
        return self.rows * self.columns

    def documents_at(self, k: int, material: Material, stage: Stage) -> tuple[Material, Stage]:
        """Of the k-th picture, row by row; as every series gives them, but of its own material and stage. Raises Refused."""
        return self.cell(*divmod(k, self.columns))

    def rank(self, k: int, samples: int) -> tuple:
        """What is worked on first, the lowest: all evenly."""
        return samples, k

    def cell(self, row: int, column: int) -> tuple[Material, Stage]:
        """The documents of one picture. Raises Refused."""
        material, stage = self.material, self.stage
        if self.down:
            material, stage = self.down.at(row, material, stage)
        return self.across.at(column, material, stage)


def _said(value, unit: str) -> str:
    said = f"{value:.4g}" if isinstance(value, int | float) and not isinstance(value, bool) else str(value)
    return f"{said} {unit}".strip()


def with_channel(color: list[float], channel: str, value: float) -> list[float]:
    """A linear colour with its hue, saturation or brightness set, 0 to 1."""
    own = list(colorsys.rgb_to_hsv(*np.clip(encode(np.array(color, float)), 0, 1)))
    own[list(CHANNELS).index(channel)] = min(max(float(value), 0.0), 1.0)
    return [float(v) for v in decode(np.array(colorsys.hsv_to_rgb(*own)))]


def _set(one: dict, kind: Kind, dial: str, value, channel: str) -> None:
    about = kind.dials.get(dial)
    if about is None:
        raise Refused([Fault(dial, f"{kind.title} has no such dial", "a dial of it", "Choose another dial.")])
    if channel:
        if about.type != "color":
            raise Refused([Fault(dial, f"{about.label} has no {channel}", "a colour", "Choose another dial.")])
        value = with_channel(one["dials"].get(dial, about.default), channel, value)
    one["dials"][dial] = value


def _absent(path: str) -> Refused:
    return Refused([Fault(path, "there is no such part", "a part with dials", "Choose another dial.")])


def turned(material: Material, module: str, part: str, dial: str, value, channel: str = "") -> Material:
    """A material with a dial of a slip or band set, in a module or not; a wire into it gives way. Raises Refused."""
    given = material.model_dump(mode="json")
    network = next((one for one in given["modules"] if one["id"] == module), given)
    kinds, found = kinds_of_modules(material.modules), None
    for one in [*given["section"]["bands"], *network["slips"]]:
        if one["id"] == part:
            kind = (
                kinds[one["module"]] if one.get("module") else BANDS.kinds.get(one["kind"]) or SLIPS.kinds[one["kind"]]
            )
            found = one, kind
    if found is None:
        raise _absent(part)
    _set(*found, dial, value, channel)
    network["wires"] = [w for w in network["wires"] if (w["target"]["part"], w["target"]["dial"]) != (part, dial)]
    return read(Material, given)


ROLES = {"objects": FORMS, "lamps": LAMPS, "surround": SURROUNDS, "camera": CAMERAS}


def turned_on_stage(stage: Stage, path: str, dial: str, value, channel: str = "") -> Stage:
    """A stage with a dial of one of its parts set. Raises Refused."""
    given = stage.model_dump(mode="json")
    found = given
    for step in path.split("."):
        try:
            found = found[int(step) if isinstance(found, list) else step]
        except (KeyError, IndexError, ValueError, TypeError):
            found = None
    if not isinstance(found, dict) or "dials" not in found:
        raise _absent(path)
    kinds = ROLES.get(path.split(".", maxsplit=1)[0])
    if kinds and found["kind"] in kinds.kinds:
        _set(found, kinds.kinds[found["kind"]], dial, value, channel)
    else:
        found["dials"][dial] = value
    return read(Stage, given)


FORM_TURN_DEG, LAMP_TURN_DEG, STOPS = 60, 90, 1.5


def _form_turned(stage: Stage) -> Stage:
    return stage.model_copy(update={"turn": stage.turn + FORM_TURN_DEG})


def lamps_turned(stage: Stage, degrees: float) -> Stage:
    lamps = [part_turned(lamp, LAMPS.kinds[lamp.kind], degrees) for lamp in stage.lamps]
    return stage.model_copy(update={"lamps": lamps})


def part_turned(part: Part, kind: Kind, degrees: float):
    """Something with a direction, turned about the middle of the stage; anything else as it is."""
    own = kind.defaults() | part.dials
    name = next((one for one in ("azimuth", "turn") if one in own), None)
    return _with_dials(part, {name: (own[name] + degrees + 180) % 360 - 180}) if name else part


def exposure_of(stage: Stage) -> float:
    """EV."""
    return (CAMERAS.kinds[stage.camera.kind].defaults() | stage.camera.dials)["exposure"]


def _exposed(stops: float):
    def changed(stage: Stage) -> Stage:
        return stage.model_copy(update={"camera": _with_dials(stage.camera, {"exposure": exposure_of(stage) + stops})})

    return changed


def _sized(times: float):
    """All lengths of forms, and how far the camera is away, times a factor, within what they may be."""

    def changed(stage: Stage) -> Stage:
        objects = [
            one.model_copy(
                update={
                    "form": _with_dials(one.form, _lengths(FORMS.kinds[one.form.kind], one.form, times)),
                    "at": tuple(times * v for v in one.at),
                }
            )
            for one in stage.objects
        ]
        camera = _with_dials(stage.camera, _lengths(CAMERAS.kinds[stage.camera.kind], stage.camera, times))
        return stage.model_copy(update={"objects": objects, "camera": camera})

    return changed


def _with_dials(part: Part, dials: dict) -> Part:
    return part.model_copy(update={"dials": part.dials | dials})


def _lengths(kind: Kind, part: Part, times: float) -> dict:
    lengths = {name: about for name, about in kind.dials.items() if about.type == "number" and about.unit == "cm"}
    given = {name: part.dials.get(name, about.default) for name, about in lengths.items()}
    return {name: min(max(times * given[name], about.hard_low), about.hard_high) for name, about in lengths.items()}


CONDITIONS: dict[Condition, Callable[[Stage], Stage]] = {
    "as it is": lambda stage: stage,
    "form turned": _form_turned,
    "lamps turned": lambda stage: lamps_turned(stage, LAMP_TURN_DEG),
    "more light": _exposed(STOPS),
    "less light": _exposed(-STOPS),
    "half the size": _sized(0.5),
    "twice the size": _sized(2.0),
}
"""What a material is shown under when it is asked whether it stands up."""


def read_trial(given) -> Trial:
    """A checked trial; raises Refused with every fault found in it, its material and its stages."""
    trial = read(Trial, given)
    documents = [("material", trial.material), ("stage", trial.stage)]
    for name, axis in (("across", trial.across), ("down", trial.down)):
        if isinstance(axis, StagesAxis):
            documents += [(f"{name}.stages[{i}]", stage) for i, stage in enumerate(axis.stages)]
        if isinstance(axis, MaterialsAxis):
            documents += [(f"{name}.materials[{i}]", one) for i, one in enumerate(axis.materials)]
    faults = [replace(fault, path=f"{path}.{fault.path}") for path, one in documents for fault in faults_of(one)]
    if faults:
        raise Refused(faults)
    return trial
