"""New kinds on the screens, and what the light of the stage brings: all drawn from descriptions."""

import os
import tempfile
from pathlib import Path

import numpy as np
from playwright.sync_api import expect
from tests.test_rooms import write_rooms

from browser.case import BrowserCase, PixelCase

ABOUT = ["web/src/section", "web/src/stage", "web/src/ui", "core/nineglass/describe.py"]


class NewKinds(BrowserCase):
    """A server whose rooms have one new file of each kind."""

    has_own_server = True

    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        write_rooms(Path(folder.name))
        # The response of its band would make the kernel of layers another one; here that is neither compiled nor needed.
        (Path(folder.name) / "bands" / "dust.py").write_text(LAID_DUST)
        os.environ["NINEGLASS_ROOMS"] = folder.name
        cls.addClassCleanup(os.environ.pop, "NINEGLASS_ROOMS", None)
        super().setUpClass()

    def test_they_are_offered_placed_and_drawn(self):
        page = self.page
        page.get_by_role("button", name="+ dust").click()
        dust = self.band("Dust")
        dust.get_by_role("slider", name="Thickness").wait_for()
        self.wait_for_picture(samples=1)
        page.locator("[data-testid^=cut-dust]").locator("div").first.wait_for()
        dust.get_by_text("dust 0.50").wait_for()
        self.place("halved")
        page.get_by_role("article", name="Halved").wait_for()
        self.go("Stage")
        page.get_by_role("combobox", name="Form").select_option(label="Coin")
        page.get_by_role("slider", name="Diameter").wait_for()
        page.get_by_role("button", name="Add to lamps").click()
        page.get_by_role("combobox", name="Kind").select_option(label="Tube lamp")
        page.get_by_role("slider", name="Length").wait_for()
        page.get_by_role("button", name="surround", exact=True).click()
        page.get_by_role("combobox", name="Kind").first.select_option(label="Dawn")
        self.wait_for_picture(samples=1)


LAID_DUST = '''
from nineglass.describe import Cut, dial
from nineglass.documents.bands import BANDS


@BANDS.kind(title="Dust", family="layer")
class Dust:
    """Dust that is only there to be looked at in the section."""

    rank, most, why = 0, 2, "dust settles on top"
    cut = Cut("grains", says={"thickness": "dust {:.2f}"})

    thickness = dial(0.5, 0.0, 1.0, ends=("clean", "forgotten"), drivable=True)
'''

# Within one task, as when the page is busy: the picker has not told the last colour when the gesture ends.
MOVED_AND_LET_GO = """() => {
    const told = { clientX: 300, clientY: 300, buttons: 1, bubbles: true };
    document.dispatchEvent(new MouseEvent("mousemove", told));
    document.dispatchEvent(new PointerEvent("pointerup", { ...told, buttons: 0 }));
}"""


class Lights(PixelCase):
    """Lamps with a beam, a photometric file, and a glow, as they are worked with."""

    def test_a_spot_with_a_soft_edge_and_a_measured_lamp(self):
        page = self.page
        self.go("Stage")
        page.get_by_role("button", name="Add to lamps").click()
        page.get_by_role("combobox", name="Kind").select_option(label="Spot lamp")
        self.type_into(page.get_by_role("slider", name="Cone"), "12")
        self.change(lambda: self.type_into(page.get_by_role("slider", name="Power"), "60"))
        lit = self.pixels()
        self.change(lambda: self.type_into(page.get_by_role("slider", name="Power"), "0.05"))
        gained = (lit - self.pixels()).mean(axis=2)
        self.assertGreater(gained.max(), 0.2)
        self.assertLess(np.median(gained), 0.1, "a cone lights a part of the picture")
        page.get_by_role("combobox", name="Kind").select_option(label="Photometric lamp")
        self.change(
            lambda: page.get_by_role("combobox", name="Photometric file").select_option(label="harbour-lantern.ies")
        )

    def test_a_band_of_glow_lights_the_bench_and_a_drag_is_undone_in_one_step(self):
        page = self.page
        dark = self.pixels()[400:440].mean()
        self.change(lambda: page.get_by_role("button", name="+ glow").click())
        glow = self.band("Glow")
        self.change(lambda: self.type_into(glow.get_by_role("slider", name="Luminance"), "6"))
        self.assertGreater(self.pixels()[400:440].mean(), dark + 0.05)
        self.go("Stage")
        turned = page.get_by_role("slider", name="Turned")
        box = turned.bounding_box()
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.down()
        for step in range(8):
            page.mouse.move(box["x"] + box["width"] * (0.5 + 0.03 * step), box["y"] + box["height"] / 2)
        page.mouse.up()
        expect(turned).not_to_have_attribute("aria-valuenow", "0")
        page.keyboard.press("Control+z")
        page.wait_for_function(
            "() => document.querySelector('[aria-label=Turned]').getAttribute('aria-valuenow') === '0'"
        )

    def test_a_colour_drag_that_ends_elsewhere_leaves_undo_at_work(self):
        page = self.page
        interior = self.band("Interior")
        colour = interior.get_by_role("button", name="Transmission colour #")
        first = colour.get_attribute("aria-label")
        colour.click()
        box = page.locator(".react-colorful__saturation").bounding_box()
        page.mouse.move(box["x"] + 20, box["y"] + 20)
        page.mouse.down()
        page.mouse.move(box["x"] + 60, box["y"] + 40)
        page.evaluate(MOVED_AND_LET_GO)
        page.mouse.up()
        expect(colour).to_have_accessible_name("Transmission colour #ffffff")
        self.type_into(interior.get_by_role("slider", name="at depth"), "7")
        page.keyboard.press("Control+z")
        page.wait_for_function(
            "() => document.querySelector('[aria-label=\"at depth\"]').getAttribute('aria-valuenow') === '2.4'"
        )
        expect(colour).to_have_accessible_name("Transmission colour #ffffff")
        page.keyboard.press("Control+z")
        expect(colour).to_have_accessible_name(first)
