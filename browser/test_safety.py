"""What a person sees when something goes wrong: nothing is lost, and it is said."""

import os
import signal

from django.conf import settings
from playwright.sync_api import expect

from browser.case import BrowserCase

ABOUT = ["web/src/bench", "server/live"]


class WhenThingsGoWrong(BrowserCase):
    has_own_server = True

    def status(self, words):
        return self.page.get_by_text(words, exact=False)

    def test_a_wish_for_a_proof_outlives_the_renderer(self):
        self.page.keyboard.press("k")
        os.kill(self.renderers()[0], signal.SIGKILL)
        self.page.get_by_role("button", name="Proof 1").wait_for()

    def test_the_renderer_is_killed_and_the_picture_goes_on(self):
        self.wait_for_picture(samples=3)
        (victim,) = self.renderers()
        os.kill(victim, signal.SIGKILL)
        self.status("The renderer stopped and was started again").wait_for()
        self.wait_for_picture(samples=2)
        self.status("The renderer stopped").wait_for(state="detached")
        self.assertNotIn(victim, self.renderers())
        self.change(lambda: self.type_into(self.page.get_by_role("slider", name="at depth"), "4"))

    def test_a_hanging_renderer_is_replaced_and_the_picture_goes_on(self):
        (victim,) = self.renderers()
        os.kill(victim, signal.SIGSTOP)
        self.status("The renderer stopped and was started again").wait_for()
        self.wait_for_picture()
        self.assertNotIn(victim, self.renderers())

    def test_signing_out_elsewhere_closes_the_bench_and_says_so(self):
        other = self.context.new_page()
        other.goto(f"{self.url}/sign-in/")
        other.evaluate(
            "() => fetch('/sign-out/', {method: 'POST', headers: {'X-CSRFToken': document.cookie.match(/csrftoken=([^;]*)/)[1]}})"
        )
        self.status("You have signed out").wait_for()
        self.page.keyboard.press("k")
        self.status("Not kept: the connection is lost. Keep again.").wait_for()

    def test_a_full_storage_is_told(self):
        self.page.evaluate(
            "() => { Storage.prototype.setItem = () => { throw new DOMException('full', 'QuotaExceededError') } }"
        )
        self.change(lambda: self.type_into(self.page.get_by_role("slider", name="at depth"), "3 cm"))
        self.status("The browser's storage is full").wait_for()

    def test_a_draft_of_an_older_version_is_brought_up(self):
        self.change(lambda: self.type_into(self.page.get_by_role("slider", name="at depth"), "7 cm"))
        self.page.wait_for_function("() => Object.keys(localStorage).some(key => key.startsWith('nineglass-draft-'))")
        old = (settings.ROOT / "core/tests/version_1/lamp-room.json").read_text()
        self.page.evaluate(
            """old => { const key = Object.keys(localStorage).find(key => key.startsWith('nineglass-draft-'));
            addEventListener('pagehide', () => {
              const draft = JSON.parse(localStorage.getItem(key));
              localStorage.setItem(key, JSON.stringify({...draft, stage: JSON.parse(old)})) }) }""",
            old,
        )
        self.page.reload()
        self.wait_for_picture()
        expect(self.page.get_by_role("slider", name="at depth")).to_have_attribute("aria-valuetext", "7 cm")
        self.change(lambda: self.type_into(self.page.get_by_role("slider", name="at depth"), "8 cm"))
        self.page.wait_for_function(
            """() => { const key = Object.keys(localStorage).find(key => key.startsWith('nineglass-draft-'));
            const {stage} = JSON.parse(localStorage.getItem(key)); return stage.version === 2 && stage.objects.length === 1 }"""
        )

    def test_a_save_that_does_not_arrive_keeps_the_work_here(self):
        self.page.route("**/api/materials/*", lambda route: route.abort())
        self.change(lambda: self.type_into(self.page.get_by_role("slider", name="at depth"), "4 cm"))
        self.page.keyboard.press("Control+s")
        self.status("Your work is kept in this browser").wait_for()
        self.errors.clear()
