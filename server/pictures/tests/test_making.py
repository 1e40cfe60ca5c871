"""Final pictures: chunks that count once, in their order, whoever makes them and whatever is killed."""

import asyncio
import contextlib
import io
import json
import shutil
import tempfile
import time
from datetime import timedelta
from pathlib import Path
from unittest import mock

import numpy as np
import OpenEXR
from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files.storage import default_storage
from django.db import connection
from django.test import Client, TransactionTestCase, override_settings
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from materials import services as materials
from nineglass.describe import Refused
from nineglass.documents import model as documents
from nineglass.documents.final import Final
from nineglass.finals import whole
from nineglass.finals.plan import tiles_of
from nineglass.picture.noise import screen_luminance
from PIL import Image
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob
from procrastinate.exceptions import UniqueViolation
from procrastinate.jobs import Status

from pictures import kept_sums, making, services, tasks
from pictures.models import Chunk, FinalPicture, Piece

State = FinalPicture.State


def demo(name: str) -> dict:
    return json.loads((settings.DEMO_DIR / f"{name}.json").read_text())


class FinalCase(TransactionTestCase):
    def setUp(self):
        self.folder = tempfile.mkdtemp(prefix="nineglass-finals-")
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        elsewhere = override_settings(MEDIA_ROOT=self.folder)
        elsewhere.enable()
        self.addCleanup(elsewhere.disable)
        with connection.cursor() as cursor:
            cursor.execute("TRUNCATE procrastinate_jobs CASCADE")
        people = get_user_model().objects
        self.keeper = people.create_user("keeper")
        self.stranger = people.create_user("stranger")
        self.material = documents.read(documents.Material, demo("net-float"))
        self.stage = documents.read(documents.Stage, demo("window-bench"))
        self.kept = materials.create(self.keeper, self.material)

    def order(self, **about) -> FinalPicture:
        final = Final(**{"width": 48, "height": 32, "noise": None, "samples": 12, "smoothed": False} | about)
        return services.create(self.keeper, self.kept.id, self.material, self.stage, final)

    def waiting(self, picture) -> list[int]:
        chunks = Chunk.objects.filter(piece__picture=picture, sums="").order_by("number", "piece__light")
        return list(chunks.values_list("id", flat=True))

    def make_all(self, picture, backwards: bool = False, lane=None) -> None:
        """Make chunks until the picture is done."""
        lane = lane or making.Lane()
        for _ in range(200):
            picture.refresh_from_db()
            if picture.state != State.UNDER_WAY:
                return
            for chunk in self.waiting(picture)[:: -1 if backwards else 1]:
                lane.make(chunk)
            making.look_if_due(picture.id)
            making.plan(picture.id, 2)
        self.fail("it does not end")

    def sums(self, picture, light: int = 0):
        piece = picture.pieces.get(light=light, tile=0)
        return kept_sums.of_piece(piece, tiles_of(documents.read(Final, picture.final))[0])


class Sums(FinalCase):
    def test_any_order_and_any_number_of_workers_gives_the_same_sums_exactly(self):
        one, two = self.order(), self.order()
        self.make_all(one)
        self.make_all(two, backwards=True, lane=making.Lane())
        for picture in (one, two):
            picture.refresh_from_db()
            self.assertEqual((picture.state, picture.pieces.get().samples), (State.DONE, 12))
        first, second = self.sums(one), self.sums(two)
        np.testing.assert_array_equal(first.counts, 12)
        for name in ("sums", "odd", "thrown", "guides", "odd_counts"):
            np.testing.assert_array_equal(getattr(first, name), getattr(second, name), name)

    def test_lights_by_themselves_add_up_to_the_picture(self):
        self.material = documents.read(documents.Material, demo("copper-pan"))
        picture = self.order(by_light=True, samples=32)
        self.make_all(picture)
        picture.refresh_from_db()
        self.assertEqual(picture.lights[-1]["name"], "Surround")
        whole = making.parts_of_picture(picture)(None)
        np.testing.assert_allclose(whole.beauty, sum(rgb.astype(float) for rgb in whole.rgb), rtol=1e-6, atol=1e-7)
        self.assertGreater(min(float(rgb.mean()) for rgb in whole.rgb), 0)
        together = self.order(samples=32)
        self.make_all(together)
        together.refresh_from_db()
        beauty = making.parts_of_picture(together)(None).beauty
        np.testing.assert_allclose(whole.beauty, beauty, rtol=1e-3, atol=1e-5)

    @mock.patch("nineglass.finals.plan.CHUNK_PATHS", 4 * 48 * 32)
    def test_the_light_with_the_noise_gets_the_samples(self):
        self.material = documents.read(documents.Material, demo("copper-pan"))
        picture, lane = self.order(by_light=True, samples=None, noise=0.001), making.Lane()
        for turn in range(30):
            for chunk in self.waiting(picture):
                lane.make(chunk)
            if turn == 5:
                picture.refresh_from_db()
                making.look(picture, False)
            making.plan(picture.id, 2)
        picture.refresh_from_db()
        spreads = np.array([one["spread"] for one in picture.lights])
        expected = []
        for light in range(len(spreads)):
            film = self.sums(picture, light)
            first, second = (screen_luminance(half, picture.exposure) for half in film.halves())
            expected.append(float(np.sqrt(np.mean((first - second) ** 2) / 4 * film.counts.mean())))
        np.testing.assert_allclose(spreads, expected, rtol=0.5)
        samples = np.array(picture.pieces.order_by("light").values_list("samples", flat=True))
        wanted = np.maximum(spreads / spreads.max(), making.LEAST_NEED)
        np.testing.assert_allclose(samples / samples.max(), wanted, atol=0.15)
        self.assertLess(samples.min(), 0.7 * samples.max())

    def test_a_chunk_that_was_taken_again_counts_once(self):
        picture = self.order()
        chunk = self.waiting(picture)[0]
        lost = making.take(chunk)
        again = making.take(chunk)
        film = making.Lane()
        self.assertEqual((lost.attempt, again.attempt), (1, 2))
        self.assertTrue(film.make(chunk), "a third attempt, of a worker that lives")
        piece, sums = picture.pieces.get(), self.sums(picture)
        self.assertFalse(making.put_in(lost, sums), "what the dead one had made comes too late")
        self.assertFalse(making.put_in(again, sums))
        self.assertEqual(Piece.objects.get(id=piece.id).samples, 1)
        self.make_all(picture)
        np.testing.assert_array_equal(self.sums(FinalPicture.objects.get(id=picture.id)).counts, 12)

    def test_a_picture_over_which_workers_end_is_set_aside(self):
        picture = self.order()
        chunk = self.waiting(picture)[0]
        for _ in range(making.MOST_DEATHS):
            self.assertIsNotNone(making.take(chunk))
        self.assertIsNone(making.take(chunk))
        picture.refresh_from_db()
        self.assertEqual(picture.state, State.FAILED)
        services.take_up(self.keeper, picture.id)
        self.assertIsNotNone(making.take(chunk), "taken up, deaths are counted anew")

    def test_one_that_was_given_back_is_not_held_against_it(self):
        picture = self.order()
        chunk, lane = self.waiting(picture)[0], making.Lane()
        with mock.patch.object(making, "now_and_then", lambda is_so: is_so):
            for _ in range(making.MOST_DEATHS + 2):
                self.assertFalse(lane.make(chunk, lambda: True))
        self.assertTrue(lane.make(chunk))

    def test_a_step_that_does_not_end_ends_its_picture_and_says_so(self):
        picture, lane = self.order(), making.Lane()
        self.assertFalse(lane.hangs())
        lane.step = picture, time.monotonic() - making.LONGEST_STEP_S + 30
        self.assertFalse(lane.hangs(), "a long one")
        lane.step = picture, time.monotonic() - making.LONGEST_STEP_S
        self.assertTrue(lane.hangs())
        picture.refresh_from_db()
        self.assertEqual((picture.state, "One step" in picture.says), (State.FAILED, True))

    def test_an_unforeseen_error_ends_the_picture_and_says_its_number(self):
        picture = self.order()
        breaks = mock.patch("nineglass.finals.chunk.Maker.make", side_effect=ZeroDivisionError)
        with breaks, self.assertLogs("pictures.making", "ERROR"):
            self.assertFalse(making.Lane().make(self.waiting(picture)[0]))
        picture.refresh_from_db()
        self.assertIn("the log has it as", picture.says)

    def test_what_comes_before_its_turn_waits(self):
        picture = self.order()
        first, second = self.waiting(picture)[:2]
        lane = making.Lane()
        self.assertTrue(lane.make(second))
        self.assertEqual(picture.pieces.get().merged, 0)
        self.assertTrue(lane.make(first))
        self.assertEqual(picture.pieces.get().merged, 2)

    def test_no_file_is_left_lying(self):
        picture = self.order()
        self.make_all(picture)
        kept = {path.name for path in (Path(self.folder) / "finals" / str(picture.id)).iterdir()}
        picture.refresh_from_db()
        named = {Path(name).name for name in (picture.exr.name, picture.png.name, picture.pieces.get().sums.name)}
        self.assertEqual(kept, named)
        services.remove(self.keeper, picture.id)
        self.assertEqual(list((Path(self.folder) / "finals" / str(picture.id)).iterdir()), [])


class Going(FinalCase):
    def test_it_ends_by_noise_and_goes_on_for_less_noise(self):
        picture = self.order(noise=0.5, samples=None)
        self.make_all(picture)
        picture.refresh_from_db()
        self.assertEqual(picture.state, State.DONE)
        self.assertLessEqual(picture.noise, 0.5)
        before, samples = picture.exr.name, picture.pieces.get().samples
        services.go_on(self.keeper, picture.id, picture.noise / 2, None, None)
        self.make_all(picture)
        picture.refresh_from_db()
        self.assertGreater(picture.pieces.get().samples, 2 * samples, "the samples that were there stay")
        self.assertNotEqual(picture.exr.name, before)

    def test_a_paused_one_keeps_what_it_has_and_no_chunk_is_made(self):
        picture = self.order()
        lane = making.Lane()
        waiting = self.waiting(picture)
        lane.make(waiting[0])
        services.pause(self.keeper, picture.id)
        self.assertFalse(lane.make(waiting[1]))
        self.assertEqual(picture.pieces.get().samples, 1)
        services.go_on(self.keeper, picture.id, None, None, 12)
        self.make_all(picture)
        np.testing.assert_array_equal(self.sums(FinalPicture.objects.get(id=picture.id)).counts, 12)

    def test_one_that_cannot_be_made_says_why(self):
        picture = self.order()
        FinalPicture.objects.filter(id=picture.id).update(material=self.kept.document | {"section": {"bands": []}})
        making.Lane().make(self.waiting(picture)[0])
        picture.refresh_from_db()
        self.assertEqual(picture.state, State.FAILED)
        self.assertIn("section.bands", picture.says)

    def test_time_left_by_what_was_measured(self):
        picture = self.order(noise=0.1, samples=None)
        FinalPicture.objects.filter(id=picture.id).update(noise=0.2, spent_s=60, resumed_at=None)
        picture.refresh_from_db()
        # Noise falls with the root of the work: half of it takes four times as long.
        self.assertAlmostEqual(making.time_left_s(picture), 180)


class Jobs(FinalCase):
    def jobs(self):
        return ProcrastinateJob.objects.filter(task_name="make_chunk", status="todo")

    def test_every_chunk_has_one_job_also_when_it_is_taken_up_again(self):
        picture = self.order()
        count = self.jobs().count()
        self.assertEqual(count, len(self.waiting(picture)))
        tasks.go_on_with(picture.id)
        self.assertEqual(self.jobs().count(), count)

    def test_the_first_in_the_queue_is_made_first(self):
        self.order()
        second = self.order()
        services.put_first(self.keeper, second.id)
        first_job = self.jobs().order_by("-priority").first()
        self.assertEqual(Chunk.objects.get(id=first_job.args["chunk_id"]).piece.picture_id, second.id)

    def test_nobody_waits_for_another_person(self):
        self.order()
        self.order()
        hers = materials.create(self.stranger, self.material)
        final = Final(width=48, height=32, noise=None, samples=12)
        services.create(self.stranger, hers.id, self.material, self.stage, final)
        ranks = {}
        for job in self.jobs():
            picture = Chunk.objects.get(id=job.args["chunk_id"]).piece.picture
            ranks.setdefault((picture.owner.username, picture.place), set()).add(job.priority)
        self.assertEqual(sorted(map(tuple, ranks.values())), [(-1,), (0,), (0,)])


class Files(FinalCase):
    def test_what_it_is_made_of_can_be_made_again(self):
        import OpenEXR

        picture = self.order(by_light=True, smoothed=True, samples=16)
        self.make_all(picture)
        picture.refresh_from_db()
        made = OpenEXR.File(default_storage.path(picture.exr.name))
        layers = set(made.channels())
        for name in (
            "light_surround",
            "as_rendered",
            "albedo",
            "normal.X",
            "position.X",
            "depth.Z",
            "object_id.Y",
            "noise.Y",
        ):
            self.assertIn(name, layers)
        facts = json.loads(made.header()["comments"])
        self.assertEqual(facts["material"], picture.material)
        self.assertEqual(facts["final"]["seed"], 1)
        with Image.open(default_storage.path(picture.png.name)) as png:
            self.assertEqual(png.size, (48, 32))
            self.assertEqual(json.loads(png.text["nineglass"])["stage"], picture.stage)
        # Depth and place are of the camera and the form: the place in the middle lies as far away as its depth says.
        depth, ids = made.channels()["depth.Z"].pixels, made.channels()["object_id.Y"].pixels
        self.assertTrue((ids[16, 24] > 0) and np.isfinite(depth[16, 24]))
        self.assertLess(depth[16, 24], depth[31, 0] + 100)


class Turned(FinalCase):
    def test_what_lies_on_the_floor_is_handed_out_by_itself(self):
        picture = self.order(on_floor=True, samples=8)
        self.make_all(picture)
        plain = self.order(samples=8)
        self.make_all(plain)
        own = Client()
        own.force_login(self.keeper)
        told = {one["id"]: one for one in own.get("/api/pictures").json()}[str(picture.id)]
        self.assertEqual([one["name"] for one in told["lights"]], ["All light"])
        (with_layers, alone) = (making.parts_of_picture(one)(None).beauty for one in (picture, plain))
        np.testing.assert_array_equal(with_layers, alone)
        picture.refresh_from_db()
        with OpenEXR.File(default_storage.path(picture.exr.name), separate_channels=True) as exr:
            channels = exr.channels()
            self.assertGreater(channels["shadow.Y"].pixels.max(), 0.1)
            self.assertIn("caustic.G", channels)
        self.stage = self.stage.model_copy(update={"floor": None})
        with self.assertRaises(Refused):
            self.order(on_floor=True)

    def test_lights_are_turned_at_once_handed_out_so_and_taken_over(self):
        own, other = Client(), Client()
        own.force_login(self.keeper)
        other.force_login(self.stranger)
        self.material = documents.read(documents.Material, demo("copper-pan"))
        picture = self.order(by_light=True)
        self.make_all(picture)
        path = f"/pictures/{picture.id}/turned.jpg"

        def mean(query: str) -> np.ndarray:
            answer = own.get(f"{path}?{query}")
            return np.asarray(Image.open(io.BytesIO(answer.content)), float).mean(axis=(0, 1))

        dark, red = mean("window=0,0,0&stage:surround=0,0,0"), mean("window=0,0,0&stage:surround=1,0,0")
        self.assertLess(dark.max(), 4)
        self.assertGreater(red[0], 3 * red[2])
        self.assertEqual(own.get(f"{path}?window=no").status_code, 400)
        self.assertEqual(other.get(path).status_code, 404)
        before = making.parts_of_picture(picture)(None)
        gains = {"gains": {"window": [0.5, 0.5, 0.5]}}
        turn = f"/api/pictures/{picture.id}/lights"
        self.assertEqual(own.post(turn, json.dumps(gains), "application/json").status_code, 200)
        self.assertEqual(own.post(turn, '{"gains": {"sun": [1, 1, 1]}}', "application/json").status_code, 422)
        self.assertEqual(other.post(turn, json.dumps(gains), "application/json").status_code, 404)
        old = FinalPicture.objects.get(id=picture.id).exr.name
        making.hand_out_anew(picture.id)
        picture.refresh_from_db()
        self.assertNotEqual(picture.exr.name, old)
        after = making.parts_of_picture(picture)(None)
        np.testing.assert_allclose(after.beauty, 0.5 * before.rgb[0] + before.rgb[1], rtol=1e-5, atol=1e-7)
        both = {"material": self.material.model_dump(mode="json"), "stage": self.stage.model_dump(mode="json")}
        taken = own.post(f"/api/pictures/{picture.id}/taken-over", json.dumps(both), "application/json").json()
        self.assertEqual(taken["stage"]["lamps"][0]["dials"]["power"], self.stage.lamps[0].dials["power"] / 2)


class Strangers(FinalCase):
    def test_they_reach_nothing(self):
        picture = self.order()
        self.make_all(picture)
        other, own = Client(), Client()
        other.force_login(self.stranger)
        own.force_login(self.keeper)
        self.assertEqual(other.get("/api/pictures").json(), [])
        path = f"/api/pictures/{picture.id}"
        for way in ("pause", "go-on", "first"):
            self.assertEqual(other.post(f"{path}/{way}", "{}", "application/json").status_code, 404)
        self.assertEqual(other.delete(path).status_code, 404)
        line = own.get("/api/pictures").json()[0]
        for name in ("preview", "exr", "png"):
            self.assertEqual(other.get(line[name]).status_code, 404)
            self.assertEqual(own.get(line[name]).status_code, 200)
        body = {"material_id": str(self.kept.id), "final": {"width": 32, "height": 32}}
        body |= {"material": self.kept.document, "stage": self.stage.model_dump(mode="json")}
        self.assertEqual(other.post("/api/pictures", json.dumps(body), "application/json").status_code, 404)
        self.assertEqual(own.post("/api/pictures", json.dumps(body), "application/json").status_code, 201)
        body["final"] = {"width": 9000, "height": 32}
        answer = own.post("/api/pictures", json.dumps(body), "application/json")
        self.assertEqual((answer.status_code, answer.json()["faults"][0]["path"]), (422, "final.width"))


class Mending(FinalCase):
    def test_what_is_wrong_with_one_picture_ends_no_other(self):
        first, second, third = self.order(), self.order(), self.order()
        ProcrastinateJob.objects.all().delete()
        Piece.objects.filter(picture__in=(first, second)).update(samples=12)
        wrong = {first.id: FileNotFoundError(), second.id: ZeroDivisionError()}

        def looks(picture_id):
            if picture_id in wrong:
                raise wrong[picture_id]

        with mock.patch.object(tasks, "_look", looks), self.assertLogs("pictures.tasks", "ERROR"):
            tasks.take_up_all()
            first.refresh_from_db()
            self.assertEqual(first.state, State.UNDER_WAY, "once may be chance")
            tasks.take_up_all()
        for one in (first, second, third):
            one.refresh_from_db()
        self.assertEqual([one.state for one in (first, second, third)], [State.FAILED, State.FAILED, State.UNDER_WAY])
        self.assertIn("is gone", first.says)
        self.assertIn("the log has it as", second.says)
        self.assertTrue(set(self.waiting(third)) <= tasks._queued_chunks())

    def test_many_pictures_are_put_in_order_by_as_many_queries_as_one(self):
        self.order()
        few = self.queries(lambda: tasks.put_in_order(self.keeper))
        for _ in range(6):
            self.order()
        self.assertEqual(self.queries(lambda: tasks.put_in_order(self.keeper)), few)

    def test_many_pictures_that_wait_are_mended_by_as_many_queries_as_one(self):
        self.order(samples=1)
        few = self.queries(tasks.take_up_all)
        for samples in (1, 12, 4000):
            self.order(samples=samples)
            self.order(samples=samples, width=200, height=100)
        self.assertEqual(self.queries(tasks.take_up_all), few)

    def test_what_was_left_lying_is_taken_up(self):
        """Chunks without a job, chunks that were never planned, and a picture that has all and that nobody looked at."""
        lost, unplanned, complete, waiting = (self.order() for _ in range(4))
        ProcrastinateJob.objects.filter(args__chunk_id__in=self.waiting(lost)).delete()
        Chunk.objects.filter(piece__picture=unplanned).delete()
        lane = making.Lane()
        while chunks := self.waiting(complete):
            for chunk_id in chunks:
                lane.make(chunk_id)
            making.plan(complete.id, 1)
        tasks.take_up_all()
        for one in (lost, unplanned, waiting):
            self.assertTrue(self.waiting(one))
            self.assertLessEqual(set(self.waiting(one)), tasks._queued_chunks())
        complete.refresh_from_db()
        self.assertEqual(complete.state, State.DONE)

    @staticmethod
    def queries(act) -> int:
        with CaptureQueriesContext(connection) as asked:
            act()
        return len(asked)

    def test_waiting_chunks_have_the_rank_of_their_picture(self):
        pictures = [self.order() for _ in range(3)]
        tasks.put_in_order(self.keeper)
        for rank, picture in enumerate(pictures):
            jobs = ProcrastinateJob.objects.filter(args__chunk_id__in=self.waiting(picture))
            self.assertEqual(set(jobs.values_list("priority", flat=True)), {-rank})

    def test_it_comes_every_few_seconds_of_every_minute(self):
        [periodic] = [one for one in app.periodic_registry.periodic_tasks.values() if one.task is tasks.mend]
        times = periodic.croniter
        times.set_current(start_time=0.0)
        at = [times.get_next(ret_type=float) for _ in range(100)]
        self.assertEqual(at, [5.0 * (1 + k) for k in range(100)])

    def test_a_lost_mend_gives_way_to_one_that_waits(self):
        async def story():
            jobs = mock.AsyncMock()
            jobs.get_stalled_jobs.return_value = ["first", "second"]
            jobs.retry_job.side_effect = [UniqueViolation(constraint_name="one", queueing_lock="mend"), None]
            await tasks.mend.func(mock.Mock(app=mock.Mock(job_manager=jobs)), 0)
            self.assertEqual([call.args[0] for call in jobs.retry_job.await_args_list], ["first", "second"])
            jobs.finish_job.assert_awaited_once_with("first", Status.FAILED, delete_job=True)

        with mock.patch.object(tasks, "take_up_all"):
            asyncio.run(story())

    def test_two_mend_one_after_the_other(self):
        self.order()
        ProcrastinateJob.objects.all().delete()
        with mock.patch.object(making, "alone", lambda what: contextlib.nullcontext(False)):
            tasks.take_up_all()
        self.assertEqual(tasks._queued_chunks(), set())

    def test_a_look_that_has_to_wait_for_the_processor_is_not_taken_for_a_costly_one(self):
        picture, look_at = self.order(samples=12), whole.look_at
        making.Lane().make(self.waiting(picture)[0])

        def waits(*about):
            time.sleep(1)
            return look_at(*about)

        with mock.patch.object(whole, "look_at", waits):
            making.look(picture, has_all=False)
        picture.refresh_from_db()
        self.assertLess(picture.look_s, 0.8)

    def test_a_last_chunk_that_comes_while_another_looks_ends_the_picture(self):
        picture, look_at = self.order(samples=12), whole.look_at
        making.Lane().make(self.waiting(picture)[0])
        meanwhile = making.Lane()

        def slow(*about):
            while chunks := self.waiting(picture) or making.plan(picture.id, 1):
                for chunk_id in chunks:
                    meanwhile.make(chunk_id)
            return look_at(*about)

        with mock.patch.object(whole, "look_at", slow):
            making.look_if_due(picture.id)
        picture.refresh_from_db()
        self.assertEqual(picture.state, State.DONE)

    def test_a_young_picture_is_looked_at_again_soon_whatever_its_first_look_took(self):
        picture, now = self.order(), timezone.now()
        rests = {}
        for age_s in (4, 40, 4000):
            picture.resumed_at, picture.looked_at, picture.look_s = now - timedelta(seconds=age_s), now, 5.0
            rests[age_s] = making._rests(picture).total_seconds()
        self.assertEqual(rests, {4: 2.0, 40: 20.0, 4000: 60.0})

    def test_files_of_a_picture_that_is_removed_while_it_is_looked_at_go_too(self):
        picture = self.order(samples=2)
        lane = making.Lane()
        while self.waiting(picture):
            lane.make(self.waiting(picture)[0])
        made = making.files_of_frame

        def removed_meanwhile(*about):
            files = made(*about)
            services.remove(self.keeper, picture.id)
            return files

        with mock.patch.object(making, "files_of_frame", removed_meanwhile):
            making.look(picture, True)
        left = [path for path in Path(self.folder).rglob("*") if path.suffix in (".exr", ".png", ".sums")]
        self.assertEqual(left, [])

    def test_a_full_disk_leaves_no_part_of_sums(self):
        picture = self.order()
        before = sorted(Path(self.folder).rglob("*.sums"))
        breaks = mock.patch("django.core.files.storage.FileSystemStorage._save", self.half_written)
        with breaks, self.assertRaises(OSError):
            making.Lane().make(self.waiting(picture)[0])
        self.assertEqual(sorted(Path(self.folder).rglob("*.sums")), before)

    @staticmethod
    def half_written(storage, name, content):
        path = Path(storage.path(name))
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"half")
        raise OSError(28, "No space left on device")
