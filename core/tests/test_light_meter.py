"""Illuminance and colour temperature at a place of a stage, against closed forms. Radiometric ones: Howell, Menguc, Daun, Siegel, Thermal Radiation
Heat Transfer, 6th ed., appendix C (from memory where no number is given)."""

from math import atan, pi, sqrt
from unittest import TestCase

import colour
import numpy as np
from nineglass.devices.light_meter import LightMeter, Lit, kelvin, lit_of, lux
from nineglass.documents import model as documents
from nineglass.lamps import LAMPS
from nineglass.lamps.light import light_of
from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.observer import xyz_of
from nineglass.spectra.upsampling import color_spectrum
from nineglass.spectra.white import WHITE_NITS

DARK = np.zeros((16, 32, 3))
ABOVE = {"elevation": 90, "distance": 100}


def lamp(kind: str, **dials):
    about = LAMPS.kinds[kind]
    return light_of(about, about.defaults() | dials)


def read(lamps=(), around=DARK, **dials) -> np.ndarray:
    meter = LightMeter(Lit(list(lamps), around, color_spectrum))
    about = {"aside": 0.0, "raised": 0.0, "ahead": 0.0, "head": "up"} | dials
    return meter.read(about, len(meter.places(about)), 3)


class Illuminance(TestCase):
    def close(self, found: float, expected: float, within: float = 0.003):
        self.assertAlmostEqual(found / expected, 1, delta=within)

    def test_a_ball_is_as_its_power_over_the_sphere_about_it(self):
        """E = P / (4 pi d^2), of a ball of any size that is seen whole."""
        for diameter in (2, 40):
            self.close(lux(read([lamp("sphere", diameter=diameter, power=8, **ABOVE)])), WHITE_NITS * 8 / (4 * pi))

    def test_a_point_too_and_it_falls_off_with_the_square(self):
        near, far = (lux(read([lamp("point", power=8, elevation=90, distance=d)])) for d in (100, 200))
        self.close(near, WHITE_NITS * 8 / (4 * pi))
        self.close(near / far, 4)

    def test_a_disc_over_its_middle(self):
        """E = pi L r^2 / (r^2 + d^2); L = P / (pi^2 r^2)."""
        self.close(lux(read([lamp("disc", diameter=80, power=8, **ABOVE)])), WHITE_NITS * 8 / pi / (0.4**2 + 1))

    def test_a_rectangle_over_its_middle(self):
        """Four times the form of an element below a corner: (1 / 2 pi) (a / A atan(b / A) + b / B atan(a / B)), A = sqrt(1 + a^2), lengths over d."""
        a, b = 0.3, 0.5
        A, B = sqrt(1 + a * a), sqrt(1 + b * b)
        form = 4 / (2 * pi) * (a / A * atan(b / A) + b / B * atan(a / B))
        radiance = 8 / (pi * 4 * a * b)
        self.close(
            lux(read([lamp("rectangle", width=60, height=100, power=8, **ABOVE)])), WHITE_NITS * pi * radiance * form
        )

    def test_the_sun_by_the_cosine(self):
        self.close(lux(read([lamp("sun", irradiance=3, elevation=30)])), WHITE_NITS * 3 * 0.5)

    def test_an_even_surround_is_pi_times_its_luminance(self):
        self.close(lux(read(around=np.full((64, 128, 3), 0.5))), WHITE_NITS * pi * 0.5)

    def test_a_head_that_looks_away_sees_nothing(self):
        self.assertEqual(lux(read([lamp("disc", azimuth=0, elevation=0)], head="to the back")), 0)

    def test_a_spot_lights_its_cone_and_nothing_beside_it(self):
        spot = lamp("spot", cone=20, power=8, **ABOVE)
        self.assertGreater(lux(read([spot])), 20 * WHITE_NITS * 8 / (4 * pi))
        self.assertLess(lux(read([spot], aside=50.0)), 0.01 * lux(read([spot])))


class OnAStage(TestCase):
    def test_lamps_that_are_on_and_both_surrounds(self):
        plain = {"kind": "plain", "dials": {"strength": 1.0}}
        stage = {
            "objects": [{"id": "form", "form": {"kind": "ball"}}],
            "lamps": [
                {"id": "a", "kind": "sun", "dials": {"irradiance": 2, "elevation": 90}},
                {"id": "b", "kind": "sun", "on": False},
            ],
            "surround": {
                "light": plain,
                "second": {"kind": "gradient", "dials": {"above": [1, 1, 1], "strength": 0}},
                "blend": 0.5,
            },
            "camera": {"kind": "camera"},
        }
        meter = LightMeter(lit_of(documents.Stage.model_validate(stage), color_spectrum))
        dials = {"aside": 0.0, "raised": 0.0, "ahead": 0.0, "head": "up"}
        self.assertAlmostEqual(lux(meter.read(dials, 401, 1)) / (WHITE_NITS * (2 + pi / 2)), 1, delta=0.003)


class Warmth(TestCase):
    def test_of_a_glowing_body(self):
        for temperature in (2856, 3600, 5600, 6500):
            found = kelvin(read([lamp("sphere", kelvin=temperature)]))
            self.assertAlmostEqual(found, temperature, delta=0.01 * temperature)

    def test_as_a_reference_library_has_it(self):
        """colour-science, McCamy 1992."""
        spectrum = blackbody(4200)
        x, y, z = xyz_of(spectrum)
        self.assertAlmostEqual(
            kelvin(spectrum),
            float(colour.temperature.xy_to_CCT_McCamy1992([x / (x + y + z), y / (x + y + z)])),
            places=1,
        )

    def test_nothing_in_the_dark(self):
        self.assertIsNone(kelvin(read()))


class Measured(TestCase):
    """Lamps whose spectrum was measured: CIE fluorescent lamps, as `colour-science` has them (CIE 15:2004)."""

    def spectrum(self, name: str) -> list[list[float]]:
        measured = colour.SDS_ILLUMINANTS[name]
        return [
            [float(nm), float(v / measured.values.max())]
            for nm, v in zip(measured.wavelengths, measured.values, strict=True)
        ]

    def test_it_is_as_warm_as_it_was_measured(self):
        # Correlated colour temperatures of CIE 15:2004, table T.7.
        for name, expected in (("FL2", 4230), ("FL7", 6500), ("FL11", 4000)):
            one = lamp("point", light_from="curve", spectrum=self.spectrum(name), power=8, **ABOVE)
            self.assertAlmostEqual(kelvin(read([one])) / expected, 1, delta=0.02, msg=name)

    def test_it_is_as_bright_as_its_power_says(self):
        warm, tube = (
            lamp("point", power=8, **ABOVE, **own)
            for own in ({"kelvin": 3000}, {"light_from": "curve", "spectrum": self.spectrum("FL11")})
        )
        self.assertAlmostEqual(lux(read([warm])) / lux(read([tube])), 1, delta=0.003)

    def test_light_that_is_not_seen_is_none(self):
        dark = lamp("point", light_from="curve", spectrum=[[800, 0.0], [900, 1.0]], **ABOVE)
        self.assertEqual(lux(read([dark])), 0)
