"""Open water: its waves by the spectrum of a wind sea, its mesh, and what is said of crests that fold."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.catalogue import FORMS
from nineglass.documents.model import Material, Stage, read
from nineglass.forms.mesh import faults_of_surface
from nineglass.forms.sea import displaced, plane_of, significant_height
from nineglass.gauges import reading_of
from nineglass.gauges.notes import notes_of

from tests.scenes import demo


def sea(**dials) -> dict:
    return FORMS.kinds["sea"].defaults() | dials


class Sea(SimpleTestCase):
    def heights(self, **dials) -> np.ndarray:
        """Of the near sea, evenly strewn, at several times."""
        plane, cells = plane_of(300.0)
        near = np.hypot(*plane.T) < 40
        kept = np.sort(np.random.default_rng(2).choice(np.flatnonzero(near), 3000, p=_by_area(cells[near])))
        return np.concatenate(
            [displaced(plane[kept], cells[kept], sea(time=t, **dials))[0][1] for t in (0, 40, 90, 170)]
        )

    def test_its_height_follows_from_the_wind(self):
        """Source: Pierson & Moskowitz 1964: the highest third of the waves is 0.21 U^2 / g."""
        for wind in (4.0, 8.0):
            self.assertAlmostEqual(significant_height(wind) / (0.21 * wind**2 / 9.81), 1, delta=0.01)
            self.assertAlmostEqual(4 * float(self.heights(wind=wind).std()) / significant_height(wind), 1, delta=0.12)

    def test_its_height_may_be_set(self):
        heights = self.heights(wind=6.0, height_from="the dial", wave_height=40)
        self.assertAlmostEqual(4 * float(heights.std()), 0.4, delta=0.06)

    def test_it_is_closed_and_goes_to_the_horizon(self):
        mesh = FORMS.kinds["sea"].make().mesh(sea())
        self.assertEqual(faults_of_surface(mesh), [])
        low, high = mesh.bounds()
        self.assertGreater(float((high - low)[[0, 2]].min()), 3900)
        self.assertTrue(np.isfinite(mesh.vertices).all() and np.isfinite(mesh.normals).all())

    def test_normals_are_those_of_the_surface(self):
        plane, cells = plane_of(300.0)
        step, some = 1e-3, slice(500, 9000, 37)
        dials = sea(choppiness=0.9)
        there, normals, _ = displaced(plane[some], cells[some], dials)
        for way in ((step, 0), (0, step)):
            moved, *_ = displaced(plane[some] + way, cells[some], dials)
            along = moved - there
            self.assertLess(float(np.abs((along * normals).sum(axis=0) / np.linalg.norm(along, axis=0)).max()), 0.01)

    def test_nothing_repeats(self):
        """No shift of the surface is like the surface itself."""
        x = np.linspace(-40, 40, 161)
        plane = np.stack(np.meshgrid(x, x), axis=-1).reshape(-1, 2)
        height = displaced(plane, np.full(len(plane), 0.5), sea(choppiness=0))[0][1].reshape(161, 161)
        height -= height.mean()
        spectrum = np.abs(np.fft.fft2(height)) ** 2
        alike = np.fft.ifft2(spectrum).real / spectrum.mean()
        lags = np.hypot(*np.meshgrid(np.fft.fftfreq(161) * 161, np.fft.fftfreq(161) * 161))
        self.assertLess(float(alike[(lags > 60)].max()), 0.6)

    def test_crests_that_fold_are_told(self):
        stage = demo("off-the-skerry")
        stage["objects"][0]["form"]["dials"] |= {"choppiness": 3.0, "height_from": "the dial", "wave_height": 400}
        reading = reading_of(read(Material, demo("open-sea")), read(Stage, stage))
        note = next(one for one in notes_of(reading) if one.rule == "form at fault")
        self.assertIn("fold", note.says)
        form = note.changes[0].value
        self.assertEqual(FORMS.kinds["sea"].make().faults(sea(**form["dials"])), [])


def _by_area(cells: np.ndarray) -> np.ndarray:
    return cells**2 / (cells**2).sum()
