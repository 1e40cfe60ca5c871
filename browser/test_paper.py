from playwright.sync_api import expect

from browser.test_modules import Paper

ABOUT = ["web/src/network", "web/src/ui", "server/materials"]


class Stops(Paper):
    """Ramps and gradients on the slip."""

    def points(self):
        return self.slip("Ramp").locator("[data-dial=stops] [role=slider][aria-label^=Point]")

    def drag(self, handle, right: float, down: float):
        box = handle.bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + right, y + down, steps=5)
        self.page.mouse.up()

    def heights(self) -> list[float]:
        return [float(point.get_attribute("aria-valuenow")) for point in self.points().all()]

    def test_points_of_a_ramp_are_dragged_added_and_taken_off(self):
        self.place("ramp")
        self.assertEqual(self.heights(), [0.4, 0.0])
        self.assertEqual(self.serious_findings(), [])
        self.drag(self.points().nth(1), -30, -30)
        self.until(lambda: self.heights()[1] > 0.3, "the second point is where it was put")
        self.assertEqual(self.heights()[0], 0.4)
        paper = self.slip("Ramp").locator("[data-dial=stops] svg[role=application]").bounding_box()
        self.page.mouse.dblclick(paper["x"] + paper["width"] / 2, paper["y"] + 8)
        self.page.wait_for_function("() => document.querySelectorAll('[aria-label^=\"Point\"]').length === 3")
        self.until(lambda: self.heights()[1] > 0.8, "a third point is between them")
        self.points().nth(1).focus()
        before = self.heights()[1]
        self.page.keyboard.press("ArrowDown")
        self.assertLess(self.heights()[1], before)
        self.page.keyboard.press("Delete")
        expect(self.points()).to_have_count(2)
        self.undo()
        expect(self.points()).to_have_count(3)

    def test_a_gradient_is_found_by_name_and_carried_to_another_ramp(self):
        self.place("temper colours")
        first = self.slip("Colour ramp")
        stops = first.locator("[data-dial=stops] [aria-label^=Stop]")
        expect(stops).to_have_count(6)
        self.place("wick flame")
        self.assertEqual((stops.count(), first.count()), (5, 1), "on the chosen ramp")
        self.page.locator(".react-flow__pane").click(position={"x": 20, "y": 640})
        self.place("colour ramp")
        ramps = self.page.locator("[data-slip^=color_ramp]")
        ramps.nth(1).wait_for()
        ramps.nth(1).get_by_role("button", name="Choose a gradient").click()
        ramps.nth(1).get_by_role("button", name="nacre").drag_to(ramps.nth(0).locator("header"))
        ramps.nth(0).get_by_text("5 stops").wait_for()
        ramps.nth(0).locator("header").click()
        ramps.nth(0).get_by_role("button", name="Stop 5 of 5").wait_for()


class Wires(Paper):
    def test_a_slip_is_put_on_the_chosen_wire(self):
        self.page.get_by_label("material").select_option(label="Net float, sea-worn")
        self.slip("Facing").wait_for()
        self.wait_for_picture()
        wires = self.page.locator(".react-flow__edge")
        before = wires.count()
        self.page.locator(".react-flow__edge[data-id='ramp_1.at']").focus()
        self.page.keyboard.press("Enter")
        self.page.locator(".react-flow__edge.selected").wait_for()
        self.place("bias and gain")
        self.slip("Bias and gain").wait_for()
        expect(wires).to_have_count(before + 1)
        self.choose("rim wear")
        self.page.get_by_role("button", name="from Bias and gain").wait_for()
        self.undo()
        self.assertEqual((wires.count(), self.slip("Bias and gain").count()), (before, 0), "one step")

    def test_what_runs_past_a_dial_is_noted_and_clamped_by_one_click(self):
        self.place("number")
        self.type_into(self.slip("Number").get_by_role("slider", name="Value"), "2")
        self.page.locator(".react-flow__pane").click(position={"x": 20, "y": 640})
        self.band("Interface").get_by_role("button", name="Drive Roughness").click()
        self.find("number on paper")
        notes = self.page.get_by_role("region", name="Bench notes")
        notes.get_by_text("past 0 to 1 on 100% of the form").wait_for()
        notes.get_by_role("button", name="Put a clamp on the wire").click()
        self.slip("Clamp").wait_for()
        notes.get_by_text("past 0 to 1").wait_for(state="detached")
        roughness = self.band("Interface").get_by_role("slider", name="Roughness")
        expect(roughness).to_have_attribute("aria-valuetext", "driven 1")
        self.undo()
        expect(self.slip("Clamp")).to_have_count(0)

    def test_a_driven_dial_names_its_driver_and_leads_to_it(self):
        self.page.get_by_label("material").select_option(label="Net float, sea-worn")
        self.slip("Facing").wait_for()
        self.wait_for_picture()
        roughness = self.band("Interface").locator("[data-dial=specular_roughness]")
        roughness.get_by_role("button", name="from rim wear").click()
        self.page.locator(".slip.chosen[data-slip=ramp_1]").wait_for()


class Bands(Paper):
    def carry(self, band: str, to: str, beyond: int):
        a = self.page.get_by_test_id(f"cut-{band}").bounding_box()
        b = self.page.locator(f"[data-band={to}]").bounding_box()
        self.page.mouse.move(a["x"] + 60, a["y"] + a["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(a["x"] + 60, a["y"] + 12, steps=3)
        self.page.mouse.move(a["x"] + 60, b["y"] + b["height"] / 2 + beyond, steps=6)

    def assert_order(self, *bands: str):
        self.page.wait_for_function(
            "bands => [...document.querySelectorAll('[data-band]')].map(one => one.dataset.band).join() === bands.join()",
            arg=bands,
        )

    def test_a_band_is_carried_to_where_it_may_lie(self):
        for kind in ("coat", "film"):
            self.page.get_by_role("group", name="Add a band").get_by_role(
                "button", name=f"+ {kind}", exact=True
            ).click()
        self.assert_order("film_1", "coat_1", "interface", "interior")
        for title in ("Film", "Coat", "Interface"):
            self.band(title).get_by_role("button", expanded=True).first.click()
        self.carry("film_1", "coat_1", 8)
        self.page.mouse.up()
        self.assert_order("coat_1", "film_1", "interface", "interior")
        self.carry("film_1", "interface", 12)
        self.page.get_by_role("alert").get_by_text("a film lies on a coat, an interface or a metal").wait_for()
        self.page.mouse.up()
        self.assert_order("coat_1", "film_1", "interface", "interior")
        self.undo()
        self.assert_order("film_1", "coat_1", "interface", "interior")


class Materials(Paper):
    """Making materials, and where they stand."""

    def chosen(self, label: str) -> str:
        return self.page.get_by_role("combobox", name=label).evaluate("s => s.selectedOptions[0].textContent")

    def test_a_material_opens_on_the_stage_that_it_stood_on_last(self):
        material, stage = (self.page.get_by_role("combobox", name=label) for label in ("material", "stage"))
        material.select_option(label="Shears")
        self.slip("From tip to bow").wait_for()
        self.wait_for_picture()
        self.assertEqual(self.chosen("stage"), "Workbench")
        with self.page.expect_response("**/standing/**"):
            self.change(lambda: stage.select_option(label="Slipway"))
        material.select_option(label="Net float")
        self.band("Interior").wait_for()
        self.wait_for_picture()
        self.assertEqual(self.chosen("stage"), "Window bench")
        material.select_option(label="Shears")
        self.slip("From tip to bow").wait_for()
        self.assertEqual(self.chosen("stage"), "Slipway")

    def test_a_new_material_and_a_copy_are_made_and_named(self):
        self.place("new material")
        self.page.get_by_role("button", name="or nothing: clear glass").click()
        self.page.wait_for_function(
            "() => document.querySelector('select')?.selectedOptions[0].textContent === 'New material'"
        )
        self.wait_for_picture()
        self.page.get_by_role("complementary", name="Section").get_by_role("button", name="New material").dblclick()
        self.page.get_by_label("Name of this material").fill("Sea glass")
        self.page.keyboard.press("Enter")
        self.page.keyboard.press("Control+s")
        self.page.get_by_text("revision 2, saved").wait_for()
        self.page.wait_for_function(
            "() => document.querySelector('select')?.selectedOptions[0].textContent === 'Sea glass'"
        )
        self.type_into(self.band("Interface").get_by_role("slider", name="Roughness"), "0.3")
        self.place("copy this material")
        self.page.wait_for_function(
            "() => document.querySelector('select')?.selectedOptions[0].textContent === 'Sea glass, copy'"
        )
        roughness = self.band("Interface").get_by_role("slider", name="Roughness")
        roughness.wait_for()
        expect(roughness).to_have_attribute("aria-valuenow", "0.3")
