"""Sittings of a look-development artist, told from the first line to the last on the real interface."""

import io
import json
import re

import numpy as np
from materials import services
from nineglass.documents import model as documents
from nineglass.documents.model import read
from nineglass.network.grids import our_file
from PIL import Image
from playwright.sync_api import expect
from stages.models import Stage
from tests.lengths import LONG

from browser.case import SIDE, PixelCase
from browser.sittings import LUMINANCE, Handing, Scattering, colorful, demo_stage

ABOUT = ["core/nineglass/documents/bands", "core/nineglass/trace/families", "web/src/section"]

STEEL = {
    "name": "Burnt steel",
    "section": {
        "bands": [
            {"id": "coat", "kind": "coat"},
            {"id": "metal", "kind": "metal", "dials": {"substance": "iron", "specular_roughness": 0.15}},
        ]
    },
    "slips": [
        {"id": "facing", "kind": "facing", "at": [40, 40]},
        {
            "id": "ramp",
            "kind": "color_ramp",
            "at": [280, 40],
            "dials": {
                "stops": [
                    [0, [0.05, 0.1, 0.5]],
                    [0.4, [0.4, 0.08, 0.3]],
                    [0.7, [0.7, 0.35, 0.05]],
                    [1, [0.9, 0.85, 0.7]],
                ]
            },
        },
    ],
    "wires": [
        {"source": {"slip": "facing"}, "target": {"part": "ramp", "dial": "at"}},
        {"source": {"slip": "ramp"}, "target": {"part": "coat", "dial": "coat_color"}},
    ],
}
"""Iron under a coat that facing colours through a ramp."""


class BurntSteel(PixelCase):
    """Metal under a coat that is coloured by facing through a ramp; the true film beside it."""

    most_samples = 8

    def form(self, samples=4) -> np.ndarray:
        """The middle of the picture, where the form is."""
        self.wait_for_picture(samples=samples)
        return self.pixels()[150:330, 150:330]

    def test_it_is_coloured_steepened_turned_over_made_paler_and_set_beside_the_film(self):

        services.create(self.person, read(documents.Material, STEEL))
        page = self.page = self.open_bench()
        page.get_by_role("combobox", name="material").select_option(label="Burnt steel")
        self.band("Coat").wait_for()
        coat = (
            self.band("Coat")
            .get_by_role("switch", name="Coat on")
            .or_(self.band("Coat").get_by_role("checkbox", name="Coat on"))
        )
        self.wait_for_picture()
        self.change(lambda: coat.click())
        bare = self.form()
        self.change(lambda: coat.click())
        colored = self.form()
        self.assertGreater(colorful(colored), colorful(bare) + 0.15, "the ramp's colours lie on the metal")
        facing = page.get_by_role("article", name="Facing")
        facing.click(position={"x": 20, "y": 8})
        page.keyboard.press("h")
        held = page.get_by_test_id("held")
        held.wait_for()
        self.assertRegex(held.inner_text(), r"held up: 0(\.\d+)? to (1|0\.99)", "the raw range of facing, unlit")
        page.keyboard.press("h")
        held.wait_for(state="detached")
        self.change(lambda: self.type_into(facing.get_by_role("slider", name="Gain"), "0.9"))
        self.assertGreater(np.abs(self.form() - colored).mean(), 0.01, "a steeper slope moves the rings of colour")
        steep = self.form()
        self.change(lambda: facing.get_by_label("Invert").click())
        turned = self.form()
        middle, rim = np.s_[80:100, 80:100], np.s_[:20, 80:100]
        self.assertGreater(
            np.abs(turned[middle] - steep[middle]).mean() + np.abs(turned[rim] - steep[rim]).mean(), 0.05
        )
        self.change(lambda: self.type_into(self.band("Coat").get_by_role("slider", name="Amount"), "0.2"))
        self.assertLess(colorful(self.form()), 0.7 * colorful(turned), "a weaker coat is paler")
        self.change(lambda: page.get_by_role("button", name="Replace or remove Coat").click())
        self.change(lambda: page.get_by_role("button", name="+ film", exact=True).click())
        film = self.band("Film")
        self.change(lambda: self.type_into(film.get_by_role("slider", name="Index"), "2.3"))
        self.change(lambda: self.type_into(film.get_by_role("slider", name="Thickness"), "48"))
        straw = self.form(8)
        self.change(lambda: self.type_into(film.get_by_role("slider", name="Thickness"), "68"))
        blue = self.form(8)
        # Temper colours: a thinner oxide is straw (red over blue), a thicker one blue.
        warm = [float((one[..., 0] - one[..., 2]).mean()) for one in (straw, blue)]
        self.assertGreater(warm[0], warm[1] + 0.02)
        page.get_by_role("tab", name="Film").wait_for()


def spread(rgb: np.ndarray) -> float:
    """How much of a part of the picture is clearly coloured."""
    return float((rgb.max(axis=-1) - rgb.min(axis=-1) > 0.12).mean())


class SlitOfLight(PixelCase):
    """A clear form, a narrow lamp behind it, everything else dark: the fan on the table; then what shows of glass against white."""

    TABLE = np.s_[190:310, 0:240]
    """Where the fan falls."""

    def dial(self, name, value, samples=4):
        self.change(lambda: self.type_into(self.page.get_by_role("slider", name=name).first, value), samples=samples)

    def choose(self, role, label, option, samples=4):
        box = self.page.get_by_role(role, name=label)
        self.change(lambda: box.first.select_option(label=option), samples=samples)

    def edges(self) -> float:
        """How far the form stands out from what is around it."""
        return float((self.pixels() @ LUMINANCE).std())

    def test_the_fan_shows_by_a_narrow_lamp_and_glass_by_what_is_dark(self):
        page = self.page
        page.get_by_role("combobox", name="material").select_option(label="Signal prism")
        page.get_by_text("Signal prism", exact=True).last.wait_for()
        self.wait_for_picture()
        self.change(lambda: page.get_by_role("combobox", name="stage").select_option(label="Prism in a slit of sun"), 1)
        self.dial("Dispersion", "0")
        white = spread(self.pixels()[self.TABLE])
        self.dial("Dispersion", "1")
        narrow = spread(self.pixels()[self.TABLE])
        self.assertGreater(narrow, white + 0.03, "the fan shows on the table")
        self.go("Stage")
        page.locator("section[aria-label=Lamps] li button[aria-pressed]").first.click()
        self.dial("Diameter", "30")
        broad = spread(self.pixels()[self.TABLE])
        self.assertLess(broad, 0.4 * narrow, "a broad lamp lays its colours over one another")
        page.get_by_text("they lie over one another and look white").wait_for()
        self.dial("Diameter", "0.53")
        self.assertGreater(spread(self.pixels()[self.TABLE]), 0.7 * narrow, "a narrow one brings the fan back")
        for name in ("Left board", "Right board", "Sun", "Sky"):
            page.get_by_role("button", name=f"Remove {name}").click()
        page.get_by_role("button", name="floor", exact=True).click()
        page.get_by_label("A floor").click()
        page.get_by_role("button", name="surround", exact=True).click()
        self.choose("combobox", "Kind", "Plain")
        self.dial("Strength", "1", samples=2)
        self.assertLess(self.edges(), 0.01, "before white all round the glass vanishes")
        self.change(lambda: page.get_by_label("Reflections see another").click(), samples=4)
        self.assertGreater(self.edges(), 0.1, "a dark surround that only reflections see brings the edges back")
        self.go("Bench")
        clear = self.pixels() @ LUMINANCE
        self.dial("Roughness", "0.3")
        frosted = self.pixels() @ LUMINANCE
        self.assertLess(
            np.abs(np.diff(frosted, axis=1)).mean(), 0.8 * np.abs(np.diff(clear, axis=1)).mean(), "frosted is soft"
        )


class ClearToCeramic(PixelCase):
    """One form from clear through milky to ceramic on one dial's travel; then the same told by its colour and mean free path."""

    def form(self) -> np.ndarray:
        self.wait_for_picture(samples=3)
        return self.pixels()[200:330, 150:270]

    def test_one_dial_goes_all_the_way_and_the_gauges_tell_it(self):
        page = self.page
        self.wait_for_picture()
        expect(page.get_by_role("tab", name="Slab"), "clear matter has no gauge of scattering").to_have_count(0)
        scattering = self.band("Interior").get_by_role("slider", name="Scattering", exact=True)
        looks = []
        for amount in ("0", "3", "300"):
            self.change(lambda amount=amount: self.type_into(scattering, amount))
            looks.append(self.form().mean(axis=-1))
        clear, milky, ceramic = (float(np.abs(np.diff(one, axis=1)).mean()) for one in looks)
        self.assertLess(milky, 0.7 * clear, "what stands behind is veiled")
        self.assertLess(ceramic, 0.7 * clear, "and then gone")
        self.assertGreater(float(np.abs(looks[2] - looks[1]).mean()), 0.02, "ceramic is not milky")
        page.get_by_role("tab", name="Slab").click()
        page.get_by_text("A slab as thick as the form reflects").wait_for()
        page.get_by_role("tab", name="Mean free path").click()
        page.get_by_text("until it is scattered").first.wait_for()
        page.get_by_role("tab", name="Phase").click()
        page.get_by_test_id("polar").wait_for()
        self.change(lambda: self.type_into(scattering, "0.0005"))
        page.get_by_text("nothing of it is seen").wait_for()


class FourWays(Scattering):
    """One form four times, each ruby in its own way, a strip of light behind: what shines through, and what scatters."""

    most_samples = 24

    BALLS = {"tint": 0.19, "body colour": 0.4, "absorption": 0.6, "scattering": 0.81}

    def test_light_from_behind_tells_them_apart(self):
        self.stand("Ruby, scattering")
        self.wait_for_picture(samples=24)
        low = {name: self.at(x, 0.56) for name, x in self.BALLS.items()}
        high = {name: self.at(x, 0.46) for name, x in self.BALLS.items()}
        self.assertLess(high["body colour"].max(), 0.35, "body colour keeps its back to the light")
        self.assertGreater(high["scattering"][0], 1.5 * high["body colour"][0], "what scatters glows")
        self.assertGreater(colorful(high["scattering"][None]), 0.8, "in its own colour")
        for name in ("tint", "absorption"):
            self.assertGreater(
                np.abs(high[name] - low[name]).max(), 0.15, f"{name}: the lamp and the dark are seen through it"
            )
        even = np.abs(high["scattering"] - low["scattering"]).max()
        self.assertLess(even, 0.15, "what scatters shows nothing behind it")
        before = high["scattering"]
        self.turn("Interior", "Scattering", "0.05")
        self.assertGreater(np.abs(self.at(0.81, 0.56) - self.at(0.81, 0.46)).max(), 0.15, "hardly any, and it is glass")
        self.turn("Interior", "Scattering", "200", samples=24)
        self.assertLess(self.at(0.81, 0.46)[0], 0.6 * before[0], "a short mean free path keeps the light out")
        self.page.get_by_role("tab", name="Mean free path").click()
        self.page.get_by_text("until it is scattered").first.wait_for()


class Tooth(Scattering):
    """Dark root to cream tip by a ramp along the form, into colour and mean free path; light from behind; the cheap way beside it."""

    most_samples = 16

    def test_its_tip_glows_and_its_root_does_not(self):
        page = self.page
        self.stand("Whale tooth")
        self.wait_for_picture(samples=16)
        tip, root = self.at(0.38, 0.2), self.at(0.55, 0.82)
        self.assertGreater(tip.sum(), 1.4 * root.sum())
        page.keyboard.press("k")
        page.get_by_role("button", name="Proof 1").wait_for()
        self.turn("Subsurface", "From behind", "0", samples=16)
        dark = self.at(0.38, 0.2)
        self.assertLess(dark.sum(), 0.9 * tip.sum(), "without what comes from behind the tip is dull")
        self.turn("Subsurface", "From behind", "1")
        self.turn("Subsurface", "Amount", "0")
        cheap = self.at(0.38, 0.2)
        self.assertLess(cheap.sum(), 0.8 * tip.sum(), "body colour lets nothing through")
        page.keyboard.press("\\")
        page.get_by_test_id("proof-picture").wait_for()
        page.keyboard.press("\\")
        page.get_by_test_id("proof-picture").wait_for(state="detached")


class Vases(Scattering):
    """A vase coloured by a tint beside one coloured by absorption; depth from inky to pale; a trace of scattering, milky, ceramic."""

    FLOOR, BELLY, TINTED_FLOOR, TINTED_BELLY = (0.668, 0.715), (0.668, 0.56), (0.332, 0.715), (0.332, 0.56)

    def depth_of_color(self, place: tuple[float, float]) -> float:
        """Blue over red."""
        red, _, blue = self.at(*place, half=4)
        return float(blue / max(red, 1e-3))

    def test_three_looks_on_one_dial(self):
        page = self.page
        self.stand("Blue vase")
        absorbs = self.depth_of_color(self.FLOOR) / self.depth_of_color(self.BELLY)
        tinted = self.depth_of_color(self.TINTED_FLOOR) / self.depth_of_color(self.TINTED_BELLY)
        self.assertGreater(absorbs, 1.5 * tinted, "only what absorbs is deeper where it is thick")
        self.turn("Interior", "at depth", "0.3")
        inky = self.at(*self.BELLY)
        self.turn("Interior", "at depth", "20")
        pale = self.at(*self.BELLY)
        self.assertGreater(pale.sum(), 1.3 * inky.sum())
        self.assertLess(colorful(pale[None]), 0.5 * colorful(inky[None]))
        self.turn("Interior", "at depth", "2")
        seen_through = []
        for amount in ("0", "2", "100"):
            self.turn("Interior", "Scattering", amount)
            pixels = self.pixels()
            row = slice(int(0.45 * len(pixels)), int(0.72 * len(pixels)))
            column = slice(int(0.6 * pixels.shape[1]), int(0.74 * pixels.shape[1]))
            seen_through.append(float(np.abs(np.diff(pixels[row, column].mean(axis=-1), axis=1)).mean()))
        clear, milky, ceramic = seen_through
        self.assertLess(milky, clear, "a milky rim is soft")
        self.assertLess(ceramic, 0.8 * clear)
        page.get_by_role("tab", name="Slab").click()
        page.get_by_text("A slab as thick as the form reflects").wait_for()


class SignalLamp(Scattering):
    """A ruby cover about a lamp before a clear reflector: by absorption, by tint and by body colour; square and edge-on."""

    most_samples = 8

    CORE, RIM = (0.55, 0.46), (0.7, 0.46)

    def core_over_rim(self) -> float:
        return float(self.at(*self.CORE)[0] / self.at(*self.RIM)[0])

    def test_only_absorption_has_a_pale_core_and_a_deep_rim(self):
        page = self.page
        self.stand("Signal cover, ruby")
        self.wait_for_picture(samples=8)
        polished = self.pixels()
        self.turn("Interface", "Roughness", "0.3", samples=8)
        frosted = self.pixels()
        sharp, soft = (np.abs(np.diff(one[140:240, 150:270].mean(axis=-1))).mean() for one in (polished, frosted))
        self.assertLess(soft, 0.8 * sharp, "lamp and cover merge")
        absorbs, square = self.core_over_rim(), self.at(*self.CORE).sum()
        self.go("Stage")
        page.get_by_role("button", name="camera", exact=True).click()
        azimuth = page.get_by_role("slider", name="Azimuth")
        self.change(lambda: self.type_into(azimuth, "85"), samples=4)
        self.assertLess(self.at(*self.CORE).sum(), 0.7 * square, "edge-on it is darker")
        self.change(lambda: self.type_into(azimuth, "0"), samples=4)
        self.go("Bench")
        self.paint(self.band("Interior"), "Transmission colour", "#ffffff")
        self.paint(self.band("Interface"), "Surface tint", "#e06058")
        tinted = self.core_over_rim()
        self.assertGreater(absorbs, 1.2 * tinted, "a tint is as deep wherever light goes in")
        self.paint(self.band("Interface"), "Surface tint", "#ffffff")
        self.change(lambda: page.get_by_role("button", name="+ body colour", exact=True).click(), samples=4)
        self.paint(self.band("Body colour"), "Colour", "#d02020")
        self.assertLess(self.core_over_rim(), 2, "body colour lets no lamp through")


class ThinAndThick(Scattering):
    """The same syrup thin and thick: orange and deep red; spent and fresh by a step of its depth."""

    def hue(self, x: float, y: float) -> float:
        """Green over red: 0 is deep red, more is orange."""
        rgb = self.at(x, y)
        return float(rgb[1] / max(rgb[0], 1e-3))

    def test_thin_is_orange_and_thick_is_red(self):
        self.stand("Rosehip syrup")
        thin, thick = self.hue(0.61, 0.58), self.hue(0.8, 0.6)
        self.assertGreater(thin, thick + 0.12)
        self.assertGreater(colorful(self.at(0.8, 0.6)[None]), 1.0)
        self.turn("Interior", "Concentration", "0.3")
        self.assertGreater(self.hue(0.61, 0.58), thin + 0.05, "spent: what was orange turns yellow")
        self.turn("Interior", "Concentration", "3")
        self.assertLess(self.hue(0.61, 0.58), thin - 0.05, "fresh: what was orange turns red")
        self.turn("Interior", "Concentration", "0.1")
        self.turn("Interior", "at depth", "20")
        larger = self.page.get_by_role("combobox", name="stage")
        self.change(lambda: larger.select_option(label="Cordial, ten times as large"), samples=3)
        self.assertAlmostEqual(self.hue(0.61, 0.58), thin, delta=0.06, msg="ten times the size, ten times the depth")
        self.assertAlmostEqual(self.hue(0.8, 0.6), thick, delta=0.06)


class HarbourFog(Scattering):
    """Fog about the whole stage, the camera in it: banks by noise through a ramp, thinner and thicker, and what gauges and notes say."""

    def test_banks_thinner_and_thicker(self):
        page = self.page
        self.stand("Harbour fog")
        self.assertGreater(
            self.at(0.5, 0.24).mean(), self.at(0.5, 0.85).mean() + 0.05, "beams of the lamps stand in it"
        )
        page.get_by_text(re.compile(r"driven 0(\.\d+)? to")).first.wait_for()
        banks = self.pixels()[40:200].mean(axis=-1)
        self.turn("Interior", "Scattering", "0")
        clear = self.pixels()[40:200].mean(axis=-1)
        self.assertLess(clear.mean(), 0.8 * banks.mean(), "without scattering there are no beams")
        self.turn("Interior", "Scattering", "0.55")
        self.turn("Interior", "at depth", "1")
        page.get_by_text("it is black, or its own colour").wait_for()
        self.change(lambda: page.get_by_role("button", name="Set the depth to").click())
        page.get_by_text("it is black, or its own colour").wait_for(state="detached")
        page.get_by_role("tab", name="Phase").click()
        page.get_by_test_id("polar").wait_for()
        self.band("Interior").get_by_label("Turns as").select_option("droplets")
        page.get_by_role("slider", name="Droplets").wait_for()


class Mixing(Scattering):
    """Soot laid into the fog: a second medium on the other side of a split, mixed in by its mask."""

    BEAM = (0.62, 0.33)

    def test_soot_in_the_fog(self):
        page = self.page
        self.stand("Harbour fog")
        beam = self.at(*self.BEAM)
        page.get_by_role("button", name="+ split", exact=True).click()
        page.get_by_label("Side of interior").select_option("first")
        self.change(lambda: page.get_by_role("button", name="+ interior second").click(), samples=3)
        mask = self.band("Split").get_by_role("slider", name="Mask", exact=True)
        self.change(lambda: self.type_into(mask, "1"), samples=3)
        self.assertLess(self.at(*self.BEAM).sum(), 0.8 * beam.sum(), "the second is nothing yet: no beam stands in it")
        self.change(lambda: self.type_into(mask, "0.5"), samples=3)
        half = self.at(*self.BEAM)
        soot = page.get_by_role("region", name="Interior", exact=True).last
        for dial, text in (("at depth", "40"), ("Scattering", "0.5")):
            slider = soot.get_by_role("slider", name=dial, exact=True)
            self.change(lambda slider=slider, text=text: self.type_into(slider, text))
        self.paint(soot, "Transmission colour", "#a07850", samples=3)
        brown = self.at(*self.BEAM)
        self.assertGreater(brown[0] / brown[2], 1.15 * half[0] / half[2], "soot takes the blue")


class OpenSea(Handing):
    """Water to the horizon under a low sun: blue-green by what scatters in it, the deep not black; crests that fold are told."""

    def test_the_deep_is_not_black(self):
        page, near = self.page, (0.5, 0.9)
        self.stand("Open sea")
        sea = self.at(*near, half=16)
        self.turn("Interior", "Scattering", "0")
        black = self.at(*near, half=16)
        self.assertLess(black.sum(), 0.9 * sea.sum(), "without scattering only the sky is seen in it")
        self.turn("Interior", "Scattering", "0.6")
        most = self.at(*near, half=16)
        self.assertGreater(min(most[1:] / most[0]), 2, "at its most it is blue-green")
        self.turn("Interior", "Scattering", "0.06")
        self.go("Stage")
        page.get_by_role("button", name="Sea", exact=True).click()
        wind = page.get_by_role("slider", name="Wind")
        choppiness = page.get_by_role("slider", name="Choppiness")
        self.change(lambda: self.type_into(wind, "12"), samples=3)
        self.change(lambda: self.type_into(choppiness, "2.5"), samples=3)
        self.go("Bench")
        page.get_by_text("crests fold over themselves").wait_for()
        self.moves(3)
        self.pictures.get_by_label("a loop without a seam").uncheck()
        self.pictures.get_by_label("Drive a dial over time").select_option(value="stage: time")
        self.pictures.get_by_role("button", name="take it off").first.click()
        self.set_number("Stage: Time, value", 0)
        self.order(96, samples=4)
        self.done()
        frames = [one.astype(float) for one in self.video()]
        self.assertEqual(len(frames), 3)
        water = [one[len(one) * 2 // 3 :] for one in frames]
        self.assertGreater(np.abs(water[0] - water[2]).mean(), 2, "the waves have moved on")


class ChimneyAndWick(Scattering):
    """A file of grids opened and read; density through a hard ramp; a flame by black body and by ramp, blown out and held; its ghost."""

    most_samples = 8

    def put_in_a_grid(self):
        """Our own smoke as somebody else's file."""
        slip = self.page.locator("[data-slip=read]")
        slip.locator("header").click()
        slip.get_by_label("Grid").first.select_option("file")
        file = {"name": "plume.vdb", "mimeType": "application/octet-stream", "buffer": our_file("chimney smoke")}
        self.change(lambda: slip.get_by_label("Put in a grid").set_input_files(file), samples=1)
        return slip

    def test_a_file_of_grids_is_read(self):
        page = self.page
        self.stand("Chimney smoke")
        smoke = self.pixels()[30:150, 60:170].mean()
        slip = self.put_in_a_grid()
        slip.get_by_text("105 × 144 × 83 voxels").first.wait_for()
        expect(slip.get_by_text("temperature in K")).to_have_count(1)
        self.wait_for_picture(samples=3)
        self.assertAlmostEqual(float(self.pixels()[30:150, 60:170].mean()), float(smoke), delta=0.02)
        channel = slip.get_by_label("Channel")
        self.change(lambda: channel.fill("steam"), samples=1)
        self.find_note("there is no grid 'steam' in it; it holds density, temperature")
        self.assertLess(abs(self.pixels()[60:120, 60:110] - self.pixels()[60:120, 10:60]).mean(), 0.05, "no smoke")
        broken = {"name": "broken.vdb", "mimeType": "application/octet-stream", "buffer": b"no grid" * 20}
        slip.get_by_label("Put in a grid").set_input_files(broken)
        page.get_by_text("not an OpenVDB file").wait_for()
        self.assertTrue(all("422" in one for one in self.errors), self.errors)
        self.errors.clear()

    def test_a_flame_and_its_ghost(self):
        page = self.page
        self.stand("Wick flame")
        flame = self.at(0.35, 0.5)
        self.assertGreater(flame[0], flame[2] + 0.05, "warm")
        page.get_by_role("tab", name="Light").click()
        page.get_by_text("1 cm has a luminance of").wait_for()
        self.turn("Flame", "At most", "1000")
        self.turn("Flame", "Luminance", "60")
        self.find_note("nothing but white is left of it")
        self.change(lambda: page.get_by_role("button", name="Hold it at").click())
        self.turn("Flame", "Luminance", "1.6")
        self.find_note("A lamp of")
        page.keyboard.press("g")
        noisy = self.grain()
        self.change(lambda: page.get_by_role("button", name="Let a ghost lamp light in its place").click())
        self.assertLess(self.grain(), 0.6 * noisy, "what the lamp lights has less noise")
        self.assertFalse(self.band("Flame").get_by_label("Lights what is around").is_checked())
        page.get_by_role("link", name="Stage").click()
        page.get_by_text("Ghost of the flame").first.wait_for()

    def grain(self) -> float:
        """How much neighbouring pixels of the table differ, over their mean."""
        self.wait_for_picture(samples=8)
        table = self.pixels()[325:355, 60:300].mean(axis=-1)
        return float(np.abs(np.diff(table, axis=1)).mean() / table.mean())


class BrushAndPelt(Handing):
    """Strands on a form: far too shiny, brought down; coloured as the skin beneath them; the second highlight tinted; 300,000 of them."""

    most_samples = 8

    def spots(self) -> float:
        """How much neighbouring places in the middle of the pelt differ, of their luminance."""
        high, wide, _ = (pixels := self.pixels()).shape
        middle = (pixels @ LUMINANCE)[int(0.35 * high) : int(0.7 * high), int(0.3 * wide) : int(0.65 * wide)]
        rows, columns = middle.shape[0] // 6, middle.shape[1] // 6
        blocks = middle[: 6 * rows, : 6 * columns].reshape(rows, 6, columns, 6).mean(axis=(1, 3))
        return float(np.abs(np.diff(np.log(blocks))).mean())

    def all_have_grown(self):
        self.page.wait_for_function(
            "() => !document.querySelector('[data-testid=facts]').textContent.includes('strands')"
        )
        self.wait_for_picture(samples=2)

    def test_a_pelt_takes_the_pattern_of_its_skin(self):
        page, band = self.page, self.band("Strands")
        self.stand("Otter pelt")
        self.all_have_grown()
        page.get_by_role("tab", name="Strand").wait_for()
        page.get_by_test_id("lobes").wait_for()
        self.turn("Strands", "Highlight", "1", samples=8)
        notes = page.get_by_role("region", name="Bench notes")
        self.find_note("hair and fur show a few percent")
        shiny = self.pixels().mean()
        self.change(lambda: notes.get_by_role("button", name=re.compile("Set the highlight")).click(), samples=8)
        self.assertLess(self.pixels().mean(), shiny, "less is mirrored from the surface")

        pattern = self.spots()
        self.change(lambda: band.get_by_label("Colour from").select_option(label="pigment"))
        self.assertLess(self.spots(), 0.6 * pattern, "one pigment all over")
        self.change(lambda: self.place("As the skin"))
        page.get_by_text("Colour of the skin").first.wait_for()
        self.assertGreater(self.spots(), 0.85 * pattern, "the pattern of the skin is back")

        before = self.pixels().reshape(-1, 3).mean(axis=0)
        self.paint(band, "Second tint", "#2040ff", samples=2)
        after = self.pixels().reshape(-1, 3).mean(axis=0)
        self.assertGreater(after[2] / after[0], before[2] / before[0], "what is mirrored within is bluer")

    def test_all_of_them_stand_in_a_final(self):
        self.stand("Otter pelt")
        self.all_have_grown()
        self.wait_for_picture(samples=8)
        self.go("Pictures")
        self.pictures = self.page.get_by_role("region", name="Pictures")
        self.pictures.get_by_text("by the picture on the bench").wait_for()
        self.order(96, samples=8)
        self.done()
        final = self.png()
        high = len(final)
        self.assertGreater(final[high // 3 : -high // 3].mean(), 0.03)
        document = json.loads(Image.open(io.BytesIO(self.handed_out())).text["nineglass"])
        strands = [one["form"]["dials"] for one in document["stage"]["objects"] if one["form"]["kind"] == "strands"]
        self.assertEqual(max(dials.get("count", 0) for dials in strands), 300_000)

    def test_while_growth_is_dragged_fewer_stand(self):
        page = self.page
        self.stand("Otter pelt")
        self.all_have_grown()
        self.go("Stage")
        page.get_by_role("button", name="Fur", exact=True).click()
        length = page.get_by_role("slider", name="Length", exact=True)
        self.type_into(length, "1.4")
        page.get_by_text("of 300,000 strands").wait_for()
        self.all_have_grown()


def speckled(rgb: np.ndarray) -> float:
    """How much neighbours differ, over the mean: single glints, no sheen."""
    grey = rgb @ LUMINANCE
    return float((np.abs(np.diff(grey, axis=0)).mean() + np.abs(np.diff(grey, axis=1)).mean()) / grey.mean())


class Glitter(Scattering):
    """Metal covered with flakes, each with its film: glints from near, a sheen from far; far too strong, and brought back by one dial."""

    most_samples = 32

    MATERIAL = {
        "name": "Glitter",
        "section": {
            "bands": [
                {"id": "coat", "kind": "coat"},
                {
                    "id": "flakes",
                    "kind": "flakes",
                    "dials": {
                        "flake_matter": "titanium",
                        "flakes_coverage": 1,
                        "flake_size": 4,
                        "flake_lean": 14,
                        "flake_film_thickness": 260,
                        "flake_film_spread": 0.5,
                    },
                },
                {"id": "metal", "kind": "metal", "dials": {"specular_roughness": 0.4}},
            ]
        },
    }

    def form(self, samples: int) -> np.ndarray:
        """The middle of the picture, where the form is, pixel by pixel as it is made."""
        self.wait_for_picture(samples=samples)
        step = SIDE // self.picture_side
        return self.pixels()[190:330:step, 170:310:step]

    def test_glints_near_a_sheen_far_and_back_by_one_dial(self):
        page = self.lay(self.MATERIAL, "Window bench")
        near = self.form(24)
        self.assertGreater(speckled(near), 0.08)
        self.turn("Flakes", "Size", "0.05")
        far = self.form(24)
        self.assertLess(speckled(far), 0.4 * speckled(near), "a sheen, no crawling noise")
        # In varnish its own highlight is the same; what flakes mirror of the surround is, too.
        self.assertAlmostEqual(float((far**2.2).mean() / (near**2.2).mean()), 1.0, delta=0.08)
        self.turn("Flakes", "Size", "4")
        self.turn("Flakes", "Coverage", "0.1")
        back = self.form(24)
        self.assertLess(speckled(back), speckled(near))
        note = page.get_by_role("button", name="Lay a coat above them")
        expect(note).to_have_count(0)


class Pearl(Scattering):
    """A gradient laid on a metal by facing, mixed with plain colour; kept, and dropped on three other forms that follow it."""

    most_samples = 8

    MATERIAL = {
        "name": "Pearl",
        "section": {
            "bands": [
                {
                    "id": "metal",
                    "kind": "metal",
                    "dials": {"substance": "two colours", "specular_roughness": 0.3},
                }
            ]
        },
        "slips": [
            {"id": "facing", "kind": "facing", "at": [20, 40]},
            {
                "id": "ramp",
                "kind": "color_ramp",
                "at": [240, 40],
                "dials": {"stops": [[0, [0.9, 0.75, 0.8]], [0.5, [0.55, 0.8, 0.75]], [1, [0.85, 0.8, 0.95]]]},
            },
            {"id": "mix", "kind": "color_mix", "at": [460, 40], "dials": {"amount": 0, "thick": [0.8, 0.8, 0.8]}},
        ],
        "wires": [
            {"source": {"slip": "facing"}, "target": {"part": "ramp", "dial": "at"}},
            {"source": {"slip": "ramp"}, "target": {"part": "mix", "dial": "thin"}},
            {"source": {"slip": "mix"}, "target": {"part": "metal", "dial": "base_color"}},
        ],
    }

    PLACES = (0.384, 0.616, 0.847)
    """Where the other forms stand in the picture, from the left."""

    def four_balls(self) -> dict:
        document = demo_stage("window-bench") | {"name": "Four balls", "floor": None}
        balls = [
            {"id": f"b{k}", "form": {"kind": "ball", "dials": {"diameter": 4}}, "at": [x, 0, 0]}
            for k, x in enumerate((-7.5, -2.5, 2.5, 7.5))
        ]
        return document | {"objects": balls}

    def drop(self, name: str, x: float):
        page = self.page
        box = page.get_by_test_id("picture").bounding_box()
        page.get_by_role("button", name="All by their pictures").click()
        card = page.get_by_role("dialog", name="All by their pictures").get_by_role("button", name=name, exact=True)
        before = int(page.get_by_test_id("picture").get_attribute("data-sequence"))
        card.hover()
        page.mouse.down()
        page.mouse.move(box["x"] + 20, box["y"] + 20, steps=4)
        page.mouse.move(box["x"] + x * box["width"], box["y"] + 0.5 * box["height"], steps=6)
        page.mouse.up()
        page.wait_for_function("n => +document.querySelector('[data-testid=picture]').dataset.sequence > n", arg=before)
        self.wait_for_picture(samples=8)

    def test_dropped_on_three_forms_that_follow(self):
        stage = read(documents.Stage, self.four_balls())
        Stage.objects.create(owner=self.person, name=stage.name, document=stage.model_dump(mode="json"))
        page = self.lay(self.MATERIAL, "Four balls")
        self.stand("Net float")
        self.change(lambda: page.get_by_role("combobox", name="stage").select_option(label="Four balls"), samples=8)
        glass = [self.at(x, 0.5) for x in self.PLACES]
        for x in self.PLACES:
            self.drop("Pearl", x)
        pearls = [self.at(x, 0.5) for x in self.PLACES]
        for before, now in zip(glass, pearls, strict=True):
            self.assertGreater(float(np.abs(now - before).max()), 0.1, "it is worn")
        page.keyboard.press("Control+s")
        page.get_by_text(", saved").wait_for()
        self.stand("Pearl")
        mix = page.get_by_role("article", name="Colour mix")
        mix.click(position={"x": 20, "y": 8})
        self.wait_for_picture()
        self.change(lambda: self.type_into(mix.get_by_role("slider", name="Amount"), "1"))
        page.keyboard.press("k")
        page.get_by_role("button", name="Proof 1").wait_for()
        page.keyboard.press("Control+s")
        page.get_by_text("revision 2, saved").wait_for()
        self.stand("Net float")
        self.wait_for_picture(samples=8)
        for before, now in zip(pearls, [self.at(x, 0.5) for x in self.PLACES], strict=True):
            self.assertGreater(float(np.abs(now - before).max()), 0.02, "plain now, as the material is that it follows")


class Dye(Scattering):
    """Five plates of 1 cm beside one of 5 cm: a channel at full, a pure primary, a hue in between; a lamp brighter and dimmer; sheets."""

    most_samples = 8

    MATERIAL = {
        "name": "Dyed plate",
        "section": {
            "bands": [
                {"id": "interface", "kind": "interface", "dials": {"specular_ior": 1.0}},
                {
                    "id": "interior",
                    "kind": "interior",
                    "dials": {"transmission_color": [1, 0.6, 0.1], "transmission_depth": 5},
                },
            ]
        },
    }
    FIVE, ONE = (0.3, 0.5), (0.7, 0.5)
    """Where the five plates and the one are seen."""

    def plates(self) -> dict:
        def plate(name: str, x: float, z: float, deep: float) -> dict:
            form = {"kind": "rounded_box", "dials": {"width": 5, "height": 6, "depth": deep, "edge": 80}}
            return {"id": name, "form": form, "at": [x, 0, z]}

        thin = [plate(f"thin_{k}", -4, 2.4 * k - 4.8, 1) for k in range(5)]
        white = {"kind": "plain", "dials": {"color": [1, 1, 1], "strength": 1}}
        return demo_stage("window-bench") | {
            "name": "Plates",
            "floor": None,
            "lamps": [],
            "objects": [*thin, plate("thick", 4, 0, 5)],
            "surround": {"light": white},
            "camera": {
                "kind": "camera",
                "dials": {"focal_length": 200, "distance": 160, "elevation": 0, "exposure": 0},
            },
        }

    def put(self, color: str):
        self.paint(self.band("Interior"), "Transmission colour", color, samples=8)

    def test_plates_agree_and_hues_shift_with_depth(self):
        stage = read(documents.Stage, self.plates())
        Stage.objects.create(owner=self.person, name=stage.name, document=stage.model_dump(mode="json"))
        page = self.lay(self.MATERIAL, "Plates")
        self.wait_for_picture(samples=8)
        np.testing.assert_allclose(self.at(*self.FIVE), self.at(*self.ONE), atol=0.02)
        self.find_note("red channel is 1.00")
        self.put("#e80000")
        self.find_note("primary")
        np.testing.assert_allclose(self.at(*self.FIVE), self.at(*self.ONE), atol=0.02)
        self.put("#f2c040")
        pale = self.at(*self.ONE)
        self.turn("Interior", "at depth", "2.5", samples=8)
        orange = self.at(*self.ONE)
        self.turn("Interior", "at depth", "0.7", samples=8)
        deep = self.at(*self.ONE)
        greens = [float(one[1] / one[0]) for one in (pale, orange, deep)]
        self.assertTrue(greens[0] > greens[1] + 0.1 > greens[2] + 0.2, "from yellow through orange to deep red")
        self.go("Trials")
        trials = page.get_by_role("region", name="Trials")
        for name in ("Hue against depth", "Saturation against depth")[: 2 if LONG else 1]:
            trials.get_by_role("button", name=name).click()
            page.wait_for_function("() => document.querySelectorAll('[id^=cell-] img').length === 25")
            trials.get_by_role("status").filter(has_text="judged").or_(
                trials.get_by_role("status").filter(has_text="settled")
            ).first.wait_for()


class EnamelAndWood(Scattering):
    """Wood beneath a coat with a bump of its own: two highlights; grains and velvet flipped; a sharper shade; flakes under varnish."""

    most_samples = 8

    def test_coat_over_wood_grains_shade_and_flakes(self):
        page = self.page
        self.stand("Driftwood box")
        self.wait_for_picture(samples=8)
        body = self.band("Wood").or_(self.band("Body colour")).first
        even = self.pixels()
        looks = []
        for grain in ("grainy", "velvet"):
            self.change(lambda grain=grain: body.get_by_label("Grain").select_option(label=grain), samples=8)
            looks.append(self.pixels())
        self.assertGreater(np.abs(looks[0] - looks[1]).mean(), 0.004, "grains and velvet are told apart")
        self.change(lambda: body.get_by_label("Grain").select_option(label="even"), samples=8)
        page.keyboard.press("k")
        page.get_by_role("button", name="Proof 1").wait_for()
        self.change(lambda: self.type_into(body.get_by_role("slider", name="Edge of the shade"), "0"), samples=8)
        self.find_note("sharper")
        self.assertGreater(np.abs(self.pixels() - even).mean(), 0.002)
        page.keyboard.press("\\")
        page.get_by_test_id("proof-picture").or_(page.get_by_role("slider", name="Wipe")).first.wait_for()
        page.keyboard.press("Escape")
        self.stand("Mica enamel")
        self.wait_for_picture(samples=8)
        mica = self.band("Mica")
        with_mica = self.pixels()
        switch = mica.get_by_role("switch", name="Mica on").or_(mica.get_by_role("checkbox", name="Mica on"))
        self.change(lambda: switch.click(), samples=8)
        self.assertGreater(np.abs(self.pixels() - with_mica).mean(), 0.004, "the flakes are seen under the varnish")


class CutStone(Handing):
    """A cube cut into a stone with slightly cut edges, of diamond: fire in the facets, the studio turned until it sparkles, black behind."""

    picture_side = 160
    most_samples = 8

    def test_fire_before_black(self):
        page = self.page
        self.stand("Diamond")
        self.go("Stage")
        cards = page.get_by_role("region", name="The chosen part")
        page.get_by_role("region", name="Objects").get_by_role("button", name="Form").first.click()
        self.change(lambda: cards.get_by_label("Form").select_option(label="Cut cube"))
        self.change(lambda: self.type_into(cards.get_by_role("slider", name="Size"), "1.6"))
        self.change(lambda: self.type_into(cards.get_by_role("slider", name="Edges"), "0.06"))
        around = page.get_by_role("region", name="Around")
        around.get_by_role("button", name="floor", exact=True).click()
        self.change(lambda: page.get_by_label("A floor").uncheck())
        self.go("Bench")
        self.wait_for_picture(samples=8)
        plain = self.pixels()
        self.assertLess(float(self.at(0.04, 0.04).max()), 0.12, "black behind")
        self.turn("Interface", "Dispersion", "3", samples=8)
        fiery = self.pixels()
        middle = (slice(len(plain) // 4, -len(plain) // 4),) * 2
        self.assertGreater(colorful(fiery[middle]), 1.3 * colorful(plain[middle]), "fire in the facets")
        before = self.pixels()
        self.go("Stage")
        around.get_by_role("button", name="surround", exact=True).click()
        self.change(lambda: self.type_into(cards.get_by_role("slider", name="Turn"), "70"), samples=8)
        self.assertGreater(np.abs(self.pixels() - before).mean(), 0.01, "other facets answer the studio")
        self.assertLess(float(self.at(0.04, 0.04).max()), 0.12, "and what is behind stays black")
        page.keyboard.press("Control+s")
        page.get_by_text(", saved").wait_for()
        self.order(128, samples=24)
        self.done()
        final = self.png()
        self.assertLess(final[:6, :6].max(), 0.12)
        middle = final[32:96, 32:96]
        self.assertGreater(middle.max(), 0.95, "it sparkles")
        self.assertGreater(colorful(middle), 0.04)


class ThreeLiquids(Handing):
    """The same splash as water, as lamp oil that is nearly opaque, and as cordial; a black plate behind leaves their reflections alone."""

    most_samples = 16

    WATER, OIL, CORDIAL = (0.22, 0.58), (0.5, 0.62), (0.8, 0.58)

    def test_reflections_live_before_a_black_plate(self):
        page = self.page
        self.stand("Water")
        self.wait_for_picture(samples=12)
        corner = lambda: float(self.at(0.04, 0.06).max())  # noqa: E731
        self.assertLess(corner(), 0.02, "the plate behind is black")
        oil, cordial, water = self.at(*self.OIL), self.at(*self.CORDIAL), self.at(*self.WATER)
        self.assertLess(float(oil.max()), 0.5 * float(cordial.max()), "oil lets hardly anything through")
        self.assertGreater(float(cordial[0] / cordial[2]), 3, "cordial is red")
        self.assertLess(colorful(water[None]), 0.3, "water is clear")
        self.go("Stage")
        page.get_by_role("region", name="Around").get_by_role("button", name="surround", exact=True).click()
        self.change(lambda: page.get_by_label("The camera sees another behind").uncheck(), samples=12)
        self.assertGreater(corner(), 0.2, "without it the surround is seen")
        np.testing.assert_allclose(self.at(*self.OIL), oil, atol=0.03)
        page.keyboard.press("Control+z")
        self.wait_for_picture(samples=12)
        page.get_by_label("Cut out in saved pictures").check()
        page.keyboard.press("Control+s")
        page.get_by_text(", saved").wait_for()
        self.assertTrue(Stage.objects.get(owner=self.person, name="Three splashes").document["surround"]["cut_out"])
        page.get_by_label("What is laid behind shows through clear matter").check()
        page.keyboard.press("Control+s")
        page.get_by_text(", saved").wait_for()
        self.order(144, samples=24)
        self.done()
        png = self.png()
        self.assertEqual(png.shape[2], 4)
        oil, water = (
            png[int(y * len(png)) - 4 : int(y * len(png)) + 4, int(x * 144) - 4 : int(x * 144) + 4]
            for x, y in (self.OIL, self.WATER)
        )
        self.assertEqual(png[:4, :4, 3].max(), 0, "nothing is where the camera sees past everything")
        self.assertGreater(oil[..., 3].mean(), 0.8)
        self.assertLess(water[..., 3].mean(), 0.75, "what is laid behind shows through water")
