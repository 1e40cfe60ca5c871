"""What is said to the web is what the schema says that it is, for everything in the demo."""

import json
from dataclasses import asdict

from django.conf import settings
from django.test import SimpleTestCase
from nineglass.documents.model import Material, Stage, read
from nineglass.gauges import Reading
from nineglass.gauges.bench import read_bench
from nineglass.trace.follow import fan_of, through_pixel
from nineglass.trace.scene import build_set
from pydantic import ValidationError
from tests.lengths import LONG

from live.messages import ASKED, SAID, Followed


def documents(format: str) -> dict[str, dict]:
    found = {path.stem: json.loads(path.read_text()) for path in sorted(settings.DEMO_DIR.glob("*.json"))}
    return {name: one for name, one in found.items() if one["format"] == format}


class Said(SimpleTestCase):
    def test_what_is_read_of_every_material_of_the_demo(self):
        on = read(Stage, documents("nineglass.stage")["window-bench"])
        for name, given in documents("nineglass.material").items():
            with self.subTest(material=name):
                material = read(Material, given)
                said = read_bench(Reading(material, on, build_set(material, on).compiled))
                again = SAID["reading"].model_validate({"type": "reading", **json.loads(json.dumps(said))})
                self.assertEqual(len(again.section.bands), len(said["section"]["bands"]))
                self.assertEqual({gauge.name for gauge in again.gauges}, {gauge["name"] for gauge in said["gauges"]})

    def test_the_ways_of_light_through_every_stage_of_the_demo(self):
        material = read(Material, documents("nineglass.material")["rock-crystal"])
        for name, given in documents("nineglass.stage").items():
            with self.subTest(stage=name):
                the_set = build_set(material, read(Stage, given), waits=LONG)
                rays = fan_of(the_set, *through_pixel(the_set, 0.5, 0.5))
                said = Followed(x=0.5, y=0.5, rays=[{**ray.as_json(), "drawn": [None]} for ray in rays])
                self.assertEqual(
                    [asdict(step) for step in said.rays[0].steps], [asdict(step) for step in rays[0].steps]
                )


class Asked(SimpleTestCase):
    RIGHT = (
        {
            "type": "show",
            "sequence": 1,
            "material": {},
            "stage": {},
            "settings": {},
            "inside": "",
            "room": None,
            "part": None,
        },
        {"type": "look", "smoothed": True, "stops": False},
        {"type": "shown"},
        {"type": "keep", "request": "a"},
        {"type": "hold", "slip": ""},
        {"type": "bracket", "module": "", "part": "a", "dial": "b", "values": [1, [0.5, 0.5, 0.5], "even"]},
    )

    def test_what_is_understood(self):
        for one in self.RIGHT:
            self.assertEqual(ASKED.validate_python(one).model_dump(exclude_unset=True), one)

    def test_what_is_not(self):
        show, _, _, keep, hold, bracket = self.RIGHT
        wrong = (
            *({}, {"type": "other"}, {"type": ["show"]}, [], None, "shown"),
            *(show | change for change in ({"sequence": -1}, {"sequence": 1.5}, {"sequence": True}, {"stage": []})),
            *(show | change for change in ({"inside": "x" * 1001}, {"material": None}, {"settings": "none"})),
            *(
                {key: value for key, value in show.items() if key != left_out}
                for left_out in show
                if left_out not in ("room", "part")
            ),
            *(keep | {"request": 1}, hold | {"slip": None}, bracket | {"values": "1"}),
        )
        for one in wrong:
            with self.subTest(message=one), self.assertRaises(ValidationError):
                ASKED.validate_python(one)
