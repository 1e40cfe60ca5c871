"""What varies in space: grids and their files, networks at places within matter, flames; through the tracer as it is."""

import os
import tempfile
from math import exp, log
from typing import NamedTuple

import colour
import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.describe import Refused
from nineglass.documents.model import Lamp, Material, read
from nineglass.exchange.vdb import Grid, halved, in_one_box, read_vdb, write_vdb
from nineglass.files import keep
from nineglass.gauges import reading_of
from nineglass.gauges.ghost import fields_on_bench, flame_on_bench, ghost_of
from nineglass.gauges.notes import notes_of
from nineglass.network import grids
from nineglass.network.interpret import evaluate
from nineglass.network.ops import Ops
from nineglass.put_in import facts_of
from nineglass.spectra.upsampling import sigmoid_spectrum
from nineglass.trace.media.fields import coefficients, grids_of, most_in_cells, radiance_at_560
from nineglass.trace.media.varying import ABSORBS, CELL, SCATTERS, TINT, Lattice, lattice_at, planck, value_at
from nineglass.trace.scene import build_set
from scipy.ndimage import zoom

from tests.scenes import ALIKE, alike, called, luminance, middle, render, stage, thing, wears, wire

F = np.float32
BOX = {"width": 8, "height": 8, "depth": 8, "edge": 80}


def within(*bands, slips=(), wires=()) -> Material:
    """A material without a boundary. bands: (kind, dials)."""
    stack = [{"id": kind, "kind": kind, "dials": dials} for kind, dials in bands]
    return read(Material, {"section": {"bands": stack}, "slips": list(slips), "wires": list(wires)})


def slip(name: str, kind: str, **dials) -> dict:
    return {"id": name, "kind": kind, "dials": dials}


def driven(density_slips, source: str, **interior) -> Material:
    """An interior whose density is driven."""
    return within(("interior", interior), slips=density_slips, wires=[wire(source, "interior.density")])


def even(**interior) -> Material:
    return within(("interior", interior), slips=alike(), wires=[ALIKE, wire("one", "interior.density")])


def finer(values: np.ndarray, times: int) -> np.ndarray:
    """A grid on so many times as many voxels, linear between its own (SciPy)."""
    return zoom(values, times, order=1, mode="nearest", grid_mode=True)


class Files(SimpleTestCase):
    """OpenVDB files, in and out."""

    @given(st.integers(1, 40), st.integers(1, 20), st.integers(1, 20), st.integers(0, 10_000))
    @settings(max_examples=25, deadline=None)
    def test_what_is_written_is_read_back(self, x, y, z, seed):
        rng = np.random.default_rng(seed)
        values = rng.random((z, y, x)).astype(np.float32)
        values[rng.random(values.shape) < 0.6] = 0
        values[0, 0, 0] = values[-1, -1, -1] = 1
        found = read_vdb(write_vdb([Grid("density", values, (0.5, 0.5, 0.5), (1.0, 2.0, 3.0))])).grids[0]
        np.testing.assert_array_equal(found.values, values)
        self.assertEqual((found.name, found.voxel, found.origin), ("density", (0.5,) * 3, (1.0, 2.0, 3.0)))

    def test_grids_of_one_file_lie_on_the_same_places(self):
        low, high = np.zeros((2, 4, 4, 4), np.float32)
        low[0], high[3] = 1, 2
        one, other = in_one_box(read_vdb(write_vdb([Grid("a", low, (1, 1, 1)), Grid("b", high, (1, 1, 1))])).grids)
        np.testing.assert_array_equal(one.values, low)
        np.testing.assert_array_equal(other.values, high)
        self.assertEqual(one.origin, other.origin)

    def test_a_large_grid_is_halved(self):
        values = np.arange(8, dtype=np.float32).reshape(1, 1, 8)
        np.testing.assert_array_equal(halved(values, 4), [[[0.5, 2.5, 4.5, 6.5]]])

    @given(st.data())
    @settings(max_examples=150, deadline=None)
    def test_a_broken_file_is_refused(self, data):
        values = np.random.default_rng(1).random((9, 9, 9)).astype(np.float32)
        file = bytearray(write_vdb([Grid("density", values, (1, 1, 1))]))
        for _ in range(data.draw(st.integers(1, 4))):
            file[data.draw(st.integers(0, len(file) - 1))] = data.draw(st.integers(0, 255))
        file = bytes(file[: data.draw(st.integers(1, len(file)))])
        try:
            grids.read_file(file)
        except Refused as refused:
            self.assertTrue(refused.faults[0].allowed)

    def test_what_is_told_of_a_file(self):
        values = np.zeros((4, 6, 8), np.float32)
        values[1, 2, 3], values[0, 0, 0], values[-1, -1, -1] = 1500, 1, 1
        with tempfile.TemporaryDirectory() as folder, _files_in(folder):
            name = keep([write_vdb([Grid("heat", values, (0.5, 0.5, 0.5))])])
            [told] = facts_of(name, "grid")["grids"]
            self.assertEqual((told["name"], told["size"], told["extent"]), ("heat", [8, 6, 4], [4, 3, 2]))
            self.assertIn("K", told["drives"])
            found, extent = grids.grid_of("file", name, "heat")
            self.assertEqual((float(found[1, 2, 3]), extent), (1500, (4, 3, 2)))
            self.assertIsNone(grids.grid_of("file", name, "smoke"))

    def test_ours(self):
        for name in grids.OURS:
            self.assertEqual(sorted(grids.names_in(name, "")), ["density", "temperature"])
            density, _ = grids.grid_of(name, "", "density")
            self.assertGreater(float(density.max()), 0.5)
            for axis in range(3):
                for end in (0, -1):
                    if (axis, end) != (1, 0):  # smoke begins at the chimney
                        self.assertLess(float(density.take(end, axis).max()), 0.2)


class _files_in:
    """Files that are put in are kept in a folder for a while."""

    def __init__(self, folder: str):
        self.folder = folder

    def __enter__(self):
        self.before = os.environ.get("NINEGLASS_FILES")
        os.environ["NINEGLASS_FILES"] = self.folder

    def __exit__(self, *error):
        grids.grid_of.let_go()
        if self.before is None:
            del os.environ["NINEGLASS_FILES"]
        else:
            os.environ["NINEGLASS_FILES"] = self.before


class Reading(SimpleTestCase):
    def test_a_grid_is_linear_between_its_voxels(self):
        values = np.arange(2 * 3 * 4, dtype=np.float32).reshape(2, 3, 4)
        ops = Ops()
        out = ops.grid(values, ops.position)
        places = {"x": [1 / 8, 3 / 8, 0.25, 1.01], "y": [1 / 6, 0.5, 0.5, 0.5], "z": [0.25, 0.75, 0.5, 0.5]}
        found = evaluate(ops.program(), [out], 4, **{axis: np.array(row, F) for axis, row in places.items()})[0]
        np.testing.assert_allclose(found, [0, 17, (4 + 5 + 16 + 17) / 4, 0], atol=1e-5)

    @given(st.integers(1, 30), st.integers(1, 20), st.integers(1, 20), st.integers(0, 999))
    @settings(max_examples=20, deadline=None)
    def test_no_place_of_a_cell_holds_more_than_its_bound(self, x, y, z, seed):
        rng = np.random.default_rng(seed)
        values = (rng.random((1, z, y, x)) ** 4).astype(np.float32)
        most = most_in_cells({ABSORBS: values}, (z, y, x))[:, 0]
        cells = [-(-side // CELL) for side in (x, y, z)]
        at = called(lattice_at), called(value_at)
        fields = _Box(np.zeros((1, 3), F), np.ones((1, 3), F), np.array([[x, y, z]], np.int32))
        for place in rng.random((60, 3)) * (x, y, z):
            i, j, k = (min(int(p // CELL), n - 1) for p, n in zip(place, cells, strict=True))
            found = at[1](values.reshape(-1), 0, Lattice(*at[0](fields, 0, tuple(F(p) for p in place))))
            self.assertLessEqual(found, most[(k * cells[1] + j) * cells[0] + i] * (1 + 1e-5))


class _Box(NamedTuple):
    low: np.ndarray
    voxel: np.ndarray
    shape: np.ndarray


def mixed(first: list[tuple], second: list[tuple], slips=(), wires=(), mask: float = 0.5) -> Material:
    """Two media without a boundary, mixed by a mask. first, second: (kind, dials) of their bands."""
    stack = [{"id": "split", "kind": "split", "dials": {"mask": mask}}]
    for side, bands in (("first", first), ("second", second)):
        stack += [{"id": f"{side}_{kind}", "kind": kind, "side": side, "dials": dials} for kind, dials in bands]
    return read(Material, {"section": {"bands": stack}, "slips": list(slips), "wires": list(wires)})


class Mixed(SimpleTestCase):
    """Two media in one place: each absorbs and scatters as much as there is of it."""

    ON = {"camera": {"elevation": 20}, "surround": {"light": {"kind": "gradient", "dials": {"below": [0.1] * 3}}}}

    def same(self, mix: Material, alone: Material, delta=0.004, samples=1024, **about):
        on = stage("ball", {"diameter": 8}, **(self.ON | about))
        seen = [render(one, on, 32, samples).rgb().mean(axis=(0, 1)) for one in (mix, alone)]
        np.testing.assert_allclose(seen[0] / seen[1], 1, atol=delta)

    def test_half_and_half_is_their_mean(self):
        absorbs = {"transmission_color": [0.8, 0.5, 0.3], "transmission_depth": 2.0}
        mix = mixed([("interior", absorbs)], [("interior", {"transmission_depth": 2.0, "scatter_amount": 1.0})])
        mean = absorbs | {"transmission_depth": 4.0, "scatter_amount": 1.0}
        self.same(mix, within(("interior", mean)))

    def test_each_turns_light_in_its_own_way(self):
        """Against one medium of two lobes (`matter.phases`), by a lamp that is asked from within too."""
        onward, back = (
            {"transmission_depth": 2.0, "scatter_amount": amount, "transmission_scatter_anisotropy": g}
            for amount, g in ((1.5, 0.8), (0.5, -0.3))
        )
        dials = {"diameter": 6, "power": 5, "distance": 12, "azimuth": 70, "elevation": 10}
        lamp = {"kind": "sphere", "dials": dials, "seen": {"camera": False, "reflections": True, "shadows": True}}
        lobes = {"phase": "two lobes", "second_anisotropy": -0.3, "second_share": 0.25}
        alone = onward | lobes | {"scatter_amount": 1.0}
        mix = mixed([("interior", onward)], [("interior", back)])
        about = {"lamps": [lamp], "surround": {"light": {"kind": "plain", "dials": {"strength": 0}}}}
        self.same(mix, within(("interior", alone)), delta=0.015, samples=20480, **about)

    def test_a_mask_says_where_each_is(self):
        across = [slip("across", "height_along", axis="x", start=-0.2, end=0.2)]
        red, blue = ({"transmission_color": color} for color in ([0.9, 0.2, 0.2], [0.2, 0.2, 0.9]))
        two = mixed([("interior", red)], [("interior", blue)], across, [wire("across", "split.mask")])
        seen = render(two, stage("rounded_box", BOX, camera={"distance": 60}), 24, 64).rgb()
        halves = seen[8:16, 6:10].mean(axis=(0, 1)), seen[8:16, 14:18].mean(axis=(0, 1))
        alone = [
            render(within(("interior", one)), stage("rounded_box", BOX, camera={"distance": 60}), 24, 64).rgb()[8:16]
            for one in (red, blue)
        ]
        np.testing.assert_allclose(halves[0], alone[0][:, 6:10].mean(axis=(0, 1)), rtol=0.03)
        np.testing.assert_allclose(halves[1], alone[1][:, 14:18].mean(axis=(0, 1)), rtol=0.03)

    def test_one_may_glow_in_the_other(self):
        flame = {"emission_luminance": 0.2, "light_from": "colour"}
        mix = mixed([("flame", flame)], [("interior", {"transmission_depth": 4.0, "transmission_color": [0.4] * 3})])
        halves = {"emission_luminance": 0.1}
        alone = within(
            ("interior", {"transmission_depth": 8.0, "transmission_color": [0.4] * 3}), ("flame", flame | halves)
        )
        self.same(mix, alone, delta=0.01)

    def test_a_flame_is_refused_where_the_other_side_has_a_surface(self):
        with self.assertRaises(Refused) as caught:
            mixed([("flame", {})], [("interface", {})])
        self.assertIn("flame with interface", caught.exception.faults[0].line())

    def test_nothing_is_lost(self):
        """Two clouds that absorb nothing, in each other, are invisible in even light."""
        cloud = [slip("cloud", "fractal_noise", size=3)]
        sides = [
            [("interior", {"transmission_depth": 1.0, "scatter_amount": amount, "transmission_scatter_anisotropy": g})]
            for amount, g in ((2.0, 0.7), (0.5, 0.0))
        ]
        film = render(mixed(*sides, cloud, [wire("cloud", "split.mask")]), stage("ball", {"diameter": 8}), 16, 512)
        self.assertAlmostEqual(float(middle(film, 0.8).mean()), 1, delta=0.007)


class InSpace(SimpleTestCase):
    def test_alike_everywhere_is_a_medium_without_voxels(self):
        dials = {
            "transmission_depth": 4.0,
            "transmission_color": [0.8, 0.5, 0.3],
            "scatter_amount": 1.5,
            "transmission_scatter": [0.9, 0.6, 0.8],
            "transmission_scatter_anisotropy": 0.5,
        }
        lit = {"kind": "gradient", "dials": {"above": [1, 1, 1], "below": [0.1, 0.1, 0.1]}}
        on = stage("ball", {"diameter": 8}, surround={"light": lit}, camera={"elevation": 20})
        laid, plain = (render(one, on, 32, 1024) for one in (even(**dials), within(("interior", dials))))
        self.assertGreaterEqual(build_set(even(**dials), on).scene.fields.of[0], 0)
        np.testing.assert_allclose(laid.rgb().mean(axis=(0, 1)), plain.rgb().mean(axis=(0, 1)), rtol=0.003)

    def test_a_lamp_within_it_lights_it_as_much_on_voxels(self):
        """So that how light gets from a lamp to the eye is the same: asked along the way, through the fog up to there."""
        dials = {"transmission_depth": 4.0, "transmission_color": [0.6] * 3, "scatter_amount": 0.1}
        lamp = {"kind": "sphere", "dials": {"diameter": 1, "power": 5, "distance": 4, "azimuth": 90, "elevation": 10}}
        on = stage("ball", {"diameter": 20}, lamps=[lamp], strength=0.0, camera={"distance": 40})
        even_one, laid = (
            luminance(render(one, on, 24, 2048, of=1).rgb()[:, :10]).mean()
            for one in (even(**dials), within(("interior", dials)))
        )
        self.assertEqual(int(build_set(even(**dials), on).scene.fields.near[0]), 1)
        self.assertAlmostEqual(even_one / laid, 1, delta=0.02)

    def test_white_furnace(self):
        """Banks that absorb nothing are invisible in even light."""
        cloud = [slip("cloud", "fractal_noise", size=3), slip("more", "remap", from_low=0, from_high=1, to_high=3)]
        wires = [wire("cloud", "more.value"), wire("more", "interior.density")]
        dials = {"transmission_depth": 2.0, "scatter_amount": 1.0, "transmission_scatter_anisotropy": 0.6}
        banks = within(("interior", dials), slips=cloud, wires=wires)
        for distance in (30, 2):
            film = render(banks, stage("ball", {"diameter": 8}, camera={"distance": distance}), 16, 512)
            with self.subTest(distance=distance):
                self.assertAlmostEqual(float(middle(film, 0.8).mean()), 1, delta=0.007)

    def test_light_is_taken_by_the_integral_of_the_density(self):
        """Law of Bouguer, Beer and Lambert, along a ramp: a straight line of voxels is exact between their middles."""
        ramp = driven([slip("high", "height_along", axis="z", start=-4, end=4)], "high", transmission_depth=2.0)
        ramp.section.bands[0].dials["transmission_color"] = [0.5] * 3
        film = render(ramp, stage("rounded_box", BOX), 15, 2048)
        self.assertAlmostEqual(float(luminance(film.rgb()[7, 7])) / exp(log(0.5) * 8 / 2 * 0.5), 1, delta=0.02)

    def test_lamps_shine_through_it_by_the_same_law(self):
        """A sun straight above: the shade on the floor, of a ramp of density over that of an even one, by their integrals."""
        sun = {"kind": "sun", "dials": {"irradiance": 3, "elevation": 90}}
        ramp = [slip("high", "height_along", axis="x", start=-4, end=4)]
        on = stage(
            objects=[thing("box", "rounded_box", BOX, at=(0, 30, 0))],
            lamps=[sun],
            strength=0.0,
            floor={"color": [0.5] * 3},
            camera={"elevation": 35, "distance": 120},
        )
        grey = {"transmission_depth": 4.0, "transmission_color": [0.5] * 3}
        clear, even_one, ramped = (
            luminance(render(one, on, 48, 256).rgb())[24:].sum()
            for one in (
                within(("interior", {})),
                within(("interior", grey)),
                driven(ramp, "high", **grey),
            )
        )
        taken = 1 - (1 - 0.25) / log(4)
        self.assertAlmostEqual((clear - ramped) / (clear - even_one), taken / 0.75, delta=0.02)

    def test_the_colour_at_depth_is_read_in_space(self):
        on = stage("ball", {"diameter": 8}, camera={"elevation": 20})
        dials = {"transmission_depth": 3.0, "scatter_amount": 0.5, "concentration": 2.0}
        laid = within(("interior", dials), slips=alike(0.6), wires=[ALIKE, wire("one", "interior.transmission_color")])
        plain = within(("interior", dials | {"transmission_color": [0.6] * 3}))
        seen = [render(one, on, 32, 1024).rgb().mean(axis=(0, 1)) for one in (laid, plain)]
        np.testing.assert_allclose(seen[0], seen[1], rtol=0.004)

    @given(st.integers(0, 10_000))
    @settings(max_examples=20, deadline=None)
    def test_no_colour_absorbs_more_than_its_bound(self, seed):
        """Of three coefficients, at any wavelength of the table."""
        tint = coefficients(np.random.default_rng(seed).random((3, 8)).astype(np.float32) ** 2)
        most = most_in_cells({ABSORBS: np.ones((1, 2, 2, 2), F), TINT: tint.reshape(3, 2, 2, 2)}, (2, 2, 2))[0, 0]
        spectra = sigmoid_spectrum(tint.T[:, [0, 1, 2]])
        self.assertLessEqual(float(-np.log(np.maximum(spectra, 1e-6)).max()), most)

    def test_finer_voxels_change_nothing(self):
        rng = np.random.default_rng(4)
        rough = finer(rng.random((4, 4, 4)).astype(np.float32), 4)
        with tempfile.TemporaryDirectory() as folder, _files_in(folder):
            seen = []
            for values in (rough, finer(rough, 3)):
                name = keep([write_vdb([Grid("density", values, (1, 1, 1))])])
                read_it = [slip("grid", "grid", source="file", file=name, channel="density")]
                cloud = driven(
                    read_it, "grid", transmission_depth=2.0, scatter_amount=1.0, transmission_color=[0.7] * 3
                )
                seen.append(render(cloud, stage("rounded_box", BOX, camera={"elevation": 20}), 24, 1024).rgb())
        np.testing.assert_allclose(seen[0].mean(axis=(0, 1)), seen[1].mean(axis=(0, 1)), rtol=0.005)
        self.assertLess(np.abs(seen[0] - seen[1]).mean() / seen[0].mean(), 0.02)

    def test_color_and_anisotropy_are_read_in_space(self):
        """One half scatters red, the other blue."""
        slips = [
            slip("across", "height_along", axis="x", start=-0.2, end=0.2),
            slip("hue", "color_ramp", stops=[[0, [0.9, 0.1, 0.1]], [1, [0.1, 0.1, 0.9]]]),
        ]
        wires = [wire("across", "hue.at"), wire("hue", "interior.transmission_scatter")]
        two = within(("interior", {"transmission_depth": 1.0, "scatter_amount": 2.0}), slips=slips, wires=wires)
        lamp = {"kind": "disc", "dials": {"diameter": 20, "distance": 60, "azimuth": 0, "elevation": 0, "power": 20}}
        seen = render(two, stage("rounded_box", BOX, strength=0, lamps=[lamp], camera={"distance": 60}), 24, 64).rgb()
        left, right = seen[8:16, 6:10].mean(axis=(0, 1)), seen[8:16, 14:18].mean(axis=(0, 1))
        self.assertGreater(left[0], 1.5 * left[2])
        self.assertGreater(right[2], 1.5 * right[0])

    def test_a_place_on_the_stage_is_read_where_the_form_stands(self):
        """Fog below a height of the stage, whatever the form that holds it stands on."""
        slips = [
            slip("where", "stage_position"),
            slip("parts", "separate_vector"),
            slip("low", "comparison", how="first is less", second=0),
        ]
        wires = [wire("where", "parts.vector"), wire("parts.y", "low.first"), wire("low", "interior.density")]
        fog = within(("interior", {"scatter_amount": 1.0}), slips=slips, wires=wires)
        for turn in (0, 40):
            on = stage(
                objects=[thing("box", "rounded_box", BOX, at=(3, 5, 0), turn=turn), thing("top", "ball", at=(0, 30, 0))]
            )
            scene = build_set(fog, on)
            placed, fields = scene.standing.placed[0], scene.scene.fields
            nx, ny, nz = fields.shape[0]
            density = fields.values[fields.first[0, ABSORBS] :][: nx * ny * nz].reshape(nz, ny, nx)
            height = placed.offset[1] + fields.low[0, 1] + (np.arange(ny) + 0.5) * fields.voxel[0, 1]
            np.testing.assert_array_equal(density[nz // 2, :, nx // 2], height < 0)

    def test_dials_beside_what_varies_lay_nothing_out_anew(self):
        """A depth is turned: the density, which is driven, lies where it lay. A depth that is driven as well has what lies there change."""
        slips = [*alike(), slip("wide", "remap", to_low=1, to_high=9)]
        on = stage("rounded_box", BOX)

        def laid(*wires, **interior):
            fog = within(("interior", interior), slips=slips, wires=[wire("cloud", "interior.density"), *wires])
            _, [field] = fields_on_bench(reading_of(fog, on))
            return field

        turned = {"transmission_depth": 7.0, "scatter_amount": 3.0, "transmission_color": [0.5, 0.6, 0.7]}
        self.assertIs(laid(), laid(**turned))
        deeper = [wire("cloud", "wide.value"), wire("wide", "interior.transmission_depth")]
        self.assertIsNot(laid(*deeper, scattering="colour at depth"), laid(*deeper, scattering="curve"))
        thin, thick = (laid(ALIKE, wire("one", "interior.scatter_amount"), density=one) for one in (1.0, 2.0))
        self.assertIs(thin, thick, "a density that is driven has no value of its own")

    def test_what_differs_in_its_network_alone_is_laid_out_apart(self):
        """The same ramp along another axis; the same to another end."""
        found = []
        for axis, end in (("x", 4), ("z", 4), ("z", 6)):
            ramp = driven([slip("high", "height_along", axis=axis, start=-4, end=end)], "high")
            _, [field] = fields_on_bench(reading_of(ramp, stage("rounded_box", BOX)))
            found.append(field.channels[ABSORBS][0])
        self.assertGreater(np.abs(found[0] - found[1]).max(), 0.5)
        np.testing.assert_allclose(found[0], found[1].transpose(2, 1, 0), atol=1e-6)
        self.assertGreater(np.abs(found[1] - found[2]).max(), 0.1)

    def test_the_number_of_an_object_is_that_of_its_surface(self):
        one = [slip("mine", "random_per_object", low=0, high=1)]
        on = stage(
            objects=[
                thing("first", "ball", at=(9, 0, 0), wears=wears(within(("interior", {})))),
                thing("box", "rounded_box", BOX),
            ]
        )
        fog = within(("interior", {"scatter_amount": 1.0}), slips=one, wires=[wire("mine", "interior.density")])
        _, [field] = fields_on_bench(reading_of(fog, on))
        lit = [{"id": "g", "kind": "glow", "dials": {"source": "white of the picture"}}]
        glow = {"section": {"bands": lit}, "slips": one, "wires": [wire("mine", "g.emission_luminance")]}
        dark = on.model_copy(update={"surround": stage(strength=0).surround})
        seen = render(read(Material, glow), dark, 16, 16)
        self.assertAlmostEqual(float(luminance(middle(seen))), float(field.channels[ABSORBS].mean()), delta=0.005)

    def test_a_bounded_body_reads_its_density_where_light_enters(self):
        dials = {"transmission_depth": 2.0, "transmission_color": [0.5] * 3}
        bands = [{"id": "interface", "kind": "interface", "dials": {"specular_ior": 1.0}}]
        bands.append({"id": "interior", "kind": "interior", "dials": dials})
        half = [slip("cloud", "noise"), slip("half", "clamp", low=0.5, high=0.5)]
        wires = [wire("cloud", "half.value"), wire("half", "interior.density")]
        body = read(Material, {"section": {"bands": bands}, "slips": half, "wires": wires})
        film = render(body, stage("rounded_box", BOX), 15, 64)
        self.assertAlmostEqual(float(luminance(film.rgb()[7, 7])), 0.25, delta=0.003)


class Flames(SimpleTestCase):
    def flame(self, **dials) -> Material:
        return within(("flame", dials))

    def seen(self, **dials) -> np.ndarray:
        on = stage("rounded_box", BOX, strength=0, camera={"focal_length": 2000, "distance": 200})
        return render(self.flame(**dials), on, 4, 2048, of=1).rgb().mean(axis=(0, 1))

    def test_colors_of_black_bodies(self):
        """Source: CIE 1931 chromaticities of Planck's law, 1000 to 2856 K (colour-science)."""
        for kelvin, x, y in ((1500, 0.5857, 0.3931), (1900, 0.5378, 0.4112), (2856, 0.4475, 0.4074)):
            xyz = colour.RGB_to_XYZ(
                self.seen(temperature=kelvin, dimness="is the dial's alone"), "ITU-R BT.709", apply_cctf_decoding=False
            )
            np.testing.assert_allclose(colour.XYZ_to_xy(xyz), (x, y), atol=0.004)

    def test_luminance_is_that_of_its_thickness(self):
        even = {"dimness": "is the dial's alone", "emission_luminance": 0.25}
        self.assertAlmostEqual(float(luminance(self.seen(**even))), 0.25 * 8, delta=0.02)
        self.assertAlmostEqual(float(luminance(self.seen(**even, most_luminance=0.125))), 1, delta=0.01)
        colored = self.seen(light_from="colour", emission_color=[0.5, 0.25, 0.1], emission_luminance=0.5)
        np.testing.assert_allclose(colored, [2, 1, 0.4], rtol=0.02)

    def test_what_is_cooler_is_dimmer_by_plancks_law(self):
        """Source: Planck's law by colour-science, in W/(sr m3), through the CIE 1931 observer."""
        shape, observer = colour.SpectralShape(380, 780, 1), colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"]
        weights = observer.copy().align(shape).values[:, 1]
        absolute = {k: float(colour.sd_blackbody(k, shape).values @ weights) for k in (1200, 1500, 1900)}
        for kelvin in (1200, 1900):
            seen = luminance(self.seen(temperature=kelvin, emission_luminance=0.1)) / 0.8
            self.assertAlmostEqual(float(seen) / (absolute[kelvin] / absolute[1500]), 1, delta=0.01)
        self.assertAlmostEqual(float(called(planck)(F(560), F(1500))), 1, places=5)
        self.assertTrue((np.diff(radiance_at_560(np.array([800.0, 1500.0, 3000.0]), True)) > 0).all())

    def test_a_flame_lights_what_is_around_it(self):
        on = stage(
            objects=[thing("flame", "rounded_box", BOX, at=(0, 6, 0))],
            strength=0,
            floor={"color": [0.5] * 3},
            camera={"elevation": 60, "distance": 60},
        )
        lit, looked_at = (
            luminance(render(self.flame(emission_luminance=5, **one), on, 24, 128).rgb())
            for one in ({}, {"lights": False})
        )
        self.assertGreater(float(lit[20:].mean()), 0.5)
        self.assertEqual(float(looked_at[20:].max()), 0)
        np.testing.assert_allclose(np.percentile(lit, 99), np.percentile(looked_at, 99), rtol=0.1)

    def test_a_ghost_gives_as_much_as_the_flame(self):
        """From far away both are points of light: what the camera sees of the one, and of the other made seen, is the same in all."""
        slips = [
            slip("soot", "grid", source="wick flame", channel="density"),
            slip("heat", "grid", source="wick flame", channel="temperature"),
            slip("share", "remap", from_low=1300, from_high=1930),
            slip("hue", "color_ramp", stops=[[0, [1, 0.2, 0]], [1, [0.4, 0.6, 1]]]),
        ]
        wires = [wire("soot", "flame.flame_density"), wire("heat", "flame.temperature"), wire("heat", "share.value")]
        wires += [wire("share", "hue.at"), wire("hue", "flame.emission_color")]
        tall = thing("flame", "rounded_box", {"width": 1.5, "height": 3, "depth": 1.5, "edge": 80})
        other = thing("other", "ball", {"diameter": 0.1}, at=(3, 0, 0), wears=wears(within(("interior", {}))))
        on = stage(objects=[tall, other], strength=0, camera={"distance": 150, "focal_length": 500})
        for light_from in ("temperature", "colour"):
            flame = within(("flame", {"light_from": light_from, "emission_luminance": 2}), slips=slips, wires=wires)
            ghost = ghost_of(*flame_on_bench(reading_of(flame, on)), ["other"])
            shown = ghost | {"seen": {"camera": True, "reflections": True, "shadows": True}}
            dark = within(("flame", {"emission_luminance": 0}))
            lamp_on = on.model_copy(update={"lamps": read_lamps(shown)})
            by_flame, by_ghost = (
                render(*one, 32, 1024).rgb().sum(axis=(0, 1)) for one in ((flame, on), (dark, lamp_on))
            )
            with self.subTest(light_from):
                self.assertAlmostEqual(float(luminance(by_ghost) / luminance(by_flame)), 1, delta=0.02)
                np.testing.assert_allclose(by_ghost / by_ghost.sum(), by_flame / by_flame.sum(), atol=0.02)


def read_lamps(*lamps) -> list:
    return [Lamp.model_validate({"id": f"lamp_{k}", **lamp}) for k, lamp in enumerate(lamps)]


class Out(SimpleTestCase):
    def test_what_varies_is_written_and_read_back(self):
        cloud = driven([slip("high", "height_along", axis="x", start=-4, end=4)], "high", scatter_amount=1.0)
        _, [field] = fields_on_bench(reading_of(cloud, stage("rounded_box", BOX)))
        found = {one.name: one for one in in_one_box(read_vdb(write_vdb(grids_of([field]))).grids)}
        np.testing.assert_array_equal(found["density"].values, field.channels[SCATTERS][0])
        self.assertAlmostEqual(found["density"].voxel[0] * found["density"].values.shape[2], 8, places=4)
        self.assertAlmostEqual(found["density"].origin[0], -4 + found["density"].voxel[0] / 2, places=4)


class Notes(SimpleTestCase):
    def rules(self, document: Material, on=None) -> dict:
        return {note.rule: note for note in notes_of(reading_of(document, on or stage("rounded_box", BOX)))}

    def test_a_grid_that_is_not_there(self):
        lost = driven([slip("grid", "grid", source="wick flame", channel="smoke")], "grid", scatter_amount=1)
        note = self.rules(lost)["grid not read"]
        self.assertIn("density, temperature", note.says)
        self.assertIn("nothing in it", self.rules(lost))

    def test_a_share_in_place_of_kelvin(self):
        share = within(
            ("flame", {}), slips=[slip("grid", "grid", source="wick flame")], wires=[wire("grid", "flame.temperature")]
        )
        note = self.rules(share)["not kelvin"]
        self.assertEqual((note.changes[0].slip, note.changes[0].dials["to_high"]), ("remap", 1600))

    def test_a_flame_alone(self):
        alone = within(("flame", {"emission_luminance": 0.1}))
        dark = stage("rounded_box", BOX, strength=0)
        note = self.rules(alone, dark)["flame is the only light"]
        self.assertEqual(note.changes[0].lamp["seen"]["camera"], False)
        lamp = {"kind": "point", "dials": {}}
        self.assertNotIn(
            "flame is the only light", self.rules(alone, stage("rounded_box", BOX, strength=0, lamps=[lamp]))
        )

    def test_a_flame_blown_out(self):
        self.assertIn("flame blown out", self.rules(within(("flame", {"emission_luminance": 50}))))
        self.assertNotIn("flame blown out", self.rules(within(("flame", {"emission_luminance": 0.3}))))

    def test_detail_finer_than_voxels(self):
        def cloud(size: float) -> Material:
            return driven([slip("cloud", "noise", size=size)], "cloud", scatter_amount=1.0)

        self.assertIn("finer than a voxel", self.rules(cloud(0.05)))
        self.assertNotIn("finer than a voxel", self.rules(cloud(2.0)))

    def test_a_depth_that_is_driven_too_is_no_lost_detail(self):
        slips = [slip("cloud", "noise", size=2), slip("across", "height_along", axis="x", start=-4, end=4)]
        wires = [wire("cloud", "interior.density"), wire("across", "interior.transmission_depth")]
        both = within(("interior", {"scatter_amount": 1.0}), slips=slips, wires=wires)
        self.assertNotIn("finer than a voxel", self.rules(both))

    def test_black_fog(self):
        fog = within(("interior", {"transmission_depth": 2.0, "scatter_amount": 1.0}))
        around = stage("ball", {"diameter": 300}, camera={"distance": 60})
        note = self.rules(fog, around)["black fog"]
        thinner = within(("interior", {"transmission_depth": note.changes[0].value, "scatter_amount": 1.0}))
        self.assertNotIn("black fog", self.rules(thinner, around))

    def test_a_network_that_reads_a_surface(self):
        facing = driven([slip("facing", "facing")], "facing", scatter_amount=1)
        self.assertIn("no surface to read", self.rules(facing))
