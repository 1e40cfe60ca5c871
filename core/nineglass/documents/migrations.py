"""Older versions of the documents, brought up step by step; each step says what it changed.

A new version is one function here: it takes the parsed JSON of one version and gives that of the next, with its report.
"""

import copy
from collections.abc import Callable


def migrated(given) -> tuple[object, list[str]]:
    """The newest form of a parsed document, and one line for each thing that was changed; what is malformed stays as it is."""
    report: list[str] = []
    try:
        while isinstance(given, dict) and (step := STEPS.get((given.get("format"), given.get("version")))):
            given, lines = step(copy.deepcopy(given))
            report += lines
    except (AttributeError, KeyError, TypeError):
        return given, report
    return given, report


def _stage_with_objects(stage: dict) -> tuple[dict, list[str]]:
    """Version 1 had one form, and lamps that the camera saw by a dial of theirs."""
    report = ["form: is now the object 'form', with the material on the bench"]
    if "form" in stage:
        stage["objects"] = [{"id": "form", "form": stage.pop("form")}]
    for i, lamp in enumerate(stage.get("lamps") or []):
        seen = lamp.get("dials", {}).pop("seen_by_camera", False)
        lamp |= {"id": f"lamp_{i + 1}", "seen": {"camera": seen, "reflections": True, "shadows": True}}
        report.append(f"lamps[{i}]: has the id {lamp['id']!r}; 'seen by camera' moved from its dials to 'seen'")
    return stage | {"version": 2}, report


RENAMED = {("random_tiles", "tilt"): "turn"}
NEVER_HEEDED = {("film_color", "ior"), ("film_color", "beyond"), ("wavelength_band", "width")}
"""Dials (kind of slip, dial) that version 1 called otherwise, and those that it let wires end at without heeding them."""


def _material_with_modules(material: dict) -> tuple[dict, list[str]]:
    """Version 1 knew neither modules nor mounts; it called one dial otherwise and took a few wires that it did not heed."""
    report = ["modules, mounts: there were none yet"]
    kinds = {slip.get("id"): slip.get("kind") for slip in material.get("slips") or []}
    for i, slip in enumerate(material.get("slips") or []):
        for name in [name for name in slip.get("dials") or {} if (slip["kind"], name) in RENAMED]:
            new = RENAMED[slip["kind"], name]
            slip["dials"][new] = slip["dials"].pop(name)
            report.append(f"slips[{i}].dials: {name!r} is now called {new!r}")
    kept = []
    for i, wire in enumerate(material.get("wires") or []):
        target = wire["target"]
        about = (kinds.get(target["part"]), target["dial"])
        if about in NEVER_HEEDED:
            report.append(
                f"wires[{i}]: taken off; what it brought to {about[1]!r} of {target['part']!r} was never heeded"
            )
            continue
        target["dial"] = RENAMED.get(about, about[1])
        kept.append(wire)
    report.append("all the rest is as it was")
    return material | {"version": 2} | ({"wires": kept} if "wires" in material else {}), report


def _settings_with_long_paths(settings: dict) -> tuple[dict, list[str]]:
    """Version 1 let light bounce 16 times unless it was told otherwise, which darkens frosted matter."""
    if settings.get("most_bounces", 16) != 16:
        return settings | {"version": 2}, ["most_bounces: kept"]
    return {name: value for name, value in settings.items() if name != "most_bounces"} | {"version": 2}, [
        "most_bounces: was 16, is now 128"
    ]


STEPS: dict[tuple, Callable[[dict], tuple[dict, list[str]]]] = {
    ("nineglass.stage", 1): _stage_with_objects,
    ("nineglass.material", 1): _material_with_modules,
    ("nineglass.settings", 1): _settings_with_long_paths,
}
