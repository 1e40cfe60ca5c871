"""Trials in the browser: strips, sheets, kept and made again, swatches."""

import csv
import io

from PIL import Image
from playwright.sync_api import expect

from browser.case import BrowserCase
from browser.sittings import EvenLight

ABOUT = ["web/src/trials", "server/trials"]


class Trying(EvenLight, BrowserCase):
    def setUp(self):
        super().setUp()
        self.page.get_by_role("link", name="Trials").click()
        self.trials = self.page.get_by_role("region", name="Trials")

    def wait_for_pictures(self, count: int):
        self.page.wait_for_function("count => document.querySelectorAll('[id^=cell-] img').length === count", arg=count)

    def wait_until_judged(self):
        self.trials.get_by_role("status").filter(has_text="judged").or_(
            self.trials.get_by_role("status").filter(has_text="settled")
        ).first.wait_for()

    def brightness(self, k: int) -> list[float]:
        """Mean red, green and blue of the middle of a picture, 0 to 255."""
        return self.page.evaluate(
            """k => { const image = document.querySelector(`#cell-${k} img`), c = document.createElement('canvas');
            c.width = c.height = 16; const draw = c.getContext('2d');
            draw.drawImage(image, 40, 40, 80, 80, 0, 0, 16, 16); const d = draw.getImageData(0, 0, 16, 16).data;
            return [0, 1, 2].map(i => { let s = 0; for (let p = i; p < d.length; p += 4) s += d[p]; return s / 256 }) }""",
            k,
        )

    def test_a_sheet_of_hue_against_depth_is_judged_kept_and_made_again(self):
        page, trials = self.page, self.trials
        trials.get_by_role("button", name="Hue against depth").click()
        self.wait_for_pictures(25)
        self.wait_until_judged()
        red, _, blue = self.brightness(2)
        self.assertGreater(red, blue, "hue 0 is red")
        inky, pale = self.brightness(0), self.brightness(4)
        self.assertLess(sum(inky), sum(pale), "the deeper the dial, the paler")
        trials.get_by_role("button", name="keep", exact=True).click()
        kept = trials.get_by_role("region", name="Kept trials").get_by_role("listitem")
        kept.wait_for()
        rows = list(
            csv.reader(
                io.StringIO(self.context.request.get(self.url + kept.get_by_text("CSV").get_attribute("href")).text())
            )
        )
        self.assertEqual(len(rows), 26)
        kept.get_by_role("button", name="again").click()
        trials.get_by_text("since it was kept").wait_for()
        cell = page.locator("#cell-7")
        cell.click()
        page.keyboard.press("ArrowRight")
        expect(page.locator("#cell-8")).to_have_attribute("aria-pressed", "true")
        page.keyboard.press("Enter")
        page.get_by_role("link", name="Bench").and_(page.locator("[aria-current=page]")).wait_for()
        self.wait_for_picture()
        page.keyboard.press("Control+z")
        page.get_by_role("link", name="Trials").click()
        kept.get_by_role("button", name="remove").click()
        trials.get_by_text("None yet.").wait_for()

    def test_a_strip_of_a_dial_by_keyboard_is_left_and_made(self):
        trials, page = self.trials, self.page
        across = trials.get_by_role("group", name="Across")
        across.get_by_label("Across: dial").select_option(label="Power")
        across.get_by_label("Across: pictures").fill("3")
        across.get_by_label("Across: pictures").press("Enter")
        make = trials.get_by_role("button", name="Make the strip")
        make.focus()
        page.keyboard.press("Enter")
        self.wait_for_pictures(3)
        self.wait_until_judged()
        dark, bright = self.brightness(0), self.brightness(2)
        self.assertLess(sum(dark), sum(bright))

    def test_a_photograph_is_held_against_the_picture(self):
        trials, page = self.trials, self.page
        photograph = Image.new("RGB", (64, 64), (255, 0, 0))
        photograph.paste((128, 128, 128), (0, 32, 64, 64))
        out = io.BytesIO()
        photograph.save(out, "PNG")
        trials.get_by_role("button", name="Against a photograph").click()
        files = {"name": "red.png", "mimeType": "image/png", "buffer": out.getvalue()}
        trials.get_by_label("Put in a texture").set_input_files(files)
        theirs = trials.get_by_role("button", name="The photograph: sample")
        page.wait_for_function("() => [...document.querySelectorAll('canvas')].some(c => c.width === 64)")
        box = theirs.bounding_box()
        trials.get_by_role("button", name="The picture: sample").click()
        theirs.click(position={"x": box["width"] / 2, "y": box["height"] / 4})
        row = trials.get_by_role("row").first
        row.get_by_text("#ff0000").wait_for()
        row.get_by_text("DE2000").wait_for()
        expect(row).to_contain_text("greener", use_inner_text=True)
        row.get_by_role("button", name="thick").click()
        expect(trials.get_by_label("Thick colour")).to_have_value("#ff0000")
        # By keyboard: the middle of the photograph, then of the picture.
        theirs.focus()
        for _ in range(10):
            page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        trials.get_by_role("button", name="The picture: sample").focus()
        page.keyboard.press("Enter")
        trials.get_by_text("#808080").wait_for()
        trials.get_by_role("tab", name="wipe").click()
        trials.get_by_label("Edge between photograph and picture").press("ArrowRight")
        trials.get_by_role("tab", name="flip").click()
        trials.get_by_role("button", name="show the photograph").click()

    def test_a_photograph_is_turned_cropped_and_its_colour_kept(self):
        trials, page = self.trials, self.page
        photograph = Image.new("RGB", (80, 40), (0, 0, 255))
        photograph.paste((200, 120, 40), (40, 0, 80, 40))
        out = io.BytesIO()
        photograph.save(out, "PNG")
        trials.get_by_role("button", name="Against a photograph").click()
        files = {"name": "two.png", "mimeType": "image/png", "buffer": out.getvalue()}
        trials.get_by_label("Put in a texture").set_input_files(files)
        size = "([w, h]) => [...document.querySelectorAll('canvas')].some(c => c.width === w && c.height === h)"
        page.wait_for_function(size, arg=[80, 40])
        trials.get_by_role("button", name="crop").click()
        box = trials.get_by_role("button", name="The photograph: sample").bounding_box()
        page.mouse.move(box["x"] + 0.5 * box["width"], box["y"] + 0.1 * box["height"])
        page.mouse.down()
        page.mouse.move(box["x"] + 0.95 * box["width"], box["y"] + 0.9 * box["height"], steps=3)
        page.mouse.up()
        page.wait_for_function(size, arg=[36, 32])
        trials.get_by_role("button", name="a quarter").click()
        page.wait_for_function(size, arg=[40, 80])
        right = trials.get_by_label("Turn of the photograph, degrees")
        right.fill("0")
        right.press("Enter")
        page.wait_for_function(size, arg=[80, 40])
        trials.get_by_role("button", name="The picture: sample").click()
        theirs = trials.get_by_role("button", name="The photograph: sample")
        box = theirs.bounding_box()
        theirs.click(position={"x": 0.75 * box["width"], "y": 0.5 * box["height"]})
        row = trials.get_by_role("row").first
        row.get_by_text("#c87828").wait_for()
        row.get_by_role("button", name="keep").click()
        kept = trials.get_by_role("region", name="Kept swatches")
        kept.get_by_role("button", name="as thick").focus()
        page.keyboard.press("Enter")
        expect(trials.get_by_label("Thick colour")).to_have_value("#c87828")
        kept.get_by_role("button", name="Remove").click()
        kept.wait_for(state="detached")

    def test_materials_side_by_side_are_wiped_and_one_is_opened(self):
        trials, page = self.trials, self.page
        trials.get_by_role("button", name="Beside other materials").click()
        sheet = page.get_by_role("dialog", name="Beside which materials?")
        sheet.get_by_role("button", name="Copper pan").click()
        sheet.get_by_label("Seek").fill("enamel")
        sheet.get_by_role("button", name="Black enamel").click()
        sheet.get_by_role("button", name="Lay 3 side by side").click()
        self.wait_for_pictures(3)
        self.wait_until_judged()
        glass, copper, black = (self.brightness(k) for k in range(3))
        self.assertGreater(glass[1], glass[2], "the float is green")
        self.assertGreater(copper[0], copper[2], "copper is red")
        self.assertLess(sum(black), sum(copper))
        page.locator("#cell-1").click()
        trials.get_by_role("button", name="wipe").click()
        edge = trials.get_by_role("slider", name="Edge between Net float and picture")
        edge.press("ArrowRight")
        trials.get_by_label("Left of the edge").select_option(label="Black enamel")
        trials.get_by_role("slider", name="Edge between Black enamel and picture").wait_for()
        trials.get_by_role("button", name="lay on the bench").click()
        self.band("Metal").wait_for()
        self.assertEqual(page.locator("header select").first.evaluate("e => e.selectedOptions[0].text"), "Copper pan")

    def test_three_swatches_make_matter_that_scatters(self):
        trials, page = self.trials, self.page
        swatches = trials.get_by_role("region", name="Swatches to matter")
        swatches.get_by_label("it scatters").check()
        swatches.get_by_text("All three are met.").wait_for()
        self.change(lambda: swatches.get_by_role("button", name="Put into the interior").click())
        page.get_by_role("link", name="Bench").click()
        interior = self.band("Interior")
        expect(interior.get_by_label("Scattering from")).to_have_value("curve")
        self.assertGreater(
            float(interior.get_by_role("slider", name="Scattering", exact=True).get_attribute("aria-valuenow")), 0
        )

    def test_two_swatches_go_into_the_interior(self):
        trials, page = self.trials, self.page
        swatches = trials.get_by_role("region", name="Swatches to matter")
        swatches.get_by_text("Both are met.").wait_for()
        swatches.get_by_label("Thick depth").fill("0.5")
        swatches.get_by_label("Thick depth").press("Enter")
        swatches.get_by_role("alert").filter(has_text="one depth").wait_for()
        self.assertTrue(all("422" in error for error in self.errors), self.errors)
        self.errors.clear()
        swatches.get_by_label("Thick depth").fill("4")
        swatches.get_by_label("Thick depth").press("Enter")
        swatches.get_by_text("Both are met.").wait_for()
        self.change(lambda: swatches.get_by_role("button", name="Put into the interior").click())
        page.get_by_role("link", name="Bench").click()
        expect(self.band("Interior").get_by_label("Absorption from")).to_have_value("curve")
