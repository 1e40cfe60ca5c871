import colour
import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.kernels import F
from nineglass.spectra import srgb, upsampling
from nineglass.spectra.blackbody import blackbody, planck
from nineglass.spectra.observer import CMF, D65, WAVELENGTHS_NM, XYZ_TO_RGB, rgb_of_filter, xyz_of

COLOURS = st.tuples(*[st.floats(0.02, 0.98)] * 3)


def chromaticity(spectrum):
    xyz = xyz_of(spectrum)
    return xyz[:2] / xyz.sum()


class Observer(SimpleTestCase):
    def test_agrees_with_the_reference_library(self):
        # Source: CIE 015:2018, through the package colour-science.
        reference = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"]
        for wavelength in (400, 450, 555, 600, 700):
            np.testing.assert_allclose(CMF[wavelength == WAVELENGTHS_NM][0], reference[wavelength], atol=1e-6)

    def test_peak_of_luminous_efficiency(self):
        # Source: CIE 018:2019: V(555 nm) = 1.
        self.assertAlmostEqual(float(CMF[WAVELENGTHS_NM == 555][0][1]), 1.0, places=4)

    def test_d65_has_its_published_chromaticity(self):
        # Source: CIE 015:2018: D65 (0.3127, 0.3290).
        np.testing.assert_allclose(chromaticity(D65), (0.3127, 0.3290), atol=2e-4)

    def test_matrix_to_rec709(self):
        # Source: IEC 61966-2-1, XYZ to linear sRGB.
        published = [[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]]
        np.testing.assert_allclose(XYZ_TO_RGB, published, atol=4e-3)

    def test_white_is_exactly_white(self):
        np.testing.assert_allclose(rgb_of_filter(np.ones(401)), [1, 1, 1], atol=1e-9)


class BlackBody(SimpleTestCase):
    def test_chromaticities(self):
        # Source: Planck's law with CODATA constants and the CIE 1931 observer; 4-digit values by colour-science.
        published = {
            1000: (0.6527, 0.3445),
            1500: (0.5857, 0.3931),
            1900: (0.5378, 0.4112),
            2856: (0.4475, 0.4074),
        }
        for kelvin, expected in published.items():
            np.testing.assert_allclose(chromaticity(blackbody(kelvin)), expected, atol=6e-4)

    def test_agrees_with_the_reference_library(self):
        for kelvin in (1500.0, 3200.0, 5600.0, 10000.0):
            reference = colour.colorimetry.planck_law(WAVELENGTHS_NM * 1e-9, kelvin)
            reference = reference / colour.colorimetry.planck_law(560e-9, kelvin)
            np.testing.assert_allclose(planck(WAVELENGTHS_NM, kelvin), np.squeeze(reference), rtol=2e-4)

    def test_hotter_is_bluer(self):
        ratios = [blackbody(k)[70] / blackbody(k)[270] for k in (1500, 3000, 6000, 12000)]
        self.assertEqual(ratios, sorted(ratios))


class Transfer(SimpleTestCase):
    def test_agrees_with_the_reference_library(self):
        values = np.linspace(0, 1, 33)
        np.testing.assert_allclose(srgb.encode(values), colour.cctf_encoding(values, function="sRGB"), atol=1e-6)
        np.testing.assert_allclose(srgb.decode(srgb.encode(values)), values, atol=1e-6)

    def test_mid_grey(self):
        # Source: IEC 61966-2-1: linear 0.2140 encodes to 0.5.
        self.assertEqual(srgb.to_hex([0.2140] * 3), "#7f7f7f")


class Upsampling(SimpleTestCase):
    @given(COLOURS)
    @settings(max_examples=60, deadline=None)
    def test_a_colour_comes_back_and_the_spectrum_is_possible(self, rgb):
        spectrum = upsampling.spectrum_of(rgb)
        self.assertTrue(((spectrum >= 0) & (spectrum <= 1)).all())
        np.testing.assert_allclose(rgb_of_filter(spectrum), rgb, atol=1e-3)

    @given(COLOURS)
    @settings(max_examples=60, deadline=None)
    def test_the_table_is_close_to_the_fit(self, rgb):
        out = np.empty(3, np.float32)
        upsampling.table_coefficients(upsampling.table(), *(F(v) for v in rgb), out)
        np.testing.assert_allclose(rgb_of_filter(upsampling.sigmoid_spectrum(out)), rgb, atol=0.03)

    def test_grey_is_flat(self):
        spectrum = upsampling.spectrum_of((0.4, 0.4, 0.4))
        self.assertLess(float(np.ptp(spectrum)), 0.01)

    def test_one_wavelength_agrees_with_the_whole_spectrum(self):
        coefficients = upsampling.coefficients_of(0.2, 0.6, 0.4)
        at_550 = upsampling.sigmoid(*(F(c) for c in coefficients), F(550))
        self.assertAlmostEqual(float(at_550), float(upsampling.sigmoid_spectrum(coefficients)[170]), places=5)
