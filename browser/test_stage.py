from playwright.sync_api import expect
from stages.models import Stage

from browser.case import PixelCase

ABOUT = ["web/src/stage", "server/stages"]

LUMINANCE = (0.2126, 0.7152, 0.0722)


class StagePlace(PixelCase):
    """Setting a stage, looking up matter, and asking the picture."""

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
        self.page.get_by_role("tab", name="substances").click()
        self.page.get_by_label("Seek substances").fill("diam")
        self.page.get_by_role("button", name="Diamond").click()
        self.change(lambda: self.page.get_by_role("button", name="Put on the bench").click(), samples=1)
        self.go("Bench")
        expect(self.band("Interface").get_by_label("Substance")).to_have_value("diamond")
        self.page.get_by_role("tab", name="Index").click()
        self.page.get_by_text("n = 2.4175").wait_for()
        self.go("Library")
        self.page.get_by_role("tab", name="matter that scatters").click()
        self.page.get_by_role("button", name="Whole milk").click()
        self.page.get_by_text("Source: ").wait_for()
        self.change(lambda: self.page.get_by_role("button", name="Put on the bench").click(), samples=1)
        self.go("Bench")
        expect(self.band("Interior").get_by_label("Scattering matter")).to_have_value("whole-milk")

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

    def test_who_sees_what(self):
        self.wait_for_picture(samples=2)
        self.go("Stage")
        covered = self.pixels()[200:280, 200:280].mean(axis=(0, 1))
        hide = self.page.get_by_label("Form: Seen by the camera")
        self.change(hide.uncheck, samples=2)
        seen_through = self.pixels()[200:280, 200:280].mean(axis=(0, 1))
        self.assertGreater(abs(covered - seen_through).max(), 0.02)
        off = self.page.get_by_label("Window lights floor")
        before = self.pixels()[400:, :] @ LUMINANCE
        self.change(off.uncheck, samples=2)
        self.assertLess((self.pixels()[400:, :] @ LUMINANCE).mean(), before.mean())

    def test_the_surround_is_changed_and_undone(self):
        self.wait_for_picture(samples=2)
        self.go("Stage")
        self.page.get_by_role("button", name="surround", exact=True).click()
        card = self.page.get_by_label("The chosen part")
        self.change(lambda: card.get_by_label("Kind").first.select_option(label="Clear sky"), samples=1)
        card.get_by_role("slider", name="Turbidity").wait_for()
        strip = self.page.get_by_role("img", name="what lights and reflects")
        strip.wait_for()
        self.change(lambda: self.page.keyboard.press("Control+z"), samples=1)
        expect(card.get_by_role("slider", name="Turbidity")).to_have_count(0)

    def test_a_stage_is_copied(self):
        self.wait_for_picture(samples=1)
        self.go("Stage")
        self.page.get_by_role("button", name="copy this stage").click()
        self.page.wait_for_function(
            "() => [...document.querySelectorAll('header select')[1].selectedOptions][0].textContent.endsWith('copy')"
        )
        self.assertTrue(Stage.objects.filter(name="Window bench, copy").exists())

    def test_the_liquid_wears_a_material_of_its_own(self):
        self.wait_for_picture(samples=2)
        self.go("Stage")
        card = self.page.get_by_label("The chosen part")
        self.change(lambda: card.locator("select").first.select_option(label="Beaker"), samples=1)
        self.change(lambda: card.get_by_label("Liquid of").select_option(label="Rosehip cordial"), samples=4)
        middle = self.pixels()[255:300, 215:265].mean(axis=(0, 1))
        self.assertGreater(middle[0], 1.5 * middle[2], "red where the cordial is")

    def test_dyes_are_dialled_and_diluted(self):
        self.wait_for_picture(samples=2)
        interior = self.band("Interior")
        self.change(lambda: interior.get_by_label("Absorption from").select_option("dyes"), samples=1)
        self.change(lambda: interior.get_by_label("Dye 1").select_option("woad"), samples=1)
        self.change(lambda: interior.get_by_role("slider", name="Concentration").press("PageUp"), samples=1)
        self.page.get_by_role("tab", name="Absorption").click()
        self.page.get_by_text("Absorbs most at 6").wait_for()

    def test_a_curve_is_pasted(self):
        self.wait_for_picture(samples=2)
        interior = self.band("Interior")
        self.change(lambda: interior.get_by_label("Absorption from").select_option("curve"), samples=1)
        interior.get_by_role("button", name="paste, open or keep").click()
        paste = interior.get_by_label("Curve as text")
        self.change(lambda: paste.fill("400; 10\n550; 80\n700; 20"), samples=1)
        interior.get_by_text("3 points taken").wait_for()
