"""Refresh docs/screenshots from the demo data, on a server of its own; with `pictures` or `props`, those sheets of renders.

`./bench` sets up what this needs.
"""

import os
import re
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
SHOTS = ROOT / "docs" / "screenshots"
PROPS = (("Oil on slate", "layers"), ("Tallow", "tallow"), ("Shears", ""))

SHEETS = {
    "pictures": (
        *(("net-float", "lamp-room"), ("net-float", "window-bench"), ("rock-crystal", "slate-table")),
        *(("tourmaline", "slate-table-step"), ("ink", "ink-jars"), ("cordial", "cordial-table")),
        *(("signal-lens", "lens-stand"), ("signal-lens-ruby", "lens-stand")),
    ),
    "props": (
        *(("abalone-film", "shell-shelf"), ("shears", "workbench"), ("tea-caddy", "tea-shelf")),
        *(("driftwood", "shelf"), ("oil-slate", "wet-step"), ("scratched-beaker", "washing-up")),
        *(("milk-glass", "milk-steps"), ("tallow", "candle-sill"), ("whale-tooth", "tooth-bench")),
        *(("jade", "seal-desk"), ("rosehip-syrup", "cordial-table"), ("harbour-fog", "harbour")),
        *(("chimney-smoke", "over-the-roofs"), ("wick-flame", "two-wicks"), ("ruby-scattering", "four-ways")),
        *(("open-sea", "off-the-skerry"), ("fog-and-soot", "harbour"), ("vase-blue", "two-vases")),
        *(("signal-cover", "signal-lamp"), ("rosehip-syrup", "cordial-tenfold")),
        *(("otter-pelt", "pelt-table"), ("badger-hair", "brush-shelf")),
        *(("copper-hair", "three-locks"), ("wet-hair", "wet-and-dry")),
        *(("glitter-varnish", "window-bench"), ("glitter-varnish", "window-bench", 6)),
        *(("mica-enamel", "window-bench"), ("launch-paint", "window-bench"), ("sanded-steel", "window-bench")),
    ),
}
"""Sheets of renders of the demo: (material, stage) each, and how much closer than there."""

SIDE, SAMPLES = 300, 48
CLOSE_STOPS = 4
"""How much further than in proportion the lens is stopped down where it is closer."""
COLUMNS = {"pictures": 4, "props": 4}


def set_of(material: str, stage: str, closer: float = 1):
    """A material of the demo on a stage of it, through a lens that is so much longer, stopped down until all of it is sharp."""
    from nineglass.documents.model import Material, Stage, read
    from nineglass.trace.scene import build_set

    documents = ((Material, material), (Stage, stage))
    worn, there = (read(model, (ROOT / "demo" / f"{file}.json").read_bytes()) for model, file in documents)
    if closer != 1:
        dials = there.camera.dials
        dials |= {"focal_length": dials["focal_length"] * closer, "f_stop": dials["f_stop"] * closer * CLOSE_STOPS}
    return build_set(worn, there)


def shown(film, the_set):
    """(h, w, 3) 8-bit: a film in the view of its stage."""
    from nineglass.picture.smooth import Shot
    from nineglass.picture.views import VIEWS

    rgb = Shot.of(film, the_set.exposure).smoothed(tells=False)[0]
    return VIEWS[the_set.stage.view](rgb, the_set.exposure)


def save_sheet(name: str, pictures: list, columns: int) -> None:
    """Pictures of one size, row by row."""
    import numpy as np
    from PIL import Image

    blank = [np.full_like(pictures[0], 60)] * (-len(pictures) % columns)
    rows = [[*pictures, *blank][i : i + columns] for i in range(0, len(pictures), columns)]
    sheet = np.concatenate([np.concatenate(row, axis=1) for row in rows])
    Image.fromarray(sheet).save(SHOTS / f"{name}.png", optimize=True)


def render_sheet(name: str) -> None:
    """Pictures side by side, their noise taken out."""
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer

    tracer, pictures = Tracer(2), []
    for about in SHEETS[name]:
        the_set, film = set_of(*about), Film(SIDE, SIDE)
        tracer.render(the_set, film, 0, SAMPLES)
        pictures.append(shown(film, the_set))
    save_sheet(name, pictures, COLUMNS[name])


ALL_PICTURED = "() => { const all = [...document.querySelectorAll('[aria-label=Materials] li')]; return all.length > 20 && all.slice(0, 24).every(one => one.querySelector('img')?.naturalWidth) }"


def main() -> None:
    import django

    os.environ["DJANGO_SETTINGS_MODULE"] = "config.settings"
    sys.argv = [str(ROOT / "server" / "manage.py")]
    django.setup()
    from config.runner import Runner

    from browser.case import BrowserCase

    class Shots(BrowserCase):
        picture_side, most_samples = 480, 512
        makes_portraits = True
        has_worker = True

        def runTest(self):
            page = self.page
            page.set_default_timeout(400_000)
            self.wait_for_picture(samples=8)
            page.keyboard.press("k")
            page.get_by_role("button", name="Proof 1").wait_for()
            page.get_by_label("material").select_option(label="Net float, sea-worn")
            self.wait_for_picture(samples=8)
            page.screenshot(path=SHOTS / "bench.png")
            page.get_by_role("combobox", name="stage").select_option(label="Lamp room")
            page.get_by_role("button", name="Night theme").click()
            page.get_by_role("tab", name="Facing").click()
            page.wait_for_timeout(2000)
            self.wait_for_picture(samples=8)
            page.screenshot(path=SHOTS / "network-night.png")
            page.get_by_role("button", name="Paper theme").click()
            page.get_by_label("material").select_option(label="Net float")
            page.get_by_role("button", name="Transmission colour #").wait_for()
            self.wait_for_picture()
            page.get_by_role("button", name="Transmission colour #").click()
            page.get_by_role("slider", name="Red").focus()
            self.change(lambda: page.keyboard.press("End"), samples=8)
            page.screenshot(path=SHOTS / "bench-note.png")
            page.get_by_label("material").select_option(label="Ink, blue-black")
            page.get_by_role("link", name="Stage").click()
            page.wait_for_timeout(2000)
            self.wait_for_picture(samples=8)
            page.screenshot(path=SHOTS / "stage.png")
            page.get_by_role("link", name="Bench").click()
            page.get_by_label("material").select_option(label="Badger hair")
            page.wait_for_timeout(2500)
            self.wait_for_picture(samples=32)
            page.screenshot(path=SHOTS / "strands.png")
            page.get_by_label("material").select_option(label="Rock crystal")
            page.wait_for_timeout(2000)
            self.wait_for_picture(samples=16)
            box = page.locator("[data-testid=picture]").bounding_box()
            page.keyboard.down("f")
            page.mouse.click(box["x"] + box["width"] * 0.42, box["y"] + box["height"] * 0.5)
            page.keyboard.up("f")
            page.get_by_label("Read from the picture").wait_for()
            page.screenshot(path=SHOTS / "follow.png")
            for material, file in PROPS:
                page.get_by_label("material").first.select_option(label=material)
                page.wait_for_timeout(2500)
                self.wait_for_picture(samples=16)
                if material == "Shears":
                    page.locator("[data-slip=heat] header").click()
                    page.wait_for_timeout(400)
                if material == "Tallow":
                    page.get_by_role("tab", name="Slab").click()
                if file:
                    page.screenshot(path=SHOTS / f"{file}.png")
            page.get_by_role("region", name="Temper").get_by_role("slider", name="Index").focus()
            page.keyboard.press("b")
            page.get_by_text("All seven are even").wait_for()
            page.screenshot(path=SHOTS / "bracket.png")
            page.keyboard.press("Escape")
            page.get_by_role("link", name="Library").click()
            page.wait_for_function(ALL_PICTURED)
            page.get_by_role("region", name="Materials").get_by_role("button", name="Jade").click()
            page.screenshot(path=SHOTS / "library.png")
            page.get_by_label("material").first.select_option(label="Net float")
            page.get_by_role("link", name="Trials").click()
            page.get_by_role("button", name="Hue against depth").click()
            page.get_by_text("all can be judged").wait_for()
            page.screenshot(path=SHOTS / "trials.png")
            page.get_by_role("link", name="Bench").click()
            page.keyboard.press("k")
            page.get_by_role("button", name=re.compile("^Proof 1,")).wait_for()
            page.keyboard.press("\\")
            place = page.get_by_role("button", name="Point at a place of the proof")
            box = place.bounding_box()
            place.click(position={"x": box["width"] * 0.38, "y": box["height"] * 0.45})
            page.get_by_label("Say something of this proof").fill(
                "The rim wants to be darker: the wall is thick there."
            )
            page.keyboard.press("Enter")
            page.get_by_role("button", name=re.compile("^Comment 1 of")).wait_for()
            page.screenshot(path=SHOTS / "together.png")
            page.keyboard.press("\\")
            page.get_by_label("material").first.select_option(label="Tea caddy")
            page.get_by_role("link", name="Pictures").click()
            for label, text in (("Width in pixels", "640"), ("Noise, %", "6")):
                page.get_by_label(label, exact=True).fill(text)
                page.keyboard.press("Enter")
            page.get_by_label("each light by itself").check()
            page.get_by_role("button", name="Make it").click()
            lights = page.get_by_role("region", name="Lights, turned afterwards")
            lights.get_by_label("Window", exact=True).uncheck()
            lights.get_by_label("Oil lamp: stops").fill("1.5")
            page.wait_for_timeout(2000)
            page.screenshot(path=SHOTS / "finals.png")
            page.get_by_role("button", name="finish", exact=True).click()
            page.get_by_label("Finish of this picture").select_option(label="a new one")
            panel = page.get_by_role("region", name="Finish", exact=True)
            for step, dial, value in (("Lens fringe", "Blue over red", "0.5"), ("Bloom and glare", "Amount", "0.12")):
                panel.get_by_role("checkbox", name=step).click()
                self.type_into(panel.get_by_role("group", name=step).get_by_role("slider", name=dial), value)
            page.get_by_label("before, left of an edge").check()
            page.wait_for_timeout(2500)
            page.screenshot(path=SHOTS / "finish.png")
            page.get_by_role("button", name="back from its finish").click()
            page.get_by_label("material").first.select_option(label="Rock crystal")
            page.get_by_role("radio", name="a turntable, a motion").click()
            for label, text in (("Frames", "12"), ("Width in pixels", "320"), ("Noise, %", "18")):
                page.get_by_label(label, exact=True).fill(text)
                page.keyboard.press("Enter")
            page.get_by_role("button", name="Make it").click()
            page.locator("video").wait_for(timeout=600_000)
            page.wait_for_timeout(1500)
            page.screenshot(path=SHOTS / "turntable.png")
            self.take_hand_over(page)
            self.take_desk(page)

        def take_hand_over(self, page):
            page.get_by_label("material").first.select_option(label="Rosehip cordial")
            page.get_by_role("link", name="Library").click()
            page.get_by_role("tab", name="hand over").click()
            self.wait_for_picture(samples=32)
            page.get_by_role("button", name="Write it").click()
            page.get_by_role("region", name="Measured").get_by_role("figure").nth(2).wait_for(timeout=600_000)
            page.screenshot(path=SHOTS / "hand-over.png")

        def take_desk(self, page):
            page.get_by_label("material").first.select_option(label="Ink, blue-black")
            page.get_by_role("tab", name="desk").click()
            desk = page.get_by_role("region", name="Desk")
            for sample, cuvette in (("clear water", "10 mm"), ("keeper's ink", "10 mm"), ("keeper's ink", "2 mm")):
                desk.get_by_label("Sample").select_option(label=sample)
                desk.get_by_label("Cuvette").select_option(label=cuvette)
                desk.get_by_role("button", name="Read it").click()
                desk.get_by_role("button", name="stop").wait_for()
                desk.get_by_role("button", name="Read it").wait_for()
            desk.get_by_role("list", name="Readings").get_by_role("checkbox").nth(1).check()
            self.wait_for_picture(samples=32)
            page.screenshot(path=SHOTS / "desk.png")

    runner = Runner(verbosity=0, interactive=False, keepdb=True)
    databases = runner.setup_databases()
    result = runner.run_suite(runner.test_suite([Shots()]))
    runner.teardown_databases(databases)
    sys.exit(bool(result.failures or result.errors))


if __name__ == "__main__":
    sheets = [name for name in SHEETS if name in sys.argv]
    for sheet in sheets:
        render_sheet(sheet)
    if not sheets:
        main()
