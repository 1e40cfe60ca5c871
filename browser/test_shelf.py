"""The library's shelf of finished materials, and how an empty bench begins."""

from playwright.sync_api import expect
from tests.lengths import LONG

from browser.case import BrowserCase

ABOUT = ["web/src/library", "server/materials", "server/library", "server/stages"]


class Shelf(BrowserCase):
    def setUp(self):
        super().setUp()
        self.page.get_by_role("link", name="Library").click()
        self.shelf = self.page.get_by_role("region", name="Materials")

    def material(self, name: str):
        return self.shelf.get_by_role("button", name=name, exact=True)

    def test_materials_are_sought_by_word_and_family_put_away_and_brought_back(self):
        page, shelf = self.page, self.shelf
        self.material("Net float").wait_for()
        shelf.get_by_role("tab", name="liquid").click()
        self.material("Ink, blue-black").wait_for()
        expect(self.material("Net float")).to_have_count(0)
        shelf.get_by_role("tab", name="all").click()
        seek = shelf.get_by_label("Seek materials")
        seek.fill("quartz")
        self.material("Rock crystal").click()
        shelf.get_by_label("Tags").fill("clear, hard")
        shelf.get_by_label("Tags").press("Enter")
        seek.fill("hard")
        self.material("Rock crystal").wait_for()
        shelf.get_by_role("button", name="put away").click()
        self.material("Rock crystal").wait_for(state="detached")
        shelf.get_by_role("button", name="1 put away").click()
        shelf.get_by_role("button", name="bring back").click()
        self.material("Rock crystal").wait_for()
        self.material("Rock crystal").click()
        shelf.get_by_role("button", name="Put on the bench").click()
        page.get_by_role("region", name="Interface").wait_for()
        self.assertEqual(page.locator("header select").first.evaluate("e => e.selectedOptions[0].text"), "Rock crystal")

    def test_twins_are_found_and_one_is_put_away(self):
        page, shelf = self.page, self.shelf
        self.material("Net float").click()
        shelf.get_by_role("button", name="copy", exact=True).click()
        page.wait_for_function(
            "() => document.querySelector('header select')?.selectedOptions[0]?.text.endsWith('copy')"
        )
        self.band("Interior").wait_for()
        page.get_by_role("link", name="Library").click()
        shelf.get_by_role("button", name="2 alike").click()
        self.material("Net float, copy").click()
        expect(shelf.locator("ul li button[aria-label]")).to_have_count(2)
        shelf.get_by_role("button", name="put away").click()
        self.material("Net float, copy").wait_for(state="detached")
        expect(shelf.get_by_role("button", name="alike")).to_have_count(0)


class Portraits(BrowserCase):
    makes_portraits = True

    def test_pictures_come_by_themselves(self):
        self.go("Library")
        loaded = "count => [...document.querySelectorAll('[aria-label=Materials] li img')].filter(i => i.naturalWidth === 192).length >= count"
        self.page.wait_for_function(loaded, arg=2 if LONG else 1)


class Presets(BrowserCase):
    def test_a_band_is_kept_with_what_drives_it_and_put_into_another_material(self):
        page = self.page
        page.get_by_label("material").first.select_option(label="Abalone, film by thickness")
        film = self.band("Nacre")
        film.wait_for()
        film.get_by_role("button", name="Keep Nacre").click()
        page.get_by_text("is kept as a preset").wait_for()
        page.get_by_label("material").first.select_option(label="Copper pan")
        self.band("Metal").wait_for()
        self.wait_for_picture()
        slips = page.locator(".react-flow__node article").count()
        self.change(lambda: self.place("Nacre preset"))
        self.band("Nacre").wait_for()
        self.assertGreater(page.locator(".react-flow__node article").count(), slips, "what drives it came along")
        page.keyboard.press("Control+z")
        self.band("Nacre").wait_for(state="detached")

    def test_a_whole_section_takes_the_place_of_another_and_is_removed(self):
        page = self.page
        section = page.get_by_role("complementary", name="Section")
        section.get_by_role("button", name="keep all").click()
        page.get_by_text("is kept as a preset").wait_for()
        page.get_by_label("material").first.select_option(label="Copper pan")
        self.band("Metal").wait_for()
        self.wait_for_picture()
        self.change(lambda: section.get_by_role("button", name="Net float instead").click())
        self.band("Interior").wait_for()
        expect(self.band("Metal")).to_have_count(0)
        section.get_by_text("Copper pan").first.wait_for()
        page.get_by_role("link", name="Library").click()
        page.get_by_role("tab", name="presets").focus()
        page.keyboard.press("Enter")
        presets = page.get_by_role("region", name="Presets")
        presets.get_by_role("button", name="remove").focus()
        page.keyboard.press("Enter")
        presets.get_by_text("Nothing is kept yet").wait_for()


class StagesByPictures(BrowserCase):
    def test_a_stage_is_sought_and_taken_by_keyboard(self):
        page = self.page
        page.get_by_role("button", name="Stages by their pictures").focus()
        page.keyboard.press("Enter")
        stages = page.get_by_role("dialog", name="Stages by their pictures")
        page.keyboard.type("lamp room")
        stages.get_by_role("button", name="Lamp room").focus()
        self.change(lambda: page.keyboard.press("Enter"))
        self.assertEqual(
            page.get_by_role("combobox", name="stage").evaluate("e => e.selectedOptions[0].text"), "Lamp room"
        )
        page.get_by_role("link", name="Library").click()
        page.get_by_role("tab", name="stages").click()
        page.get_by_role("region", name="Stages").get_by_role("button", name="Window bench").click()
        page.get_by_role("navigation", name="Places").locator("[aria-current=page]", has_text="Stage").wait_for()


class Start(BrowserCase):
    def test_an_empty_bench_begins_from_a_family_by_keyboard(self):
        page = self.page
        page.keyboard.press("/")
        page.keyboard.type("new material")
        page.keyboard.press("Enter")
        sheet = page.get_by_role("dialog", name="Begin with")
        sheet.wait_for()
        sheet.get_by_role("tab", name="gem").focus()
        page.keyboard.press("Enter")
        sheet.get_by_role("button", name="Diamond").focus()
        page.keyboard.press("Enter")
        page.get_by_role("region", name="Interface").wait_for()
        page.wait_for_function("() => document.querySelector('[data-band] select')?.value === 'diamond'")


class Dropped(BrowserCase):
    """A material dropped on a form is worn, follows when its own is saved, and is detached."""

    def card(self, name: str):
        self.page.get_by_role("button", name="All by their pictures").click()
        return self.page.get_by_role("dialog", name="All by their pictures").get_by_role(
            "button", name=name, exact=True
        )

    def wear(self):
        self.page.get_by_role("link", name="Stage").click()
        return self.page.get_by_label("Made of").first

    def worn(self) -> list[dict]:
        """What the objects of all stages wear, as the server tells it."""
        stages = self.page.evaluate("() => fetch('/api/stages').then(answer => answer.json())")
        wears = [wear for one in stages for o in one["document"]["objects"] for wear in o["wears"].values()]
        return [wear for wear in wears if wear["follows"]]

    def open_material(self, name: str):
        self.card(name).click()
        self.wait_for_picture()

    def test_on_the_picture_and_it_follows(self):
        page = self.page
        picture = page.get_by_test_id("picture")
        self.card("Diamond").drag_to(picture, target_position={"x": 150, "y": 220})
        page.keyboard.press("Escape")
        made_of = self.wear()
        page.wait_for_function("() => document.body.innerText.includes('follows it when it is saved')")
        self.assertEqual(made_of.evaluate("e => e.selectedOptions[0].text"), "Diamond")
        page.keyboard.press("Control+s")
        page.get_by_text(", saved").wait_for()
        [worn] = self.worn()
        self.assertEqual(worn["material"]["name"], "Diamond")
        page.get_by_role("link", name="Bench").click()
        self.open_material("Diamond")
        self.change(lambda: self.band("Interface").get_by_role("slider", name="Roughness", exact=True).press("End"))
        page.keyboard.press("Control+s")
        page.get_by_text("revision 2, saved").wait_for()
        [worn] = self.worn()
        dials = worn["material"]["section"]["bands"][0]["dials"]
        self.assertEqual(dials["specular_roughness"], 1)

    def test_by_keyboard_and_detached(self):
        page = self.page
        made_of = self.wear()
        made_of.focus()
        made_of.select_option(label="Diamond")
        detach = page.get_by_role("button", name="Detach what the body is made of")
        detach.wait_for()
        detach.focus()
        page.keyboard.press("Enter")
        page.get_by_text("a copy of its own").wait_for()
        page.keyboard.press("Control+z")
        page.get_by_text("follows it when it is saved").wait_for()

    def test_beside_every_form_nothing_is_worn(self):
        page = self.page
        self.card("Diamond").drag_to(page.get_by_test_id("picture"), target_position={"x": 8, "y": 8})
        page.get_by_text("There is no form at that place").wait_for()
