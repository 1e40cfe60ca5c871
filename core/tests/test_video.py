"""Frames as a video: colours as they were, said in the file, from the first frame to the last."""

import tempfile
from pathlib import Path

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace
from django.test import SimpleTestCase
from nineglass.picture.video import from_planes, read_webm, to_planes, write_webm


class Videos(SimpleTestCase):
    def written(self, frames, per_second=24) -> Path:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / "motion.webm"
        self.assertEqual(write_webm(path, iter(frames), per_second), len(frames))
        return path

    def patches(self, shift: int) -> np.ndarray:
        """Smooth colours over all of their range, with broad steps between some of them."""
        y, x = np.mgrid[0:144, 0:256] / 143
        picture = np.dstack([255 * x / x.max(), 255 * y / y.max(), 128 + 100 * np.sin(3 * x + shift)])
        for k, color in enumerate([(255, 0, 0), (0, 255, 0), (0, 0, 255), (255, 255, 255), (0, 0, 0), (230, 190, 40)]):
            picture[16:48, 16 + 40 * k : 48 + 40 * k] = color
        return np.clip(picture, 0, 255).astype(np.uint8)

    def test_colours_come_back_within_two_of_255(self):
        frames = [self.patches(k) for k in range(6)]
        for shown, given in zip(read_webm(self.written(frames)), frames, strict=True):
            for k in range(6):
                inside = (slice(20, 44), slice(20 + 40 * k, 44 + 40 * k))
                means = np.abs(shown[inside].astype(float).mean(axis=(0, 1)) - given[inside].mean(axis=(0, 1)))
                self.assertLessEqual(means.max(), 2, k)
            apart = np.abs(shown[60:].astype(int) - given[60:])
            self.assertLessEqual(np.percentile(apart, 90), 2, "where colours change slowly")

    def test_the_way_to_limited_range_is_that_of_the_standard(self):
        # ITU-R BT.709-6: black 16, white 235, colour at rest 128; and pure blue and red at the ends, 240, of their own difference.
        for color, expected in (
            ((0, 0, 0), (16, 128, 128)),
            ((255, 255, 255), (235, 128, 128)),
            ((0, 0, 255), (32, 240, 118)),
            ((255, 0, 0), (63, 102, 240)),
        ):
            planes = to_planes(np.full((4, 4, 3), color, np.uint8))
            self.assertEqual((planes[0, 0], planes[4, 0], planes[5, 0]), expected)
            np.testing.assert_allclose(from_planes(planes)[1, 1], color, atol=2)

    def test_the_file_says_what_its_colours_are(self):
        path = self.written([self.patches(0)] * 3, per_second=30)
        with av.open(str(path)) as given:
            stream = given.streams.video[0]
            self.assertEqual((stream.codec_context.name, float(stream.average_rate)), ("vp9", 30))
            frame = next(given.decode(video=0))
        self.assertEqual(frame.colorspace, Colorspace.ITU709.value)
        self.assertEqual(frame.color_range, ColorRange.MPEG.value)

    def test_odd_sizes_are_made_even_and_every_frame_is_there(self):
        frames = [np.full((33, 51, 3), 10 * k, np.uint8) for k in range(20)]
        shown = read_webm(self.written(frames))
        self.assertEqual((len(shown), shown[0].shape), (20, (34, 52, 3)))
        means = [float(one.mean()) for one in shown]
        np.testing.assert_allclose(means, [10 * k for k in range(20)], atol=1.5)
