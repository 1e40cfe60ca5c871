import re

from playwright.sync_api import expect

from browser.case import BrowserCase

ABOUT = ["web/src/network", "server/library"]


class Paper(BrowserCase):
    """What is done on the network's paper, by mouse and by keyboard."""

    def slip(self, name: str):
        return self.page.get_by_role("article", name=name, exact=True)

    def choose(self, name: str, **how):
        self.slip(name).click(position={"x": 24, "y": 10}, **how)

    def roughness(self) -> str:
        return self.band("Interface").locator("[data-dial=specular_roughness]").inner_text()

    def undo(self):
        self.page.keyboard.press("Control+z")

    def tab_to(self, label: str, most=80):
        """Tab until something of that name has the focus."""
        for _ in range(most):
            self.page.keyboard.press("Tab")
            here = self.page.evaluate("""() => { const e = document.activeElement;
                return e.getAttribute('aria-label') || e.labels?.[0]?.textContent || e.textContent }""")
            if re.fullmatch(label, here.strip()):
                return
        self.fail(f"Tab does not reach {label!r}")


class Story(Paper):
    """Facing, biased, through a ramp into a film's thickness; a module of it; held up; bracketed; undone."""

    def wire(self, start, end):
        a, b = start.bounding_box(), end.bounding_box()
        self.page.mouse.move(a["x"] + a["width"] / 2, a["y"] + a["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(b["x"] + b["width"] / 2, b["y"] + b["height"] / 2, steps=6)
        self.page.mouse.up()

    def test_by_mouse(self):
        page = self.page
        page.get_by_role("group", name="Add a band").get_by_role("button", name="+ film", exact=True).click()
        for name in ("facing", "bias and gain", "ramp"):
            page.get_by_role("button", name="place /").click()
            page.get_by_role("textbox", name="Find").fill(name)
            page.get_by_label("Found").get_by_role("button").first.click()
        page.locator(".react-flow__pane").click(position={"x": 20, "y": 640})
        ends = {name: self.slip(name) for name in ("Facing", "Bias and gain", "Ramp")}
        self.wire(ends["Facing"].locator(".port.out"), ends["Bias and gain"].locator(".port.in").first)
        self.wire(ends["Bias and gain"].locator(".port.out"), ends["Ramp"].locator(".port.in").first)
        notch = page.locator("[data-id='notch:film_1:thin_film_thickness'] .port")
        self.change(lambda: self.wire(ends["Ramp"].locator(".port.out"), notch))
        thickness = self.band("Film").locator("[data-dial=thin_film_thickness]")
        expect(thickness).to_contain_text(re.compile(r"driven [\d.]+ to 0\.4 nm"), use_inner_text=True)
        self.choose("Facing")
        for name in ("Bias and gain", "Ramp"):
            self.choose(name, modifiers=["Control"])
        page.keyboard.press("m")
        module = self.slip("Untitled module")
        module.wait_for()
        expect(page.locator("[data-slip]")).to_have_count(1)
        expect(thickness).to_contain_text(re.compile(r"driven [\d.]+ to 0\.4 nm"), use_inner_text=True)
        page.keyboard.press("h")
        held = page.get_by_test_id("held")
        held.wait_for()
        page.keyboard.press("h")
        held.wait_for(state="detached")
        module.get_by_role("button", name="open").click()
        self.choose("Bias and gain")
        self.band("Dials of Bias and gain").get_by_label("Bias").check()
        page.get_by_label("Name of the dial Bias").fill("Sharpness")
        page.get_by_role("button", name="close Esc").click()
        sharpness = module.get_by_role("slider", name="Sharpness")
        sharpness.hover()
        page.keyboard.press("b")
        for _ in range(3):
            page.wait_for_function("() => document.querySelectorAll('[role=dialog] img').length === 7")
            page.get_by_role("dialog").get_by_role("button").nth(6).click()
        page.get_by_role("dialog").wait_for(state="detached")
        self.assertGreater(float(sharpness.get_attribute("aria-valuenow")), 0.7)
        self.undo()
        expect(sharpness).to_have_attribute("aria-valuenow", "0.5")
        for _ in range(3):
            self.undo()
        expect(page.locator("[data-slip]")).to_have_count(3)
        expect(module).to_have_count(0)

    def test_by_keyboard_alone(self):
        page = self.page
        press = page.keyboard.press
        self.place("film")
        self.band("Film").wait_for()
        self.place("facing")
        self.tab_to("gives: a number")
        press("Enter")
        self.find("bias and gain")
        self.tab_to("gives: a number")
        press("Enter")
        self.find("ramp")
        self.tab_to("gives: a number")
        press("Enter")
        self.change(lambda: self.find("film thickness"))
        thickness = self.band("Film").locator("[data-dial=thin_film_thickness]")
        expect(thickness).to_contain_text("driven", use_inner_text=True)
        press("Control+a")
        press("m")
        self.slip("Untitled module").wait_for()
        press("h")
        page.get_by_test_id("held").wait_for()
        press("h")
        page.get_by_test_id("held").wait_for(state="detached")
        press("o")
        page.get_by_role("complementary", name="Module").wait_for()
        self.assertEqual(self.serious_findings(), [])
        self.place("bias and gain on paper")
        self.tab_to("Bias")
        self.tab_to("Bias")
        self.assertEqual(page.evaluate("document.activeElement.type"), "checkbox")
        press("Space")
        expect(page.get_by_label("Name of the dial Bias")).to_have_count(1)
        press("Escape")
        module = self.slip("Untitled module")
        bias = module.get_by_role("slider", name="Bias")
        bias.wait_for()
        self.tab_to("Bias", most=200)
        press("b")
        for _ in range(3):
            page.wait_for_function("() => document.querySelectorAll('[role=dialog] img').length === 7")
            press("7")
        page.get_by_role("dialog").wait_for(state="detached")
        self.assertGreater(float(bias.get_attribute("aria-valuenow")), 0.7)
        press("Control+z")
        expect(bias).to_have_attribute("aria-valuenow", "0.5")


class Modules(Paper):
    def module_of_a_number(self):
        """A module of one number, its value exposed, driving the roughness; chosen."""
        self.place("number constant")
        self.page.keyboard.press("m")
        self.page.keyboard.press("o")
        self.page.get_by_label("Name", exact=True).fill("Wear")
        self.choose("Number")
        self.band("Dials of Number").get_by_label("Value").check()
        self.page.keyboard.press("Escape")
        self.slip("Wear").wait_for()

    def test_all_uses_follow_until_one_is_detached(self):
        self.module_of_a_number()
        self.page.keyboard.press("Control+d")
        expect(self.slip("Wear")).to_have_count(2)
        self.page.keyboard.press("o")
        self.page.get_by_label("Name", exact=True).fill("Weather")
        self.page.get_by_label("Value from").fill("0.2")
        self.page.get_by_label("Value from").press("Enter")
        self.page.keyboard.press("Escape")
        expect(self.slip("Weather")).to_have_count(2)
        second = self.page.locator(".slip.module.chosen")
        expect(second).to_contain_text("used 2 times", use_inner_text=True)
        second.get_by_role("button", name="detach").click()
        expect(self.slip("Weather")).to_have_count(1)
        self.slip("Weather, detached").get_by_role("button", name="take apart").click()
        expect(self.slip("Number")).to_have_count(1)
        expect(self.slip("Weather, detached")).to_have_count(0)

    def test_a_module_lies_within_a_module(self):
        self.module_of_a_number()
        self.page.keyboard.press("m")
        self.page.keyboard.press("o")
        self.choose("Wear")
        self.page.keyboard.press("o")
        trail = self.page.get_by_role("navigation", name="Open modules")
        expect(trail).to_contain_text("Untitled module", use_inner_text=True)
        trail.get_by_text("Wear").first.wait_for()
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("Escape")
        self.slip("Untitled module").wait_for()

    def test_a_module_gives_what_its_slips_give_and_keeps_its_mounts(self):
        self.place("comment")
        self.place("bump")
        self.page.keyboard.press("Control+a")
        self.page.keyboard.press("m")
        expect(self.slip("Untitled module").locator(".port.out"), "the note gives nothing").to_have_count(1)
        self.page.keyboard.press("o")
        self.choose("Bump")
        self.place("mount under")
        self.page.get_by_role("article", name="Mount Untitled").wait_for()
        self.page.keyboard.press("Escape")
        self.slip("Untitled module").get_by_role("button", name="take apart").click()
        self.page.get_by_role("article", name="Mount Untitled").wait_for()
        expect(self.page.get_by_text("there is no")).to_have_count(0)

    def test_a_kept_module_is_placed_in_another_material_and_follows_the_library(self):
        page = self.page
        self.module_of_a_number()
        wear = self.slip("Wear")
        wear.get_by_role("button", name="keep in the library").click()
        page.get_by_text("Wear is in the library.").wait_for()
        page.get_by_role("button", name="Save").click()
        page.get_by_text("revision 2, saved").wait_for()
        page.get_by_label("material").first.select_option(label="Clear vessel glass")
        self.wait_for_picture()
        page.get_by_role("link", name="Library").click()
        page.get_by_role("tab", name="modules").click()
        shelf = page.get_by_role("listitem").filter(has_text="Wear")
        expect(shelf).to_contain_text("gives a number", use_inner_text=True)
        shelf.get_by_role("button", name="Place on the bench").click()
        wear.wait_for()
        page.keyboard.press("o")
        page.get_by_label("Name", exact=True).fill("Rain")
        page.keyboard.press("Tab")
        page.get_by_role("button", name="close Esc").click()
        self.slip("Rain").get_by_role("button", name="update the library").click()
        page.get_by_text("as revision 2").wait_for()
        page.get_by_label("material").first.select_option(label="Net float")
        self.wait_for_picture()
        self.choose("Wear")
        wear.get_by_role("button", name="newer in the library").click()
        self.slip("Rain").wait_for()
        expect(wear).to_have_count(0)

    def test_mounts_carry_slips_and_notes_keep_words(self):
        page = self.page
        self.place("number constant")
        self.place("mount under")
        mount = page.get_by_role("article", name="Mount Untitled")
        mount.wait_for()
        slip = self.slip("Number")
        before, under = slip.bounding_box(), mount.bounding_box()
        head = mount.locator(".mount-head").bounding_box()
        page.mouse.move(head["x"] + 150, head["y"] + 10)
        page.mouse.down()
        page.mouse.move(head["x"] + 210, head["y"] + 70, steps=6)
        page.mouse.up()
        self.until(lambda: slip.bounding_box()["x"] - before["x"] > 30, "the slip came along")
        after, now_under = slip.bounding_box(), mount.bounding_box()
        for axis in ("x", "y"):
            self.assertAlmostEqual(after[axis] - before[axis], now_under[axis] - under[axis], delta=1)
        self.undo()
        self.until(lambda: abs(slip.bounding_box()["x"] - before["x"]) < 1, "it is back")
        self.place("comment")
        note = self.slip("Note")
        note.get_by_role("textbox", name="Text").fill("Greener, says the client.")
        page.locator(".react-flow__pane").click(position={"x": 20, "y": 640})
        expect(note).to_contain_text("Greener, says the client.", use_inner_text=True)

    def test_a_band_is_copied_into_another_material_with_what_drives_it(self):
        page = self.page
        page.get_by_role("group", name="Add a band").get_by_role("button", name="+ film", exact=True).click()
        page.get_by_role("button", name="Drive Thickness by a number").click()
        self.change(lambda: self.find("facing"))
        page.get_by_role("button", name="Copy Film").click()
        page.get_by_label("material").first.select_option(label="Clear vessel glass")
        self.wait_for_picture()
        page.locator("[aria-label=Section]").click(position={"x": 150, "y": 12})
        self.change(lambda: page.keyboard.press("Control+v"))
        expect(self.band("Film").locator("[data-dial=thin_film_thickness]")).to_contain_text(
            "driven", use_inner_text=True
        )

    def test_substances_and_slips_on_the_paper_are_found(self):
        self.change(lambda: self.place("diamond"))
        expect(self.band("Interface").get_by_label("Substance")).to_have_value("diamond")
        self.place("facing")
        self.place("number constant")
        self.place("facing on paper")
        self.assertTrue(self.slip("Facing").evaluate("e => e.classList.contains('chosen')"))

    def test_a_dial_of_the_stage_is_bracketed(self):
        page = self.page
        page.get_by_role("link", name="Stage").click()
        page.get_by_role("slider", name="Diameter").focus()
        page.keyboard.press("b")
        page.wait_for_function("() => document.querySelectorAll('[role=dialog] img').length === 7")
        page.keyboard.press("Escape")
        page.get_by_role("dialog").wait_for(state="detached")

    def test_a_bracket_is_of_the_change_that_was_just_made(self):
        page = self.page
        roughness = self.band("Interface").get_by_role("slider", name="Roughness", exact=True)
        roughness.focus()
        for _ in range(3):
            for _ in range(8):
                page.keyboard.press("ArrowRight")
            page.keyboard.press("b")
            page.wait_for_function("() => document.querySelectorAll('[role=dialog] img').length === 7")
            page.keyboard.press("Escape")
            page.get_by_role("dialog").wait_for(state="detached")
            roughness.focus()
