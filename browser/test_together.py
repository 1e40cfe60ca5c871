"""Two persons on one material: each sees that the other is there; a comment at a place of a proof; saves that are merged."""

import re

from django.contrib.auth import get_user_model
from materials.models import Material, Proof
from people.models import Comment
from playwright.sync_api import expect

from browser.case import BrowserCase

ABOUT = ["web/src/people", "server/people"]

RIM = "The rim wants to be darker here."


class TwoPersons(BrowserCase):
    """The keeper has shared the net float with the mate, who may change it."""

    def setUp(self):
        super().setUp()
        mate = get_user_model().objects.get(username="mate")
        self.mates = self.open_bench(mate, self.new_context())

    def roughness(self, page):
        return page.get_by_role("region", name="Interface").get_by_role("slider", name="Roughness")

    def type_on(self, page, slider, value):
        slider.focus()
        page.keyboard.press("Enter")
        page.keyboard.press("Control+a")
        page.keyboard.type(value)
        page.keyboard.press("Enter")

    def test_a_comment_a_merge_and_a_conflict(self):
        keepers, mates = self.page, self.mates
        for page, other in ((keepers, "mate"), (mates, "keeper")):
            page.get_by_role("status", name="Who else is here").get_by_text(other).wait_for()

        mates.keyboard.press("k")
        proof = mates.get_by_role("button", name=re.compile("^Proof 1,"))
        proof.wait_for()
        mates.keyboard.press("\\")
        place = mates.get_by_role("button", name="Point at a place of the proof")
        box = place.bounding_box()
        place.click(position={"x": box["width"] * 0.3, "y": box["height"] * 0.6})
        mates.get_by_label("Say something of this proof").fill(RIM)
        mates.keyboard.press("Enter")
        mates.get_by_role("list", name="Comments").get_by_text(RIM).wait_for()
        said = Comment.objects.get()
        self.assertAlmostEqual(said.x, 0.3, delta=0.02)
        self.assertAlmostEqual(said.y, 0.6, delta=0.02)
        self.assertEqual(Proof.objects.get().owner, self.person)
        self.page = mates
        self.assertEqual(self.serious_findings(), [])
        self.page = keepers

        self.type_on(keepers, self.roughness(keepers), "0.3")
        keepers.get_by_role("button", name=re.compile("^Proof 1,.*with comments")).click()
        keepers.get_by_role("list", name="Comments").get_by_text(RIM).wait_for()
        keepers.get_by_role("button", name="Comment 1 of mate").wait_for()
        since = keepers.get_by_role("note", name="Changed since this proof")
        since.get_by_text("roughness 0 → 0.3").wait_for()
        keepers.keyboard.press("\\")

        mates.keyboard.press("\\")
        depth = mates.get_by_role("region", name="Interior").get_by_role("slider", name="at depth")
        self.type_on(mates, depth, "3")
        mates.keyboard.press("Control+s")
        mates.get_by_test_id("saving").get_by_text("revision 2, saved").wait_for()
        keepers.get_by_role("button", name="bring in 2").click()
        keepers.get_by_text("Saved together with what was changed elsewhere").wait_for()
        bands = Material.objects.get(name="Net float", owner=self.person).document["section"]["bands"]
        self.assertEqual(bands[0]["dials"]["specular_roughness"], 0.3)
        self.assertEqual(bands[1]["dials"]["transmission_depth"], 3)

        mates.get_by_role("button", name="bring in 3").click()
        mates.get_by_test_id("saving").get_by_text("revision 3, saved").wait_for()
        expect(self.roughness(mates)).to_have_attribute("aria-valuenow", "0.3")

        self.type_on(keepers, self.roughness(keepers), "0.1")
        self.type_on(mates, self.roughness(mates), "0.6")
        keepers.keyboard.press("Control+s")
        keepers.get_by_test_id("saving").get_by_text("revision 4, saved").wait_for()
        mates.keyboard.press("Control+s")
        sheet = mates.get_by_role("dialog", name="Saved elsewhere in the meantime")
        sheet.get_by_text("Both changed: interface").wait_for()
        sheet.get_by_role("button", name="Save mine as a copy").click()
        mates.get_by_role("combobox", name="material").locator("option:checked", has_text="Net float, copy").wait_for(
            state="attached"
        )
        self.expect_refused("409")

    def test_sharing_and_taking_back(self):
        keepers, mates = self.page, self.mates
        keepers.get_by_role("button", name="Shared with").click()
        sheet = keepers.get_by_role("dialog", name="Shared with")
        float_ = sheet.get_by_role("region", name="The material Net float")
        float_.get_by_role("combobox", name="What mate may").select_option("look")
        self.page = keepers
        self.assertEqual(self.serious_findings(), [])
        float_.get_by_role("combobox", name="What mate may").and_(keepers.locator("select:not(:disabled)")).wait_for()
        self.until(
            lambda: Material.objects.get(name="Net float", owner=self.person).shares.get().may == "look", "only to look"
        )
        self.type_on(mates, self.roughness(mates), "0.4")
        mates.keyboard.press("Control+s")
        mates.get_by_test_id("saving").get_by_text("keeper's").wait_for()
        float_.get_by_role("button", name="Take it back from mate").click()
        float_.get_by_text("Nobody else has it.").wait_for()
        mates.get_by_text("no longer shared with you").wait_for()
        float_.get_by_role("combobox", name="Share the material with").select_option("mate")
        float_.get_by_role("button", name="Share").click()
        float_.get_by_role("combobox", name="What mate may").wait_for()
        keepers.keyboard.press("Escape")
        self.expect_refused("422", "404")

    def expect_refused(self, *codes: str):
        """The browser tells of an answer that was to be refused."""
        self.assertTrue(all(any(code in one for code in codes) for one in self.errors), self.errors)
        self.errors.clear()
