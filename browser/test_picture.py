"""The picture itself: its shape and size, its views, a part of it alone."""

import numpy as np
from playwright.sync_api import expect

from browser.case import PixelCase

ABOUT = ["web/src/picture", "server/live"]


class Picture(PixelCase):
    most_samples = 8

    def size(self) -> tuple[float, float]:
        box = self.page.get_by_test_id("picture").bounding_box()
        return box["width"], box["height"]

    def pixel_size(self) -> tuple[int, int]:
        return tuple(
            self.page.evaluate(
                "(() => { const c = document.querySelector('[data-testid=picture]'); return [c.width, c.height] })()"
            )
        )

    def wait_for_pixels(self, width, height):
        self.page.wait_for_function(
            "([w, h]) => { const c = document.querySelector('[data-testid=picture]'); return c.width === w && c.height === h }",
            arg=[width, height],
        )

    def sequence(self) -> int:
        return int(self.page.get_by_test_id("picture").get_attribute("data-sequence"))

    def test_it_fills_the_place_and_panes_come_back_as_they_were(self):
        before, network = self.size(), self.page.locator(".react-flow").bounding_box()["width"]
        self.page.keyboard.press("w")
        self.page.wait_for_function(
            "before => document.querySelector('[data-testid=picture]').getBoundingClientRect().width > 1.3 * before",
            arg=before[0],
        )
        expect(self.page.get_by_role("button", name="fill")).to_have_attribute("aria-pressed", "true")
        self.page.keyboard.press("w")
        self.page.wait_for_function(
            "before => Math.abs(document.querySelector('[data-testid=picture]').getBoundingClientRect().width - before) < 2",
            arg=before[0],
        )
        self.assertAlmostEqual(self.page.locator(".react-flow").bounding_box()["width"], network, delta=3)

    def test_an_empty_network_makes_room(self):
        bare = self.size()[0]
        self.page.get_by_role("combobox", name="material").select_option(label="Shears")
        self.page.locator("[data-slip]").first.wait_for()
        self.page.wait_for_function(
            "bare => document.querySelector('[data-testid=picture]').getBoundingClientRect().width < bare + 1", arg=bare
        )

    def test_its_shape_is_chosen_and_kept_with_the_stage(self):
        shape = self.page.get_by_role("combobox", name="Shape of the picture")
        self.change(lambda: shape.select_option(label="16:9"), samples=1)
        self.wait_for_pixels(120, 68)
        width, height = self.size()
        self.assertAlmostEqual(width / height, 16 / 9, delta=0.02)
        self.change(lambda: shape.select_option(label="2:3"), samples=1)
        self.wait_for_pixels(80, 120)
        self.page.keyboard.press("Control+s")
        self.page.wait_for_function(
            "() => document.querySelector('[data-testid=saving]').textContent.includes('saved')"
        )
        from stages.models import Stage

        self.assertEqual(Stage.objects.get(owner=self.person, name="Window bench").document["shape"], "2:3")

    def test_pixels_follow_the_screen(self):
        self.page.get_by_role("combobox", name="Pixels that are made").select_option(label="half pixels")
        width = round(self.size()[0] / 2)
        self.page.wait_for_function(
            "w => Math.abs(document.querySelector('[data-testid=picture]').width - w) <= 2", arg=width
        )

    def test_views_and_stops_are_turned_by_keys_without_rendering_again(self):
        self.wait_for_picture(samples=2)
        plain = self.pixels()
        self.page.keyboard.press("v")
        self.page.get_by_role("button", name="film-like", pressed=True).wait_for()
        self.page.wait_for_function(
            """() => { const c = document.querySelector('[data-testid=picture]'); window.rows_ = window.rows_ ?? 0;
            const d = c.getContext('2d').getImageData(0, c.height - 20, c.width, 10).data; let s = 0;
            for (let i = 0; i < d.length; i += 4) s += d[i]; s /= d.length / 4;
            return s < %f }"""
            % (plain[-20:-10, :, 0].mean() * 255 - 8)
        )
        samples = int(self.page.get_by_test_id("picture").get_attribute("data-samples"))
        self.assertGreaterEqual(samples, 2, "the samples are kept")
        self.page.keyboard.press("t")
        self.page.wait_for_function(
            """() => { const c = document.querySelector('[data-testid=picture]');
            const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data; let grey = 0;
            for (let i = 0; i < d.length; i += 4) grey += Math.abs(d[i] - d[i + 2]) < 12;
            return grey > 0.7 * d.length / 4 }"""
        )
        self.page.get_by_label("Stops from mid grey").wait_for()
        self.page.keyboard.press("t")
        self.page.get_by_label("Stops from mid grey").wait_for(state="detached")
        self.page.keyboard.press("Control+z")
        self.page.get_by_role("button", name="plain", pressed=True).wait_for()

    def test_a_frame_makes_that_part_alone_and_r_the_whole_again(self):
        self.wait_until_settled()
        before, sequence = self.pixels(), self.sequence()
        box = self.page.get_by_test_id("picture").bounding_box()

        def place(x, y):
            return box["x"] + x * box["width"], box["y"] + y * box["height"]

        self.page.mouse.move(*place(0.5, 0.5))
        self.page.keyboard.down("r")
        self.page.mouse.down()
        for share in (0.6, 0.75):
            self.page.mouse.move(*place(share, share))
        self.page.mouse.up()
        self.page.keyboard.up("r")
        self.page.get_by_test_id("part").wait_for()
        self.page.wait_for_function(
            "before => +document.querySelector('[data-testid=picture]').dataset.sequence > before", arg=sequence
        )
        self.wait_for_picture(samples=4)
        roughness = self.band("Interface").get_by_role("slider", name="Roughness")
        self.change(lambda: self.type_into(roughness, "0.6"), samples=4)
        after = self.pixels()
        np.testing.assert_array_equal(after[:200, :200], before[:200, :200])
        self.assertGreater(np.abs(after[250:350, 250:350] - before[250:350, 250:350]).mean(), 0.01)
        self.change(lambda: self.page.keyboard.press("r"), samples=2)
        self.page.get_by_test_id("part").wait_for(state="detached")
        self.assertGreater(np.abs(self.pixels()[150:230, 150:230] - before[150:230, 150:230]).mean(), 0.005)

    def test_it_tells_the_noise_of_what_is_shown(self):
        self.wait_for_picture(samples=8)
        facts = self.page.get_by_test_id("facts")
        facts.get_by_text("noise left").wait_for()
        smoothed = float(facts.inner_text().split("noise left")[1].split("%")[0])
        self.page.keyboard.press("g")
        facts.get_by_text("rendered").wait_for()
        facts.get_by_text("noise left").wait_for(state="detached")
        rendered = float(facts.inner_text().split("noise")[1].split("%")[0])
        self.assertGreater(rendered, 1.3 * smoothed)
