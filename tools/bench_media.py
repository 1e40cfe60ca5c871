"""What matter that scatters costs: passes of demo stages over those of clear matter, of voxels and networks over what they take the place of;
and what four wavelengths on one path are worth."""

import os
import tempfile
import time
from unittest import mock

import numpy as np

SIDE = 320
GRID_SIDE = 256
COLOR_SIDE, COLOR_SAMPLES = 24, 48

COLORED_FOG = {
    "transmission_depth": 4.0,
    "transmission_color": [0.9, 0.5, 0.2],
    "scatter_amount": 2.0,
    "transmission_scatter": [0.9, 0.4, 0.15],
}


def bench_media(document, interleaved) -> dict:
    """document(model, name) reads one of the demo; interleaved(*acts) times acts in turn."""
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    def on_stage(material, stage):
        return build_set(document("Material", material), stage)

    harbour, roofs = document("Stage", "harbour"), document("Stage", "over-the-roofs")
    with tempfile.TemporaryDirectory() as folder, mock.patch.dict(os.environ, {"NINEGLASS_FILES": folder}):
        fine = build_set(_read_from(document("Material", "chimney-smoke"), _fine_smoke()), _alone(roofs))
    banks = on_stage("harbour-fog", harbour)
    sets = (
        on_stage("net-float", document("Stage", "window-bench")),
        on_stage("tallow", document("Stage", "candle-sill")),
        on_stage("harbour-fog", _off(harbour, "fog")),
        banks,
        on_stage("chimney-smoke", _off(roofs, "smoke", "soft")),
        fine,
        build_set(_even(document("Material", "harbour-fog"), float(banks.scene.fields.values.mean())), harbour),
    )
    tracer, film = Tracer(2), Film(SIDE, SIDE)
    glass, wax, clear, fog, sky, smoke, even = interleaved(*(lambda s=s: tracer.render(s, film) for s in sets))
    return {
        "media.candle_pass_vs_float": wax / glass,
        "media.fog_vs_clear": fog / clear,
        "media.grid_256_vs_clear": smoke / sky,
        "media.networked_vs_constant": fog / even,
        "media.color_noise_ratio": _color_noise_ratio(),
    }


def _off(stage, *names):
    """A stage with some objects switched off."""
    objects = [one.model_copy(update={"on": one.on and one.id not in names}) for one in stage.objects]
    return stage.model_copy(update={"objects": objects})


def _alone(stage):
    return _off(stage, "soft")


def _even(fog, density: float):
    """Fog of the same density everywhere in place of its banks."""
    bands = [one.model_copy(update={"dials": {**one.dials, "density": density}}) for one in fog.section.bands]
    section = fog.section.model_copy(update={"bands": bands})
    return fog.model_copy(update={"wires": [], "section": section})


def _fine_smoke() -> str:
    """Our smoke on 256 x 256 x 256 voxels, put in as a file; its name."""
    from nineglass.exchange.vdb import Grid, write_vdb
    from nineglass.files import keep
    from nineglass.network.grids import grid_of
    from scipy.ndimage import zoom

    values, _ = grid_of("chimney smoke", "", "density")
    return keep(
        [
            write_vdb(
                [
                    Grid(
                        "density",
                        zoom(values, GRID_SIDE / np.array(values.shape), order=1, mode="nearest", grid_mode=True),
                        (1.0, 1.0, 1.0),
                    )
                ]
            )
        ]
    )


def _read_from(material, file: str):
    """A material whose grids are read from a file."""
    slips = [
        one.model_copy(update={"dials": {**one.dials, "source": "file", "file": file}})
        if "channel" in one.dials
        else one
        for one in material.slips
    ]
    return material.model_copy(update={"slips": slips})


def _color_noise_ratio() -> float:
    """Variance of the colour, for the same time, of four wavelengths weighed together on a path over one wavelength on each."""
    from nineglass.documents.model import Material, Stage, read
    from nineglass.trace.render import Times, Worker
    from nineglass.trace.scene import build_set

    class OneByOne(Worker):
        """Lets every path carry one wavelength."""

        def _fill(self, the_set, film, job, jobs, seed):
            job = super()._fill(the_set, film, job, jobs, seed)
            paths = self.batch.paths
            fresh = (paths.lines == 4) & (paths.bounce == 0)
            paths.lines[fresh] = 1
            paths.per_density[:, fresh] *= 4
            return job

    bands = [{"id": "interior", "kind": "interior", "dials": COLORED_FOG}]
    on = {
        "version": 2,
        "objects": [{"id": "ball", "form": {"kind": "ball", "dials": {"diameter": 8}}}],
        "surround": {"light": {"kind": "gradient"}},
        "camera": {"kind": "camera"},
    }
    the_set = build_set(read(Material, {"section": {"bands": bands}}), read(Stage, on))
    together, one_by_one = (_variance_times_seconds(kind(), the_set, Times()) for kind in (Worker, OneByOne))
    return together / one_by_one


def _variance_times_seconds(worker, the_set, times) -> float:
    """Of what red, green and blue of pixels differ by from their mean, over renders of different seeds."""
    from nineglass.trace.film import Film
    from nineglass.trace.paths import Limits
    from nineglass.trace.render import even_jobs

    shares, spent = [], 0.0
    for seed in range(12):
        film = Film(COLOR_SIDE, COLOR_SIDE)
        jobs = iter(even_jobs(range(COLOR_SIDE**2), 0, COLOR_SAMPLES))
        began = time.perf_counter()
        worker.run(the_set, film, jobs, Limits(), seed + 1, False, lambda: False, times)
        spent += time.perf_counter() - began if seed else 0.0
        rgb = film.rgb()[8:16, 8:16]
        shares.append((rgb - rgb.mean(axis=2, keepdims=True)) / rgb.mean())
    return float(np.var(shares[1:], axis=0).mean()) * spent
