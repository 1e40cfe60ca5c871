from playwright.sync_api import expect

from browser.case import BrowserCase

ABOUT = ["web/src/section", "web/src/picture"]

SEVEN = "() => document.querySelectorAll('[role=dialog] img').length === 7"


class Section(BrowserCase):
    """Bands, the slips that drive them, and what helps to find a value."""

    def add(self, name: str):
        self.page.get_by_role("group", name="Add a band").get_by_role("button", name=f"+ {name}", exact=True).click()

    def value(self, dial) -> float:
        return float(dial.get_attribute("aria-valuenow"))

    def test_bands_are_added_moved_where_physics_allows_and_taken_out(self):
        self.change(lambda: self.add("film"))
        self.assertTrue(self.band("Film").is_visible())
        self.page.get_by_role("tab", name="Film").wait_for()
        self.add("coat")
        order = "() => [...document.querySelectorAll('[data-band]')].map(b => b.dataset.band)"
        self.assertEqual(self.page.evaluate(order), ["coat_1", "film_1", "interface", "interior"])
        self.change(lambda: self.page.get_by_role("button", name="Move coat inwards").click())
        self.assertEqual(self.page.evaluate(order), ["film_1", "coat_1", "interface", "interior"])
        blocked = self.page.get_by_role("button", name="Move coat inwards")
        expect(blocked).to_have_attribute("aria-disabled", "true")
        self.assertIn("matter begins at its boundary", blocked.get_attribute("title") + self.reason("interface"))
        self.page.keyboard.press("Control+z")
        self.assertEqual(self.page.evaluate(order), ["coat_1", "film_1", "interface", "interior"])
        self.change(lambda: self.page.get_by_role("button", name="Replace or remove Film").click())
        self.assertEqual(self.page.evaluate(order), ["coat_1", "interface", "interior"])

    def choose_sixth(self):
        self.page.get_by_role("dialog").get_by_role("button").nth(6).click()

    def reason(self, band: str) -> str:
        return self.page.get_by_role("button", name=f"Move {band} inwards").get_attribute("title")

    def test_a_split_has_two_sides_and_joins_again(self):
        self.add("split")
        self.change(lambda: self.add("body colour second"))
        side = self.page.get_by_label("Side of body")
        expect(side).to_have_value("second")
        self.change(lambda: self.page.get_by_role("button", name="Replace or remove Split").click())
        expect(self.page.locator("[data-band=body_1]")).to_have_count(0)

    def test_a_film_is_driven_held_up_and_bracketed(self):
        self.add("film")
        self.page.get_by_role("button", name="Drive Thickness by a number").click()
        self.change(lambda: self.find("facing"))
        slip = self.page.get_by_role("article", name="Facing")
        slip.click(position={"x": 20, "y": 8})
        self.page.keyboard.press("h")
        held = self.page.get_by_test_id("held")
        held.wait_for()
        expect(held).to_contain_text("held up:", use_inner_text=True)
        self.page.keyboard.press("h")
        held.wait_for(state="detached")
        index = self.band("Film").get_by_role("slider", name="Index")
        before = self.value(index)
        index.focus()
        self.page.keyboard.press("b")
        for press in (lambda: self.page.keyboard.press("6"), self.choose_sixth, self.choose_sixth):
            self.page.wait_for_function(SEVEN)
            press()
        self.page.get_by_role("dialog").wait_for(state="detached")
        self.assertTrue(2.2 < self.value(index) < 2.6, "the sixth of seven, three times over")
        self.page.keyboard.press("Control+z")
        self.assertEqual(self.value(index), before)

    def test_a_found_slip_is_wired_to_the_chosen_port(self):
        notch = self.page.locator("[data-id='notch:interface:specular_roughness'] .port").first
        box = notch.bounding_box()
        self.page.mouse.move(box["x"] + 6, box["y"] + 6)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] - 220, box["y"] + 150, steps=8)
        self.page.mouse.up()
        field = self.page.get_by_role("textbox", name="Find")
        field.fill("perlin")
        self.change(lambda: field.press("Enter"))
        expect(self.band("Interface").locator("[data-dial=specular_roughness]")).to_contain_text(
            "driven", use_inner_text=True
        )

    def test_bands_and_commands_are_found_by_other_words(self):
        self.page.keyboard.press("/")
        field = self.page.get_by_role("textbox", name="Find")
        field.fill("thin_film")
        self.page.get_by_label("Found").get_by_text("Film", exact=True).wait_for()
        field.fill("voronoi")
        self.page.get_by_label("Found").get_by_text("Worley", exact=True).wait_for()
        self.page.keyboard.press("Escape")

    def test_what_differs_from_a_proof_stands_in_words_and_is_wiped_over(self):
        self.page.keyboard.press("k")
        self.page.get_by_role("button", name="Proof 1").wait_for()
        said = self.page.get_by_role("note", name="Since the proof")
        self.assertEqual(said.inner_text(), "as the proof")
        self.change(lambda: self.type_into(self.band("Interface").get_by_role("slider", name="Roughness"), "0.2"))
        self.assertEqual(said.inner_text(), "Interface roughness 0 → 0.2")
        self.page.get_by_role("button", name="wipe").click()
        edge = self.page.get_by_role("slider", name="Edge between proof and picture")
        self.assertEqual(self.value(edge), 50)
        edge.focus()
        self.page.keyboard.press("ArrowRight")
        self.assertEqual(self.value(edge), 52)

    def test_four_proofs_stand_side_by_side(self):
        roughness = self.band("Interface").get_by_role("slider", name="Roughness")
        for number, value in ((1, "0.1"), (2, "0.2")):
            self.page.keyboard.press("k")
            self.page.get_by_role("button", name=f"Proof {number}").wait_for()
            self.change(lambda value=value: self.type_into(roughness, value))
        self.page.get_by_role("button", name="four").click()
        four = self.page.get_by_role("list", name="Four proofs")
        expect(four.get_by_role("img")).to_have_count(2)
        expect(four).to_contain_text("since then: Interface roughness 0 → 0.2", use_inner_text=True)
        expect(four).to_contain_text("since then: Interface roughness 0.1 → 0.2", use_inner_text=True)
        four.get_by_role("button").first.click()
        self.page.get_by_role("slider", name="Edge between proof and picture").wait_for()

    def test_a_gradient_is_put_on_a_ramp(self):
        self.page.keyboard.press("/")
        field = self.page.get_by_role("textbox", name="Find")
        field.fill("colour ramp")
        field.press("Enter")
        ramp = self.page.get_by_role("article", name="Colour ramp")
        ramp.get_by_role("button", name="Choose a gradient").click()
        ramp.get_by_role("button", name="temper colours").click()
        self.page.wait_for_function(
            "() => document.querySelectorAll('[data-dial=stops] [aria-label^=Stop]').length === 6"
        )

    def test_slips_are_copied_into_another_material(self):
        self.page.get_by_label("material").first.select_option(label="Shears")
        self.page.get_by_role("article", name="From tip to bow").wait_for()
        self.wait_for_picture()
        self.page.get_by_role("article", name="From tip to bow").click(position={"x": 20, "y": 8})
        self.page.keyboard.press("Control+c")
        self.page.get_by_label("material").first.select_option(label="Net float")
        self.wait_for_picture()
        self.page.locator("[aria-label=Section]").click(position={"x": 150, "y": 12})
        self.page.keyboard.press("Control+v")
        self.page.get_by_role("article", name="From tip to bow").wait_for()

    def test_nothing_stands_in_the_way_on_any_place(self):
        for place in ("Stage", "Trials", "Library", "Bench"):
            self.page.get_by_role("link", name=place, exact=True).click()
            self.page.wait_for_load_state("networkidle")
            self.assertEqual(self.serious_findings(), [], place)
