"""Sittings of a look-development artist, told from the first line to the last on the real interface."""

import numpy as np

from browser.case import BrowserCase

LUMINANCE = (0.2126, 0.7152, 0.0722)


def colorful(rgb: np.ndarray) -> float:
    """How far apart the channels of a part of the picture are, over their mean."""
    return float((rgb.max(axis=-1) - rgb.min(axis=-1)).mean() / max(rgb.mean(), 1e-6))


class BurntSteel(BrowserCase):
    """Metal under a coat that is coloured by facing through a ramp; the true film beside it."""

    def form(self, samples=4) -> np.ndarray:
        """The middle of the picture, where the form is."""
        self.wait_for_picture(samples=samples)
        return self.pixels()[150:330, 150:330]

    def choice(self, article, name: str, value: str):
        self.change(lambda: article.get_by_role("combobox", name=name).select_option(label=value))

    def test_it_is_coloured_steepened_turned_over_broken_up_and_set_beside_the_film(self):
        page = self.page
        self.change(lambda: page.get_by_label("material").first.select_option(label="Brass cap"))
        metal = self.band("Metal")
        self.change(lambda: metal.get_by_role("combobox", name="Metal").select_option(label="iron"))
        bare = self.form()
        self.change(lambda: page.get_by_role("button", name="+ coat", exact=True).click())
        self.band("Coat").get_by_role("button", name="Drive Colour by a colour").click()
        self.change(lambda: self.find("colour ramp"))
        ramp = page.get_by_role("article", name="Colour ramp")
        ramp.get_by_role("button", name="Choose a gradient").click()
        self.change(lambda: ramp.get_by_role("button", name="temper colours").click())
        ramp.get_by_role("button", name="Drive At by a number").click()
        self.change(lambda: self.find("facing"))
        colored = self.form()
        self.assertGreater(colorful(colored), colorful(bare) + 0.15, "the ramp's colours lie on the metal")
        facing = page.get_by_role("article", name="Facing")
        facing.click(position={"x": 20, "y": 8})
        page.keyboard.press("h")
        held = page.get_by_test_id("held")
        held.wait_for()
        self.assertIn("0 to 1", held.inner_text().replace("0.0", "0"))
        page.keyboard.press("h")
        held.wait_for(state="detached")
        self.change(lambda: self.type_into(facing.get_by_role("slider", name="Gain"), "0.9"))
        self.assertGreater(np.abs(self.form() - colored).mean(), 0.01, "a steeper slope moves the rings of colour")
        steep = self.form()
        self.change(lambda: facing.get_by_role("checkbox", name="Invert").click())
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


class SlitOfLight(BrowserCase):
    """A clear form with a narrow lamp behind it: what shows of it against dark and against white."""

    def stage(self):
        self.page.get_by_role("link", name="Stage", exact=True).click()

    def row(self, name: str):
        self.page.get_by_role("button", name=name, exact=True).click()

    def kind(self, label: str, which=0):
        self.page.get_by_role("combobox", name="Kind").nth(which).select_option(label=label)

    def test_dispersion_shows_by_a_narrow_lamp_and_glass_by_what_is_dark(self):
        page = self.page
        self.change(lambda: page.get_by_label("stage", exact=True).select_option(label="Lens before a strip"))
        interface = self.band("Interface")
        self.change(lambda: self.type_into(interface.get_by_role("slider", name="Abbe number"), "20"))
        self.change(lambda: self.type_into(interface.get_by_role("slider", name="Dispersion"), "0"), samples=12)
        plain = colorful(self.pixels()[100:380, 100:380])
        self.change(lambda: self.type_into(interface.get_by_role("slider", name="Dispersion"), "4"), samples=12)
        fanned = colorful(self.pixels()[100:380, 100:380])
        self.assertGreater(fanned, plain + 0.03, "a fan of colours")
        self.stage()
        page.locator("section[aria-label=Lamps] li button[aria-pressed]").first.click()
        wide = page.get_by_role("slider", name="Width")
        self.change(lambda: self.type_into(wide, "250"), samples=12)
        page.get_by_text("they lie over one another and look white").wait_for()
        self.row("surround")
        self.change(lambda: self.kind("Plain"))
        self.assertGreater(page.get_by_role("slider", name="Strength").count(), 0)
