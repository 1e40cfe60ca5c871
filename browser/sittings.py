"""What sittings of a look-development artist share, as they are driven on the real interface."""

import io
import json
import re
import tempfile
from pathlib import Path

import numpy as np
from django.conf import settings
from materials import services
from materials.models import Material
from nineglass.documents import model as documents
from nineglass.documents.model import read
from nineglass.picture.video import read_webm
from pictures.models import FinalPicture
from PIL import Image
from playwright.sync_api import TimeoutError
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker
from stages.models import Stage, Standing
from tests.lengths import LONG

from browser.case import PATIENCE_MS, BrowserCase, PixelCase

LUMINANCE = (0.2126, 0.7152, 0.0722)


def demo_stage(name: str) -> dict:
    return json.loads((settings.DEMO_DIR / f"{name}.json").read_text())


def colorful(rgb: np.ndarray) -> float:
    """How far apart the channels of a part of the picture are, over their mean."""
    return float((rgb.max(axis=-1) - rgb.min(axis=-1)).mean() / max(rgb.mean(), 1e-6))


class EvenLight:
    """In a short run the net float opens in even light: its picture has hardly any noise, and trials of it are soon judged."""

    def prepare(self):
        if LONG:
            return
        plain = {"kind": "plain", "dials": {"color": [1, 1, 1], "strength": 0.6}}
        document = demo_stage("window-bench") | {"name": "Even light", "floor": None, "surround": {"light": plain}}
        stage = Stage.objects.create(owner=self.person, name=document["name"], document=document)
        material = Material.objects.get(owner=self.person, name="Net float")
        Standing.objects.update_or_create(person=self.person, material=material, defaults={"stage": stage})


class Scattering(PixelCase):
    """What the sittings on matter that scatters share."""

    def stand(self, material: str):
        """Put a material of the demo on the bench, on its own stage."""
        self.page.get_by_label("material").first.select_option(label=material)
        section = self.page.get_by_role("complementary", name="Section")
        section.get_by_role("button", name=material).or_(section.get_by_text(material, exact=True)).first.wait_for()
        self.wait_for_picture(samples=3)

    def at(self, x: float, y: float, half: int = 5) -> np.ndarray:
        """The mean colour of the picture about a place, 0 to 1 from left and top."""
        pixels = self.pixels()
        row, column = int(y * len(pixels)), int(x * pixels.shape[1])
        return pixels[row - half : row + half, column - half : column + half].mean(axis=(0, 1))

    def lay(self, document: dict, stage: str):
        """Put a material of its own on the bench, on a stage of the demo; gives the page."""
        services.create(self.person, read(documents.Material, document))
        page = self.page = self.open_bench()
        self.stand(document["name"])
        if page.get_by_role("combobox", name="stage").evaluate("e => e.selectedOptions[0].text") != stage:
            self.change(lambda: page.get_by_role("combobox", name="stage").select_option(label=stage))
        return page

    def turn(self, band: str, dial: str, text: str, samples: int = 3):
        slider = self.band(band).get_by_role("slider", name=dial, exact=True)
        self.change(lambda: self.type_into(slider, text), samples=samples)

    def find_note(self, words: str):
        """Go through the notes to the one that says something."""
        note = self.page.get_by_role("region", name="Bench notes").get_by_role("status")
        for _ in range(6):
            if words in (note.text_content() or ""):
                return
            following = self.page.get_by_role("button", name="next")
            if following.count():
                following.click()
        self.page.get_by_role("region", name="Bench notes").get_by_text(words).wait_for()

    def paint(self, band, dial: str, hex_code: str, samples: int = 4):
        """Set a colour of a band, by its sRGB code."""
        swatch = band.get_by_role("button", name=re.compile(f"^{dial} #"))
        swatch.click()
        box = band.get_by_label("sRGB")
        box.fill(hex_code)
        self.change(lambda: box.press("Enter"), samples=samples)
        swatch.click()

    def keep_stage(self, document: dict):
        stage = read(documents.Stage, document)
        Stage.objects.create(owner=self.person, name=stage.name, document=stage.model_dump(mode="json"))


class Handing(Scattering):
    """What the sittings that end in a final picture share."""

    has_worker = True

    def order(self, width: int, **limits):
        """Put a picture of what is on the bench into the queue, once its card is there. limits: a label and its text; what is not named is off."""
        self.go("Pictures")
        self.pictures = self.page.get_by_role("region", name="Pictures")
        self.set_number("Width in pixels", width)
        for limit, label in (("noise", "Noise, %"), ("samples", "Samples")):
            box = self.pictures.get_by_label(f"Ends by {label.lower()}", exact=True)
            box.set_checked(limit in limits)
            if limit in limits:
                self.set_number(label, limits[limit])
        self.pictures.get_by_role("button", name="Make it").click()
        self.pictures.locator("dl").get_by_text(f"{width} ×").wait_for()

    def set_number(self, label: str, value):
        field = self.pictures.get_by_label(label, exact=True)
        field.fill(str(value))
        field.press("Enter")

    def done(self):
        """Wait for the picture that is chosen."""
        state = self.pictures.get_by_role("group").filter(has=self.page.locator("dl")).get_by_role("status").first
        state.filter(has_text="done").wait_for(timeout=2 * PATIENCE_MS)

    def handed_out(self, what: str = "PNG") -> bytes:
        link = self.pictures.get_by_role("link", name=what, exact=True)
        return self.context.request.get(self.url + link.get_attribute("href")).body()

    def png(self) -> np.ndarray:
        """(h, w, 3 or 4) 0 to 1."""
        return np.asarray(Image.open(io.BytesIO(self.handed_out())), float) / 255

    def facts(self) -> str:
        return self.pictures.locator("dl").inner_text()

    def video(self) -> list[np.ndarray]:
        with tempfile.NamedTemporaryFile(suffix=".webm") as file:
            file.write(self.handed_out("WebM"))
            file.flush()
            return read_webm(Path(file.name))

    def moves(self, frames: int):
        self.go("Pictures")
        self.pictures = self.page.get_by_role("region", name="Pictures")
        self.pictures.get_by_role("radio", name="a turntable, a motion").click()
        self.set_number("Frames", frames)


class FinalsCase(BrowserCase):
    """On Pictures, with a worker, and a bench that soon rests: it comes before final pictures."""

    has_worker = True
    most_samples = 2

    def setUp(self):
        super().setUp()
        self.go("Pictures")
        self.pictures = self.page.get_by_role("region", name="Pictures")

    def set(self, label: str, text: str, among=None):
        field = (among or self.pictures).get_by_label(label, exact=True)
        field.fill(text)
        field.press("Enter")

    def card(self):
        return self.pictures.get_by_role("group", name="Net float on")

    def state(self):
        return self.card().get_by_role("status")

    def wait_until(self, state: str):
        """Wait for a state of the picture; where it does not come, what the database knows of it is told."""
        try:
            self.state().filter(has_text=state).wait_for()
        except TimeoutError as late:
            pictures = FinalPicture.objects.values_list("state", "says")
            jobs = ProcrastinateJob.objects.exclude(status="succeeded").values_list("task_name", "status", "args")
            alive = ProcrastinateWorker.objects.values_list("last_heartbeat", flat=True)
            raise AssertionError(f"not {state}: {list(pictures)}; {list(jobs)}; {list(map(str, alive))}") from late
