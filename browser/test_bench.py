import numpy as np
from materials.models import Material, Proof
from playwright.sync_api import expect

from browser.case import BrowserCase, PixelCase

ABOUT = ["web/src/bench", "web/src/ui", "web/src/gauges", "server/materials", "server/live"]

LUMINANCE = (0.2126, 0.7152, 0.0722)
MIDDLE = slice(200, 280)


def float_parts(pixels):
    """Mean colours of the float's middle and of its rim on the shaded side, in the frame of the demo stage."""
    row = pixels[225:255]
    middle = row[:, 215:265].mean(axis=(0, 1))
    return middle, row[:, 354:372].mean(axis=(0, 1))


class Story(PixelCase):
    """A look-development artist at work on the net float."""

    picture_side = 160

    def depth(self):
        return self.band("Interior").get_by_role("slider", name="at depth")

    def test_dragging_the_depth_darkens_the_float_at_its_rims(self):
        self.wait_for_picture(samples=4)
        before_middle, before_rim = (c @ LUMINANCE for c in float_parts(self.pixels()))
        self.depth().scroll_into_view_if_needed()
        box = self.depth().bounding_box()
        y = box["y"] + box["height"] / 2

        def drag():
            self.page.mouse.move(box["x"] + box["width"] * 0.5, y)
            self.page.mouse.down()
            for step in range(10):
                self.page.mouse.move(box["x"] + box["width"] * (0.5 - 0.011 * step), y)
            self.page.mouse.up()

        self.change(drag, samples=4)
        middle, rim = float_parts(self.pixels())
        self.assertLess(middle @ LUMINANCE, before_middle)
        self.assertLess(rim @ LUMINANCE, before_rim)
        self.assertLess(rim @ LUMINANCE, middle @ LUMINANCE, "the rim is darker than the middle")
        self.assertGreater(middle[1], 1.1 * middle[0], "bottle glass is greener than red")
        self.page.keyboard.press("Control+z")
        self.page.wait_for_function(
            "() => document.querySelector('[aria-label=\"at depth\"]').getAttribute('aria-valuenow') === '2.4'"
        )

    def test_noise_is_taken_out_while_the_picture_settles_and_one_key_shows_the_grain(self):
        self.wait_for_picture(samples=4)
        turns = self.page.get_by_test_id("facts").get_by_role("button", name="smoothed")
        turns.wait_for()
        smooth = self.grain()
        self.page.keyboard.press("g")
        self.page.get_by_test_id("facts").get_by_role("button", name="rendered").wait_for()
        self.until(lambda: self.grain() > 2 * smooth, "the grain is seen")
        self.page.keyboard.press("g")
        turns.wait_for()

    def grain(self) -> float:
        """How much neighbours in a corner of the picture differ."""
        corner = self.pixels()[:80, :80]
        return float(np.abs(np.diff(corner, axis=1)).mean())

    def test_the_colour_turns_with_the_transmission_colour(self):
        swatch = self.band("Interior").get_by_role("button", name="Transmission colour #")
        swatch.click()
        field = self.band("Interior").get_by_label("sRGB")

        def type_red():
            field.fill("#e08060")
            field.press("Enter")

        self.change(type_red, samples=3)
        middle, _ = float_parts(self.pixels())
        self.assertGreater(middle[0], 1.1 * middle[1], "redder, as it must be")

    def test_the_ladder_marks_the_lengths_of_this_picture(self):
        words = self.page.get_by_test_id("lengths")
        expect(words).to_contain_text("inside this form in this picture", use_inner_text=True)
        first = self.page.locator("[data-rung]").last.get_attribute("data-rung")
        self.change(lambda: self.type_into(self.depth(), "12 mm"))
        self.page.wait_for_function(
            "first => [...document.querySelectorAll('[data-rung]')].at(-1).dataset.rung !== first || first === '#000000'",
            arg=first,
        )
        expect(self.depth()).to_have_attribute("aria-valuenow", "1.2")
        self.page.get_by_role("tab", name="Facing").click()
        expect(self.page.get_by_test_id("curves")).to_contain_text("reflected face-on", use_inner_text=True)

    def test_a_channel_at_full_is_noted_and_mended_by_one_click(self):
        self.band("Interior").get_by_role("button", name="Transmission colour #").click()
        red = self.band("Interior").get_by_role("slider", name="Red")
        red.focus()
        self.change(lambda: self.page.keyboard.press("End"))
        note = self.page.get_by_text("red channel is 1.00, so it never darkens")
        note.wait_for()
        self.change(lambda: self.page.get_by_role("button", name="Set to 0.95").click())
        note.wait_for(state="detached")
        expect(red).to_have_attribute("aria-valuenow", "0.95")

    def handle(self, slip, dial, side):
        return self.page.locator(f'.react-flow__handle.{side}[data-nodeid="{slip}"][data-handleid="{dial}"]')

    def run_wire(self, start, end):
        a, b = start.bounding_box(), end.bounding_box()
        self.page.mouse.move(a["x"] + a["width"] / 2, a["y"] + a["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move((a["x"] + b["x"]) / 2, (a["y"] + b["y"]) / 2, steps=5)
        self.page.mouse.move(b["x"] + b["width"] / 2, b["y"] + b["height"] / 2, steps=5)
        self.page.mouse.up()

    def test_facing_through_a_ramp_drives_the_roughness(self):
        self.wait_for_picture(samples=4)
        before = self.pixels()
        self.place("facing")
        self.place("ramp")
        self.page.locator("[data-slip=ramp_1]").wait_for()
        self.run_wire(self.handle("facing_1", "out", "out"), self.handle("ramp_1", "at", "in"))
        notch = self.handle("notch:interface:specular_roughness", "specular_roughness", "in")
        self.change(lambda: self.run_wire(self.handle("ramp_1", "out", "out"), notch), samples=4)
        roughness = self.band("Interface").get_by_role("slider", name="Roughness")
        self.page.wait_for_function(
            "() => document.querySelector('[aria-label=Interface] [aria-label=Roughness]').getAttribute('aria-valuetext').includes('0.4')"
        )
        expect(roughness).to_have_attribute("aria-disabled", "true")
        after = self.pixels()
        difference = abs(after - before).mean(axis=2)
        self.assertGreater(difference[150:330, 120:180].mean(), 0.02, "the rim has changed")
        self.run_wire(self.handle("facing_1", "out", "out"), notch)

    def test_a_conversion_stands_on_the_wire(self):
        self.place("number")
        self.band("Interior").get_by_role("button", name="Drive Transmission colour").click()
        self.change(lambda: self.find("number on paper"))
        self.page.get_by_text("number to grey").wait_for()

    def test_keep_change_flip_undo_save_close_and_open(self):
        self.page.keyboard.press("k")
        self.page.get_by_role("button", name="Proof 1").wait_for()
        self.assertEqual(Proof.objects.get().document["section"]["bands"][1]["dials"]["transmission_depth"], 2.4)
        self.change(lambda: self.type_into(self.depth(), "0.8"))
        self.page.keyboard.press("\\")
        shown = self.page.get_by_test_id("proof-picture")
        shown.wait_for()
        self.page.keyboard.press("\\")
        shown.wait_for(state="detached")
        self.change(lambda: self.page.keyboard.press("Control+z"))
        expect(self.depth()).to_have_attribute("aria-valuenow", "2.4")
        self.change(lambda: self.page.keyboard.press("Control+Shift+z"))
        expect(self.depth()).to_have_attribute("aria-valuenow", "0.8")
        self.page.keyboard.press("Control+s")
        self.page.get_by_text("revision 2, saved").wait_for()
        self.page.close()
        self.page = self.open_bench()
        expect(self.depth()).to_have_attribute("aria-valuenow", "0.8")
        self.page.get_by_role("button", name="Proof 1").wait_for()
        self.assertEqual(Material.objects.get(name="Net float").revision, 2)

    def test_a_closed_tab_loses_nothing_that_was_not_saved(self):
        self.change(lambda: self.type_into(self.depth(), "3.3"))
        self.page.wait_for_function("() => Object.values(localStorage).some((draft) => draft.includes('3.3'))")
        self.page.close()
        self.page = self.open_bench()
        expect(self.depth()).to_have_attribute("aria-valuenow", "3.3")
        self.page.get_by_text("unsaved changes").wait_for()

    def open_material(self, name: str):
        self.page.get_by_label("material").first.select_option(label=name)
        self.band("Interface").wait_for()
        self.wait_for_picture()

    def test_two_tabs_on_one_material(self):
        first, second = self.page, self.open_bench()
        self.type_into(self.depth(), "2.5")
        first.keyboard.press("Control+s")
        first.get_by_text("revision 2, saved").wait_for()
        self.page = second
        self.type_into(self.depth(), "7")
        second.keyboard.press("Control+s")
        second.get_by_text("Saved elsewhere in the meantime").wait_for()
        self.errors = [error for error in self.errors if "409" not in error]
        second.get_by_role("button", name="Save mine over theirs").click()
        second.get_by_text("revision 3, saved").wait_for()
        kept = Material.objects.get(name="Net float").revisions.all()
        self.assertEqual(
            [r.document["section"]["bands"][1]["dials"]["transmission_depth"] for r in kept], [7, 2.5, 2.4]
        )


class Controls(BrowserCase):
    def roughness(self):
        return self.band("Interface").get_by_role("slider", name="Roughness")

    def index(self):
        return self.band("Interface").get_by_role("slider", name="Index")

    def test_sums_units_and_limits(self):
        self.type_into(self.index(), "1.5168+0.044")
        expect(self.index()).to_have_attribute("aria-valuenow", "1.5608")
        depth = self.band("Interior").get_by_role("slider", name="at depth")
        self.type_into(depth, "0.5 mm")
        expect(depth).to_have_attribute("aria-valuenow", "0.05")
        self.type_into(depth, "2 m")
        expect(depth, "the range widens when typed past").to_have_attribute("aria-valuenow", "200")
        self.type_into(self.index(), "12")
        self.page.get_by_text("Allowed: 1 to 3").wait_for()
        expect(self.index()).to_have_attribute("aria-valuenow", "3")

    def test_arrow_keys_and_double_click(self):
        self.roughness().focus()
        for _ in range(3):
            self.page.keyboard.press("ArrowRight")
        self.page.keyboard.press("Shift+ArrowRight")
        expect(self.roughness()).to_have_attribute("aria-valuenow", "0.031")
        self.roughness().dblclick()
        expect(self.roughness()).to_have_attribute("aria-valuenow", "0")

    def test_wired_by_the_keyboard_alone(self):
        self.band("Interface").get_by_role("button", name="Drive Roughness").focus()
        self.page.keyboard.press("Enter")
        self.change(lambda: self.find("ramp"))
        self.page.locator("[data-slip=ramp_1]").wait_for()

    def test_exposure_changes_the_picture_without_beginning_again(self):
        self.wait_for_picture(samples=4)
        before = self.pixels()[MIDDLE, MIDDLE].mean()
        self.page.keyboard.press("]")
        self.page.wait_for_function("() => document.querySelector('[data-testid=facts]').textContent.includes('+0.5')")
        self.until(lambda: self.pixels()[MIDDLE, MIDDLE].mean() > before * 1.08, "it is brighter")

    def test_themes_and_shortcuts(self):
        self.page.get_by_role("button", name="Night theme").click()
        self.page.wait_for_function("() => document.documentElement.dataset.theme === 'night'")
        self.page.keyboard.press("?")
        self.page.get_by_text("find and place a slip, module, band or substance").wait_for()
        self.page.keyboard.press("Escape")
        self.page.get_by_role("dialog").wait_for(state="detached")

    def test_nothing_stands_in_the_way_of_assistive_technology(self):
        self.assertEqual(self.serious_findings(), [])


class Strangers(BrowserCase):
    def test_the_live_picture_is_for_the_owner(self):
        from accounts.models import Entry
        from django.contrib.auth import get_user_model

        stranger = get_user_model().objects.create_user("stranger")
        material = Material.objects.get(name="Net float")
        for sign_in in (True, False):
            context = self.browser.new_context()
            self.addCleanup(context.close)
            page = context.new_page()
            page.goto(f"{self.url}/enter/{Entry.issue(stranger)}/" if sign_in else f"{self.url}/sign-in/")
            code = page.evaluate(
                """id => new Promise(done => { const socket = new WebSocket(`ws://${location.host}/live/${id}/`);
                socket.onclose = event => done(event.code); socket.onmessage = () => done('heard') })""",
                str(material.id),
            )
            self.assertEqual(code, 4404)


class Network(BrowserCase):
    """Slips and stages by mouse and keyboard."""

    def open_worn_float(self):
        self.page.get_by_label("material").select_option(label="Net float, sea-worn")
        self.page.locator("[data-slip=facing_1]").wait_for()
        self.wait_for_picture()

    def titles(self):
        return self.page.locator("[data-slip]").count()

    def test_slips_are_duplicated_and_removed_and_brought_back(self):
        self.open_worn_float()
        self.assertEqual(self.titles(), 4)
        self.page.locator("[data-slip=ramp_1] header").click()
        self.page.keyboard.press("Control+d")
        self.page.locator("[data-slip=ramp_2]").wait_for()
        self.page.keyboard.press("Delete")
        self.page.locator("[data-slip=ramp_2]").wait_for(state="detached")
        self.page.locator("[data-slip=ramp_1] header").click()
        self.change(lambda: self.page.keyboard.press("Delete"))
        expect(self.page.locator(".react-flow__edge"), "its wires go with it").to_have_count(2)
        self.change(lambda: self.page.keyboard.press("Control+z"))
        self.assertEqual((self.titles(), self.page.locator(".react-flow__edge").count()), (4, 4))

    def test_a_driven_dial_tells_what_arrives(self):
        self.open_worn_float()
        roughness = self.band("Interface").get_by_role("slider", name="Roughness")
        self.assertRegex(roughness.get_attribute("aria-valuetext"), r"driven 0(\.\d+)? to 0\.4")
        self.band("Interface").get_by_role("button", name="Drive Roughness").click()
        self.change(lambda: self.find("take the wire off"))
        expect(roughness).to_have_attribute("aria-valuetext", "0")

    def test_a_stage_is_changed_and_undone_whole(self):
        stage = self.page.get_by_role("combobox", name="stage")
        self.change(lambda: stage.select_option(label="Lamp room"))
        dark = self.pixels()[:60].mean()
        self.change(lambda: self.page.keyboard.press("Control+z"))
        self.assertEqual(stage.evaluate("s => s.selectedOptions[0].textContent"), "Window bench")
        self.assertGreater(self.pixels()[:60].mean(), 2 * dark)

    def test_dragging_the_picture_turns_the_form_in_one_step(self):
        box = self.page.get_by_test_id("picture").bounding_box()

        def drag():
            self.page.mouse.move(box["x"] + 100, box["y"] + 100)
            self.page.mouse.down()
            self.page.mouse.move(box["x"] + 220, box["y"] + 100, steps=6)
            self.page.mouse.up()

        before = self.pixels()
        self.change(drag)
        self.assertGreater(abs(self.pixels() - before).mean(), 0.005)
        self.page.get_by_role("button", name="Undo").click()
        self.assertFalse(self.page.get_by_role("button", name="Undo").is_enabled())

    def test_a_proof_is_taken_up_again(self):
        self.page.keyboard.press("k")
        self.page.get_by_role("button", name="Proof 1").wait_for()
        depth = self.band("Interior").get_by_role("slider", name="at depth")
        self.change(lambda: self.type_into(depth, "9"))
        self.change(lambda: self.page.get_by_role("button", name="take up").click())
        expect(depth).to_have_attribute("aria-valuenow", "2.4")

    def test_a_band_is_switched_off(self):
        self.wait_for_picture(samples=3)
        green = self.pixels()[MIDDLE, MIDDLE].mean(axis=(0, 1))
        self.change(lambda: self.band("Interior").get_by_label("Interior on").click(), samples=3)
        clear = self.pixels()[MIDDLE, MIDDLE].mean(axis=(0, 1))
        self.assertGreater(clear[0] / clear[1], green[0] / green[1] + 0.08, "without the interior the tint is gone")
