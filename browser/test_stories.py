"""Sittings of a look-development artist, told from the first line to the last on the real interface."""

import numpy as np
from materials import services
from nineglass.documents import model as documents
from nineglass.documents.model import read

from browser.case import BrowserCase

LUMINANCE = (0.2126, 0.7152, 0.0722)

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


def colorful(rgb: np.ndarray) -> float:
    """How far apart the channels of a part of the picture are, over their mean."""
    return float((rgb.max(axis=-1) - rgb.min(axis=-1)).mean() / max(rgb.mean(), 1e-6))


class BurntSteel(BrowserCase):
    """Metal under a coat that is coloured by facing through a ramp; the true film beside it."""

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


class SlitOfLight(BrowserCase):
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
        self.dial("Strength", "1")
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


class ClearToCeramic(BrowserCase):
    """One form from clear through milky to ceramic on one dial's travel; then the same told by its colour and mean free path."""

    def form(self) -> np.ndarray:
        self.wait_for_picture(samples=3)
        return self.pixels()[200:330, 150:270]

    def test_one_dial_goes_all_the_way_and_the_gauges_tell_it(self):
        page = self.page
        self.wait_for_picture()
        self.assertEqual(page.get_by_role("tab", name="Slab").count(), 0, "clear matter has no gauge of scattering")
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
