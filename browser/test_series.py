"""Turntables, finishes and trials that are made behind, in the browser."""

import io
import json

import numpy as np
from materials.models import Material
from nineglass.documents import model as documents
from nineglass.documents.model import read
from PIL import Image
from playwright.sync_api import expect
from tests.lengths import LONG

from browser.case import PATIENCE_MS
from browser.sittings import EvenLight, FinalsCase

ABOUT = ["web/src/pictures", "server/pictures"]


class SeriesCase(FinalsCase):
    def image_at(self, address: str) -> np.ndarray:
        answer = self.context.request.get(self.url + address)
        return np.asarray(Image.open(io.BytesIO(answer.body())).convert("RGB"), float)


class Turntable(SeriesCase):
    def setUp(self):
        super().setUp()
        self.set("Width in pixels", "64")
        self.pictures.get_by_role("radio", name="a turntable, a motion").click()
        self.pictures.get_by_label("Ends by noise, %").uncheck()
        self.pictures.get_by_label("Ends by samples").check()
        self.set("Samples", "3")

    def test_a_full_turn_is_made_and_played(self):
        page, pictures = self.page, self.pictures
        self.set("Frames", "8")
        self.set("Frames a second", "16")
        pictures.get_by_text("0.5 s", exact=True).wait_for()
        pictures.get_by_role("button", name="Make it").click()
        self.wait_until("done")
        frames = self.card().get_by_role("list", name="Frames").get_by_role("button")
        frames.nth(8).wait_for()
        expect(frames, "eight frames, and one to play them").to_have_count(9)
        video = page.locator("video")
        page.wait_for_function("() => document.querySelector('video').readyState >= 3")
        facts = page.evaluate(
            "() => { const v = document.querySelector('video'); return [v.videoWidth, v.duration, v.loop] }"
        )
        self.assertEqual((facts[0], facts[2]), (64, True))
        self.assertAlmostEqual(facts[1], 0.5, delta=0.05)
        self.assertGreater(video.evaluate("v => v.videoHeight"), 0)
        frames.nth(3).focus()
        page.keyboard.press("Enter")
        page.get_by_role("img", name="as far as it is").wait_for()
        expect(frames.nth(3)).to_have_attribute("aria-pressed", "true")
        links = [self.card().get_by_role("link", name=name) for name in ("WebM", "PNG of all", "EXR of all")]
        for link, begins in zip(links, (b"\x1aE\xdf\xa3", b"PK", b"PK"), strict=True):
            body = self.context.request.get(self.url + link.get_attribute("href")).body()
            self.assertTrue(body.startswith(begins))

    def test_a_dial_is_driven_over_time_and_a_seam_is_told(self):
        pictures = self.pictures
        self.set("Frames", "4")
        pictures.get_by_label("Drive a dial over time").select_option(label="Exposure")
        self.set("Camera: Exposure, value", "-3")
        pictures.get_by_role("button", name="Make it").click()
        self.page.get_by_text("a loop would jump where it begins again").wait_for()
        self.errors = [error for error in self.errors if "422" not in error]
        pictures.get_by_label("a loop without a seam").uncheck()
        pictures.get_by_role("button", name="take it off").first.click()
        pictures.get_by_role("button", name="Make it").click()
        self.wait_until("done")
        frames = self.card().get_by_role("list", name="Frames").locator("img")
        shown = [self.image_at(frames.nth(k).get_attribute("src")).mean() for k in range(4)]
        self.assertLess(shown[0], 0.7 * shown[1], shown)


class FinishOfPictures(SeriesCase):
    def make(self, width: str):
        self.set("Width in pixels", width)
        self.pictures.get_by_label("Ends by noise, %").uncheck()
        if not self.pictures.get_by_label("Ends by samples").is_checked():
            self.pictures.get_by_label("Ends by samples").check()
            self.set("Samples", "4")
        self.pictures.get_by_role("button", name="Make it").click()
        self.card().get_by_text(f"{width} × {width}").wait_for()
        self.wait_until("done")

    def png(self) -> np.ndarray:
        return self.image_at(self.card().get_by_role("link", name="PNG").get_attribute("href"))

    def test_a_finish_is_turned_shared_wiped_and_taken_off(self):
        page = self.page
        self.make("96")
        plain = self.png()
        self.card().get_by_role("button", name="finish", exact=True).click()
        panel = page.get_by_role("region", name="Finish", exact=True)
        panel.get_by_label("Finish of this picture").select_option(label="a new one")
        panel.get_by_role("checkbox", name="Exposure").click()
        stops = panel.get_by_role("slider", name="Stops")
        stops.focus()
        for _ in range(40):
            page.keyboard.press("ArrowLeft")
        turned = float(stops.get_attribute("aria-valuenow"))
        self.assertLess(turned, -0.3)
        panel.get_by_role("checkbox", name="Bloom and glare").click()
        panel.get_by_role("slider", name="Amount").wait_for()
        seen = page.get_by_role("img", name="with its finish")
        seen.wait_for()
        address = seen.get_attribute("src")
        self.assertIn("exposure", address)
        self.assertLess(self.image_at(address).mean(), 0.95 * plain.mean())
        page.get_by_label("before, left of an edge").check()
        edge = page.get_by_role("slider", name="Edge between picture as it was made and picture")
        edge.focus()
        page.keyboard.press("ArrowRight")
        expect(edge).to_have_attribute("aria-valuenow", "52")
        self.until(lambda: self.png().mean() < 0.97 * plain.mean(), "the worker hands it out with its finish")
        # Another picture wears the same one.
        page.get_by_role("button", name="back from its finish").click()
        self.make("80")
        other = self.png()
        self.card().get_by_role("button", name="finish", exact=True).click()
        panel.get_by_label("Finish of this picture").select_option(label="Finish 1")
        self.until(lambda: self.png().mean() < 0.97 * other.mean(), "the worker hands it out with its finish")
        panel.get_by_role("button", name="remove this finish").focus()
        page.keyboard.press("Enter")
        panel.get_by_text("Several pictures may share one finish").wait_for()
        expect(panel.get_by_label("Finish of this picture")).to_have_value("")

    def test_an_answer_older_than_a_new_finish_does_not_hide_it(self):
        self.make("64")
        late = []
        finishes = "**/api/pictures/finishes"
        self.page.route(
            finishes,
            lambda route: (
                route.continue_() if late or route.request.method != "GET" else late.append((route, route.fetch()))
            ),
        )
        self.card().get_by_role("button", name="finish", exact=True).click()
        panel = self.page.get_by_role("region", name="Finish", exact=True)
        self.until(lambda: late, "the first answer is on its way")
        with self.page.expect_response(f"{finishes}") as begun:
            panel.get_by_label("Finish of this picture").select_option(label="a new one")
        self.assertEqual(begun.value.status, 201)
        panel.get_by_role("checkbox", name="Exposure").wait_for()
        [(_, answer)] = late
        self.assertEqual(answer.json(), [])
        self.page.unroute(finishes)


class TrialsBehind(EvenLight, SeriesCase):
    def prepare(self):
        """In a short run the float is dull, too: its pictures are soon as free of noise as those of a trial are to be."""
        super().prepare()
        if not LONG:
            bands = [{"id": "body", "kind": "body", "dials": {"base_color": [0.2, 0.4, 0.3]}}]
            document = read(documents.Material, {"name": "Net float", "section": {"bands": bands}})
            Material.objects.filter(owner=self.person, name="Net float").update(
                document=document.model_dump(mode="json")
            )

    def test_a_strip_is_made_in_the_queue_and_kept(self):
        page = self.page
        self.go("Trials")
        trials = page.get_by_role("region", name="Trials", exact=True)
        trials.get_by_label("Across: dial").select_option(label="Exposure")
        for label, text in (("Across: from", "-2"), ("Across: to", "2"), ("Across: pictures", "5")):
            self.set(label, text, trials)
        trials.get_by_label("in the queue, while I work on").check()
        trials.get_by_role("button", name="Make the strip").focus()
        page.keyboard.press("Enter")
        queued = trials.get_by_role("region", name="Trials in the queue")
        queued.get_by_text("of 5").wait_for()
        self.go("Bench")
        self.wait_for_picture()
        self.go("Trials")
        kept = trials.get_by_role("region", name="Kept trials")
        kept.get_by_role("img").wait_for(timeout=2 * PATIENCE_MS)
        sheet = self.image_at(kept.get_by_role("img").get_attribute("src"))
        self.assertGreater(sheet.shape[1], 5 * 160)
        csv = self.context.request.get(self.url + kept.get_by_role("link", name="CSV").get_attribute("href")).text()
        self.assertEqual(len(csv.strip().splitlines()), 6)
        means = [float(line.split(",")[2]) for line in csv.strip().splitlines()[1:]]
        self.assertTrue(means == sorted(means) and means[0] < means[4], json.dumps(means))
        queued.wait_for(state="detached")
