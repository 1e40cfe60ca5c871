"""The library's shelf of finished materials, and how an empty bench begins."""

from browser.case import BrowserCase


class Shelf(BrowserCase):
    makes_portraits = True

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
        self.assertEqual(self.material("Net float").count(), 0)
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

    def test_pictures_come_by_themselves_and_colours_are_sought(self):
        page = self.page
        page.wait_for_function("() => document.querySelectorAll('[aria-label=Materials] li img').length >= 2")
        loaded = "() => [...document.querySelectorAll('[aria-label=Materials] li img')].filter(i => i.naturalWidth === 192).length >= 2"
        page.wait_for_function(loaded)


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
