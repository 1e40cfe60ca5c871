from stages.models import Stage

from browser.case import BrowserCase

LUMINANCE = (0.2126, 0.7152, 0.0722)


class StagePlace(BrowserCase):
    """Setting a stage, looking up matter, and asking the picture."""

    def go(self, place):
        self.page.get_by_role("navigation", name="Places").get_by_role("link", name=place).click()

    def test_a_lamp_is_dragged_in_the_plan(self):
        self.wait_for_picture(samples=2)
        self.go("Stage")
        before = self.pixels()[100:400, 100:400] @ LUMINANCE
        plan = self.page.get_by_role("img", name="Plan from above")
        lamp = plan.locator("text=Window").first
        box, paper = lamp.bounding_box(), plan.bounding_box()
        start = (box["x"] + box["width"] / 2, box["y"] + box["height"] + 14)

        def drag():
            self.page.mouse.move(*start)
            self.page.mouse.down()
            for step in range(1, 11):
                self.page.mouse.move(start[0] + (paper["x"] + paper["width"] * 0.75 - start[0]) * step / 10, start[1])
            self.page.mouse.up()

        self.change(drag, samples=2)
        after = self.pixels()[100:400, 100:400] @ LUMINANCE
        half = before.shape[1] // 2
        self.assertGreater(
            after[:, half:].mean() / after[:, :half].mean(), before[:, half:].mean() / before[:, :half].mean()
        )

    def test_a_second_object_is_put_on_the_stage_and_saved(self):
        self.wait_for_picture(samples=2)
        self.go("Stage")
        self.change(lambda: self.page.get_by_role("button", name="Add to objects").click(), samples=2)
        self.page.get_by_label("The chosen part").locator("select").first.select_option(label="Rod")
        self.page.keyboard.press("Control+s")
        self.page.wait_for_function(
            "() => document.querySelector('[data-testid=saving]').textContent.includes('saved')"
        )
        kept = Stage.objects.get(name="Window bench").document
        self.assertEqual([one["form"]["kind"] for one in kept["objects"]], ["hollow_float", "rod"])
        self.page.reload()
        self.wait_for_picture(samples=1)
        self.assertTrue(self.page.get_by_role("button", name="rod", exact=True).is_visible())

    def test_a_substance_goes_on_the_bench_with_one_click(self):
        self.wait_for_picture(samples=2)
        self.go("Library")
        self.page.get_by_label("Seek substances").fill("diam")
        self.page.get_by_role("button", name="Diamond").click()
        self.change(lambda: self.page.get_by_role("button", name="Put on the bench").click(), samples=1)
        self.go("Bench")
        self.assertEqual(self.band("Interface").get_by_label("Substance").input_value(), "diamond")
        self.page.get_by_role("tab", name="Index").click()
        self.page.get_by_text("n = 2.4175").wait_for()

    def test_the_picture_tells_its_light_and_its_way(self):
        self.wait_for_picture(samples=2)
        box = self.page.locator("[data-testid=picture]").bounding_box()
        middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        for key, words in (("p", "scene"), ("f", "enters")):
            self.page.keyboard.down(key)
            self.page.mouse.click(*middle)
            self.page.keyboard.up(key)
            self.page.get_by_label("Read from the picture").get_by_text(words).first.wait_for()
        self.page.get_by_role("img", name="The way of the light").wait_for()

    def test_the_same_by_keyboard(self):
        self.wait_for_picture(samples=2)
        self.page.locator("[role=application]").first.focus()
        self.page.keyboard.press("Shift+Enter")
        self.page.get_by_label("Read from the picture").get_by_text("of what comes in").wait_for()
