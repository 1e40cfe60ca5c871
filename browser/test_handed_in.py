"""Sittings that end in what is handed in: finals that go on, a full turn, a key, a film that plays."""

import io
import itertools
import json
import re

import numpy as np
from PIL import Image
from tests.lengths import LONG

from browser.sittings import Handing, demo_stage

ABOUT = ["web/src/pictures", "server/pictures"]


class CrystalGroup(Handing):
    """One crystal, its index from a group, on three forms of different size; one made fifty times smaller looks like water until its absorption
    follows; a coarse final, and a fine one that goes on from it."""

    most_samples = 6

    CRYSTAL = {
        "name": "Crystal",
        "section": {
            "bands": [
                {"id": "interface", "kind": "interface", "dials": {"transmission_dispersion_scale": 1}},
                {
                    "id": "interior",
                    "kind": "interior",
                    "dials": {"transmission_color": [0.75, 0.9, 0.85], "transmission_depth": 4},
                },
            ]
        },
        "slips": [{"id": "group", "kind": "module", "module": "index", "at": [60, 80], "dials": {"index": 1.55}}],
        "wires": [
            {"source": {"slip": "group", "port": "out"}, "target": {"part": "interface", "dial": "specular_ior"}}
        ],
        "modules": [
            {
                "id": "index",
                "name": "Index",
                "slips": [{"id": "number", "kind": "number", "at": [40, 40], "dials": {"value": 1.5}}],
                "dials": [{"name": "index", "label": "Index", "target": {"part": "number", "dial": "value"}}],
                "gives": [{"name": "out", "source": {"slip": "number"}}],
            }
        ],
    }

    def test_all_three_follow_and_a_fine_final_goes_on_from_a_coarse_one(self):
        forms = ((-7, 7), (1, 5), (7, 3.2))
        stage = demo_stage("window-bench")
        stage |= {"name": "Three crystals", "floor": stage["floor"]}
        stage["objects"] = [
            {
                "id": f"ball_{k}",
                "name": f"Ball {k}",
                "form": {"kind": "ball", "dials": {"diameter": size}},
                "at": [x, 0, 0],
            }
            for k, (x, size) in enumerate(forms)
        ]
        self.keep_stage(stage)
        page = self.lay(self.CRYSTAL, "Three crystals")
        before = self.pixels()
        group = page.get_by_role("article", name="Index")
        group.click(position={"x": 20, "y": 8})
        index = group.get_by_role("slider", name="Index")
        self.change(lambda: self.type_into(index, "2.2"), samples=6)
        moved = np.abs(self.pixels() - before).mean(axis=(0, 2))
        third = len(moved) // 3
        for k in range(3):
            self.assertGreater(moved[k * third : (k + 1) * third].max(), 0.02, f"form {k} follows the group")
        self.turn("Interface", "Dispersion", "3")
        self.go("Stage")
        cards = page.get_by_role("region", name="The chosen part")
        for k, (_, size) in enumerate(forms):
            page.get_by_role("region", name="Objects").get_by_role("button", name=f"Ball {k}").first.click()
            diameter = cards.get_by_role("slider", name="Diameter")
            self.change(lambda diameter=diameter, size=size: self.type_into(diameter, f"{size / 50:g}"))
        self.wait_for_picture(samples=6)
        self.go("Bench")
        self.find_note("looks like plain water")
        self.change(lambda: page.get_by_role("button", name=re.compile("Set the depth to")).click())
        for _ in range(4):
            page.keyboard.press("Control+z")
        self.wait_for_picture(samples=3)
        page.keyboard.press("Control+s")
        page.get_by_text(", saved").wait_for()
        coarse_noise = 40 if LONG else 60
        self.order(96 if LONG else 64, noise=coarse_noise)
        self.done()
        self.assertIn(f"of {coarse_noise} % wanted", self.facts())
        coarse = self.samples_told()
        wanted = 7 if LONG else float(f"{0.6 * self.noise_told():.2g}")
        self.set_number("Go on until noise is, %", wanted)
        self.pictures.get_by_role("button", name="Go on").click()
        self.pictures.get_by_text(f"of {wanted:g} % wanted").wait_for()
        self.done()
        self.assertGreater(self.samples_told(), coarse, "the second goes on from the first")

    def noise_told(self) -> float:
        return float(self.facts().split("noise left")[1].split("%")[0])

    def samples_told(self) -> float:
        return float(re.search(r"samples\s+([\d.]+)", self.facts())[1])


class TwistedBar(Handing):
    """A twisted bar of glass whose fan has three chosen colours; scratches by a picture catch the light; a lighting picture that the camera does not
    see; film-like; a full turn without a seam; fringe and glare; cut out so that what is behind shows through."""

    most_samples = 6

    BAR = {
        "name": "Bar",
        "section": {
            "bands": [
                {
                    "id": "interface",
                    "kind": "interface",
                    "dials": {
                        "specular_ior": 1.62,
                        "transmission_dispersion_scale": 4,
                        "fan": "recoloured",
                        "fan_colors": [[0, [1, 0.1, 0.05]], [0.5, [1, 0.8, 0.1]], [1, [0.1, 0.3, 1]]],
                    },
                },
                {"id": "interior", "kind": "interior", "dials": {}},
            ]
        },
        "slips": [
            {"id": "lie", "kind": "place_2d", "at": [0, 40], "dials": {"times_across": 0.8}},
            {"id": "marks", "kind": "picture", "title": "Scratches", "at": [230, 40], "dials": {"source": "scratches"}},
            {
                "id": "rough",
                "kind": "remap",
                "at": [430, 40],
                "dials": {"to_high": 0.5, "from_high": 0.8, "from_low": 0.18},
            },
        ],
        "wires": [
            {"source": {"slip": "lie"}, "target": {"part": "marks", "dial": "coordinates"}},
            {"source": {"slip": "marks", "port": "grey"}, "target": {"part": "rough", "dial": "value"}},
            {"source": {"slip": "rough"}, "target": {"part": "interface", "dial": "specular_roughness"}},
        ],
    }

    def test_it_turns_without_a_seam_and_is_laid_over_another_picture(self):
        stage = demo_stage("window-bench")
        picture = {"kind": "lighting_picture", "dials": {"picture_of": "studio", "strength": 1.5}}
        behind = {"kind": "plain", "dials": {"color": [0.02, 0.02, 0.02], "strength": 1}}
        stage |= {"name": "Bar stand", "surround": {"light": picture, "camera": behind}, "floor": None, "view": "film"}
        stage["objects"] = [{"id": "bar", "form": {"kind": "twisted_bar"}, "turn": 10}]
        self.keep_stage(stage)
        page = self.lay(self.BAR, "Bar stand")
        self.wait_for_picture(samples=6)
        self.assertLess(float(self.at(0.04, 0.04).max()), 0.15, "the camera does not see the lighting picture")
        scratched = self.pixels()
        remap = page.get_by_role("article", name="Remap")
        remap.click(position={"x": 20, "y": 8})
        fade = remap.get_by_role("slider", name="To, up to")
        self.change(lambda: self.type_into(fade, "0"), samples=6)
        self.assertGreater(np.abs(self.pixels() - scratched).mean(), 0.003, "scratches catch the light")
        page.keyboard.press("Control+z")
        self.go("Stage")
        page.get_by_role("region", name="Around").get_by_role("button", name="surround", exact=True).click()
        page.get_by_label("Cut out in saved pictures").check()
        page.get_by_label("What is laid behind shows through clear matter").check()
        page.keyboard.press("Control+s")
        page.get_by_text(", saved").wait_for()
        self.moves(6 if LONG else 3)
        self.order(80 if LONG else 64, samples=6 if LONG else 4)
        self.done()
        frames = [one.astype(float) for one in self.video()]
        steps = [np.abs(a - b).mean() for a, b in itertools.pairwise([*frames, frames[0]])]
        self.assertLess(
            steps[-1], 1.6 * max(steps[:-1]), "the step from the last frame to the first is like every other"
        )
        self.pictures.get_by_role("radio", name="one picture").click()
        self.order(128, samples=32 if LONG else 12)
        self.done()
        self.finish_it()
        png = self.png()
        over_red, over_white = (
            png[..., :3] * png[..., 3:] + (1 - png[..., 3:]) * np.array(c) for c in ([1, 0, 0], [1, 1, 1])
        )
        self.assertEqual(png[:3, :3, 3].max(), 0)
        through = png[48:80, 48:80, 3].mean()
        self.assertTrue(0.1 < through < 0.95, f"what is behind shows through the glass ({through})")
        np.testing.assert_allclose(over_red[:3, :3], [[[1, 0, 0]]] * np.ones((3, 3, 1)))
        self.assertGreater(over_white.min(axis=2)[:3, :3].min(), 0.999)

    def finish_it(self):
        """Fringe and glare, kept with the picture."""
        self.pictures.get_by_role("button", name="finish", exact=True).click()
        panel = self.page.get_by_role("region", name="Finish", exact=True)
        panel.get_by_label("Finish of this picture").select_option(label="a new one")
        for step, dial, text in (("Lens fringe", "Blue over red", "1"), ("Bloom and glare", "Amount", "0.15")):
            panel.get_by_role("checkbox", name=step).click()
            slider = panel.get_by_role("group", name=step).get_by_role("slider", name=dial)
            self.type_into(slider, text)
        self.until(lambda: self.worn() == {"fringe", "bloom"}, "it is handed out with both")

    def worn(self) -> set[str]:
        """The steps of the finish with which the picture was handed out."""
        finish = json.loads(Image.open(io.BytesIO(self.handed_out())).text["nineglass"])["finish"]
        return {step["kind"] for step in finish["steps"]} if finish else set()


class GlowOfAFilm(Handing):
    """A black glossy form under a film, cool lamps about it; thickness swept until the colours sing; a portrait lens; bloom keeps the light; the
    thickness is animated, and the video plays."""

    most_samples = 8

    FILM = {
        "name": "Film on black",
        "section": {
            "bands": [
                {"id": "film", "kind": "film", "dials": {"thin_film_thickness": 20, "thin_film_ior": 1.6}},
                {"id": "interface", "kind": "interface", "dials": {"specular_ior": 2.4, "specular_roughness": 0.1}},
                {"id": "body", "kind": "body", "dials": {"base_color": [0.01, 0.01, 0.01]}},
            ]
        },
    }

    def test_colours_by_thickness_in_a_video(self):
        stage = demo_stage("window-bench")
        lamp = {
            "kind": "rectangle",
            "dials": {"width": 40, "height": 40, "power": 8, "kelvin": 9000, "elevation": 25, "distance": 60},
        }
        places = {"left": -90, "right": 90, "back": 180, "front": 20}
        stage["lamps"] = [
            lamp | {"id": name, "name": name, "dials": lamp["dials"] | {"azimuth": at}} for name, at in places.items()
        ]
        dark = {"kind": "plain", "dials": {"color": [0.02, 0.02, 0.02], "strength": 1}}
        lens = {"focal_length": 110, "f_stop": 4, "distance": 60}
        camera = stage["camera"] | {"dials": stage["camera"]["dials"] | lens}
        stage |= {"name": "Four lamps", "surround": {"light": dark}, "floor": None, "camera": camera}
        stage["objects"] = [{"id": "form", "form": {"kind": "drop"}}]
        self.keep_stage(stage)
        page = self.lay(self.FILM, "Four lamps")
        colors = []
        for thickness in ("20", "300", "480"):
            self.turn("Film", "Thickness", thickness, samples=8)
            pixels = self.pixels()
            lit = pixels[pixels.sum(axis=2) > 0.5]
            colors.append(lit.mean(axis=0) / lit.mean())
        self.assertGreater(np.abs(colors[0] - colors[1]).max() + np.abs(colors[1] - colors[2]).max(), 0.15, colors)
        page.keyboard.press("Control+s")
        page.get_by_text(", saved").wait_for()
        self.moves(4)
        self.pictures.get_by_label("Drive a dial over time").select_option(label="Thickness")
        self.pictures.get_by_role("button", name="take it off").first.click()
        self.order(96, samples=10)
        self.done()
        page = self.page
        page.wait_for_function("() => document.querySelector('video')?.readyState >= 3")
        frames = [one.astype(float) for one in self.video()]
        hues = [one[one.sum(axis=2) > 120].mean(axis=0) for one in frames]
        apart = [np.abs(a / a.mean() - b / b.mean()).max() for a, b in itertools.pairwise(hues)]
        self.assertGreater(max(apart), 0.1, "the colours change with the thickness")
        self.pictures.get_by_role("button", name="finish", exact=True).click()
        panel = page.get_by_role("region", name="Finish", exact=True)
        panel.get_by_label("Finish of this picture").select_option(label="a new one")
        panel.get_by_role("checkbox", name="Bloom and glare").click()
        seen = page.get_by_role("img", name="with its finish")
        mean = lambda: np.asarray(  # noqa: E731
            Image.open(io.BytesIO(self.context.request.get(self.url + seen.get_attribute("src")).body())), float
        )
        before = mean()
        slider = panel.get_by_role("group", name="Bloom and glare").get_by_role("slider", name="Amount")
        self.type_into(slider, "0.3")
        page.wait_for_function("() => document.querySelector('img[alt*=\"its finish\"]').src.includes('0.3')")
        dark = before < 50
        self.until(lambda: mean()[dark].mean() > before[dark].mean(), "light is spread into the dark")
        self.assertLess(mean().max(), before.max() + 1)
