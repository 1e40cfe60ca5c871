"""Older versions of the documents, brought up step by step; each step says what it changed.

A new version is one function here: it takes the parsed JSON of one version and gives that of the next, with its report.
"""

import copy
from collections.abc import Callable


def migrated(given) -> tuple[object, list[str]]:
    """The newest form of a parsed document, and one line for each thing that was changed."""
    report: list[str] = []
    while isinstance(given, dict) and (step := STEPS.get((given.get("format"), given.get("version")))):
        given, lines = step(copy.deepcopy(given))
        report += lines
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


def _material_with_modules(material: dict) -> tuple[dict, list[str]]:
    """Version 1 knew neither modules nor mounts; nothing else changed."""
    return material | {"version": 2}, ["modules, mounts: there were none yet; all the rest is as it was"]


STEPS: dict[tuple, Callable[[dict], tuple[dict, list[str]]]] = {
    ("nineglass.stage", 1): _stage_with_objects,
    ("nineglass.material", 1): _material_with_modules,
}
