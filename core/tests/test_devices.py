"""Simulated devices: what they show follows from the sample, and from the faults that such instruments have."""

import tempfile
from pathlib import Path

import numpy as np
from colour import SpectralDistribution_IESTM2714
from django.test import SimpleTestCase
from nineglass.catalogue import BANDS
from nineglass.describe import Refused
from nineglass.devices import DEVICES, device_of
from nineglass.devices.spectrophotometer import LENGTHS_CM, SOLVENT, STRAY
from nineglass.documents.absorbing import BAND, absorbing, dyed
from nineglass.documents.model import Material, read
from nineglass.matter import bouguer
from nineglass.matter.curve_files import csv_of, read_curve, spdx_of
from nineglass.matter.dyes import OWN
from nineglass.matter.material import absorption_curve


class Spectrophotometer(SimpleTestCase):
    def setUp(self):
        self.device = device_of("spectrophotometer")

    def dials(self, sample: str, cuvette: str = "10 mm") -> dict:
        return DEVICES.kinds["spectrophotometer"].defaults() | {"sample": sample, "cuvette": cuvette}

    def absorbed(self, sample: str, cuvette: str = "10 mm", baseline: bool = True) -> np.ndarray:
        water = self.device.read(self.dials(SOLVENT), 1000, 1)
        values = self.device.read(self.dials(sample, cuvette), 1000, 2)
        return self.device.told(values, water if baseline else None)

    def test_absorbance_grows_with_the_way_as_bouguer_says(self):
        one, five = self.absorbed("dog rose cordial", "1 mm"), self.absorbed("dog rose cordial", "5 mm")
        strong = five > 0.2
        self.assertGreater(strong.sum(), 20)
        np.testing.assert_allclose(five[strong], 5 * one[strong], rtol=0.15)

    def test_stray_light_hides_what_is_darker(self):
        # With a share s of stray light no absorbance over -log10(s / (1 + s)) is read: common practice of the trade.
        most = -np.log10(STRAY / (1 + STRAY))
        deep = self.absorbed("keeper's ink", "50 mm")
        self.assertLess(np.median(deep[deep > 2]), most + 0.1)
        self.assertGreater(5 * self.absorbed("keeper's ink", "10 mm").max(), most + 1)

    def test_without_a_baseline_the_walls_are_in_it(self):
        clear = self.device.told(self.device.read(self.dials(SOLVENT), 1000, 3), None)
        # Walls that let 92 % through: 0.036.
        self.assertGreater(np.median(clear), 0.034)
        self.assertLess(abs(np.median(self.absorbed(SOLVENT))), 0.03)

    def test_a_reading_stays_as_it_was_and_another_has_other_noise(self):
        first, again, other = (self.device.read(self.dials("madder rinse"), 30, seed) for seed in (5, 5, 6))
        np.testing.assert_array_equal(first, again)
        self.assertGreater(np.abs(first - other).max(), 0)
        np.testing.assert_array_equal(self.device.read(self.dials("madder rinse"), 10, 5), first[:10])

    def test_a_chip_has_its_own_thickness(self):
        lengths = {self.device.length_cm(self.dials("shard of a net float", one)) for one in LENGTHS_CM}
        self.assertEqual(lengths, {0.42})


class Dyed(SimpleTestCase):
    """What was read is a dye beside others, as strong as it was."""

    NM = [400.0, 500.0, 600.0, 700.0]

    def interior(self, **dials) -> Material:
        interface = {"id": "interface", "kind": "interface", "dials": {}}
        interior = {"id": "interior", "kind": "interior", "dials": dials}
        return read(Material, {"name": "Ink", "section": {"bands": [interface, interior]}})

    def absorbed(self, dials: dict) -> np.ndarray:
        """(4,) absorption in 1/m."""
        curve = absorption_curve(BANDS.kinds[BAND].defaults() | dials, lambda color: np.ones(401))
        return np.interp(self.NM, np.arange(380, 781), curve)

    def test_absorbances_of_dyes_add(self):
        # Bouguer, Lambert and Beer: over a length in m the absorption is ln(10) times the absorbance, and those of dyes add.
        mixed = {"absorption": "dyes", "dye_1": "woad", "amount_1": 0.5, "concentration": 2.0}
        for absorbance, length_cm in (([0.1, 0.4, 0.2, 0.0], 1.0), ([0.5, 1.9, 1.0, 0.2], 0.1)):
            points = [[nm, 10**-a] for nm, a in zip(self.NM, absorbance, strict=True)]
            dials = dyed(self.interior(**mixed), points, length_cm)
            added = self.absorbed(mixed | dials) - self.absorbed(mixed)
            np.testing.assert_allclose(added, np.log(10) * np.array(absorbance) / (length_cm / 100), rtol=1e-6)
            self.assertEqual(dials["dye_2"], OWN)
            read(Material, self.interior(**mixed, **{k: v for k, v in dials.items() if k not in mixed}).model_dump())

    def test_of_other_matter_the_dye_is_alone(self):
        clear = {"absorption": "substance", "dye_1": "woad", "dye_3": "weld"}
        dials = dyed(self.interior(**clear), [[380, 0.5], [780, 0.5]], 1.0)
        np.testing.assert_allclose(self.absorbed(clear | dials), np.log(2) / 0.01, rtol=1e-6)

    def test_there_is_room_for_four(self):
        full = {"absorption": "dyes"} | {f"dye_{k}": "woad" for k in (1, 2, 3, 4)}
        with self.assertRaisesRegex(Refused, "all four dyes are taken"):
            dyed(self.interior(**full), [[380, 0.5], [780, 0.5]], 1.0)

    def test_its_curve_has_an_effect_only_where_it_is_mixed(self):
        kind = BANDS.kinds[BAND]
        values = kind.defaults() | {"dye_2": OWN}
        self.assertFalse(kind.has_effect("own_2", values))
        self.assertTrue(kind.has_effect("own_2", values | {"absorption": "dyes"}))
        self.assertFalse(kind.has_effect("own_1", values | {"absorption": "dyes"}))


class Out(SimpleTestCase):
    POINTS = [[400.0, 0.123456789], [410.0, 0.5], [420.0, 0.98765]]

    def test_curves_come_back_exactly(self):
        for text in (csv_of(self.POINTS, "transmittance"), spdx_of(self.POINTS, "transmittance", "ink & rose")):
            self.assertEqual(read_curve(text), self.POINTS)

    def test_spdx_is_read_by_another_reader(self):
        # colour-science's reader of IES TM-27-14.
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.spdx"
            path.write_text(spdx_of(self.POINTS, "transmittance", "ink & rose"))
            found = SpectralDistribution_IESTM2714(str(path)).read()
        np.testing.assert_array_equal(found.wavelengths, [400, 410, 420])
        np.testing.assert_array_equal(found.values, [value for _, value in self.POINTS])
        self.assertEqual(found.spectral_quantity, "transmittance")

    def test_an_interior_absorbs_as_was_measured(self):
        dials = BANDS.kinds[BAND].defaults() | absorbing(self.POINTS, 0.5)
        # At 410 nm half of the light is left after 0.5 cm.
        self.assertAlmostEqual(np.exp(-absorption_curve(dials, None)[30] * 0.005), 0.5, places=6)


class HeldAgainstEachOther(SimpleTestCase):
    def reading(self, length: float, absorbed, places=(400, 500, 600, 700), sample="ink") -> bouguer.Reading:
        return bouguer.Reading(sample, length, np.array(places, float), np.array(absorbed, float))

    def test_absorbance_that_grows_with_the_way_is_the_same_for_1_cm(self):
        short, long = self.reading(0.2, (0.1, 0.2, 0.3, 0.04)), self.reading(1, (0.5, 1, 1.5, 0.2))
        _, curves = bouguer.side_by_side([short, long], True)
        np.testing.assert_allclose(*curves)
        self.assertIn("holds within 5 % at 100 %", bouguer.says([short, long]))

    def test_where_it_fails_is_told(self):
        flattened = self.reading(5, (2.5, 2.7, 2.7, 1.0))
        said = bouguer.says([self.reading(1, (0.5, 1, 1.5, 0.2)), flattened])
        self.assertIn("at 50 % of the wavelengths. Not at 500 to 600 nm", said)

    def test_one_that_is_still_reading_has_no_values_beyond(self):
        half = self.reading(1, (0.5, 1), places=(400, 500))
        places, (_, cut) = bouguer.side_by_side([self.reading(0.2, (0.1, 0.2, 0.3, 0.04)), half], False)
        self.assertEqual((len(places), np.isnan(cut).tolist()), (4, [False, False, True, True]))
        self.assertIn("100 %", bouguer.says([self.reading(0.2, (0.1, 0.2, 0.3, 0.04)), half]))

    def test_another_sample_says_nothing_of_it(self):
        said = bouguer.says([self.reading(1, (0.5, 1, 1.5, 0.2)), self.reading(2, (1, 2, 3, 0.4), sample="tea")])
        self.assertIn("choose both", said)
