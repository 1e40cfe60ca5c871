"""What a person sees when something goes wrong: nothing is lost, and it is said."""

import os
import signal

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
