"""Series of pictures: frames of a motion and trials that are made behind; what they wear."""

import io
import json
import zipfile
from unittest import mock

import numpy as np
from django.core.files.storage import default_storage
from django.http import Http404
from django.test import Client
from nineglass.describe import Refused
from nineglass.documents.final import Final
from nineglass.documents.finish import Finish, FinishStep
from nineglass.documents.motion import DialMove, Motion, TurnMove
from nineglass.documents.trials import DialAxis
from nineglass.documents.trials import Trial as TrialDocument
from nineglass.picture.video import read_webm
from PIL import Image
from trials.models import Trial

from pictures import making, series, services, tasks
from pictures.models import FinalPicture, Frame
from pictures.tests.test_making import FinalCase, State


class SeriesCase(FinalCase):
    def order_series(self, what, **about) -> FinalPicture:
        given = {"width": 48, "height": 32, "noise": None, "samples": 6, "smoothed": False} | about
        return services.create(self.keeper, self.kept.id, self.material, self.stage, Final(**given), what)

    def make(self, picture, most: int = 400) -> list[int]:
        """Make chunks one by one until it is done; the frames in the order in which they were worked on."""
        lane, order = making.Lane(), []
        for _ in range(most):
            picture.refresh_from_db()
            if picture.state != State.UNDER_WAY:
                return order
            for chunk in self.waiting(picture)[:1]:
                order.append(making.Chunk.objects.get(id=chunk).piece.frame)
                lane.make(chunk)
            series.look_at_frames(picture.id)
            making.plan(picture.id, 1)
        return order

    def waiting(self, picture) -> list[int]:
        chunks = making.Chunk.objects.filter(piece__picture=picture, sums="").order_by("id")
        return list(chunks.values_list("id", flat=True))


class Motions(SeriesCase):
    def test_a_turntable_is_made_frame_after_frame_and_becomes_a_video(self):
        picture = self.order_series(Motion(frames=8, per_second=12, moves=[TurnMove()]))
        order = self.make(picture)
        self.assertEqual(picture.state, State.DONE, picture.says)
        first = {frame: order.index(frame) for frame in range(8)}
        strip = Motion(frames=8, moves=[TurnMove()]).strip()
        self.assertLess(max(first[k] for k in strip), min(first[k] for k in set(range(8)) - strip), "a strip first")
        frames = list(picture.frames.all())
        self.assertTrue(all(one.is_done and one.exr and one.png and one.preview for one in frames))
        self.assertFalse(picture.pieces.exclude(sums="").exists(), "sums of frames that are done are thrown away")
        pictures = [np.asarray(Image.open(default_storage.path(one.png.name)), float) for one in frames]
        self.assertGreater(np.abs(pictures[0] - pictures[2]).mean(), 1, "it turns")
        played = read_webm(default_storage.path(picture.video.name))
        self.assertEqual(len(played), 8)
        for shown, png in zip(played, pictures, strict=True):
            self.assertLess(abs(shown.mean() - png.mean()), 2)

    def test_frames_draw_other_numbers_and_each_can_be_made_again(self):
        still = Motion(frames=3, loops=False, moves=[DialMove(part="stage:", dial="time", points=[(0, 0), (1, 1)])])
        picture = self.order_series(still)
        self.make(picture)
        exrs = [making.default_storage.path(one.exr.name) for one in picture.frames.all()]
        from nineglass.picture.files import read_picture

        first, second = (read_picture(path)[0] for path in exrs[:2])
        self.assertGreater(np.abs(first - second).mean(), 1e-4, "noise does not stand still over the frames")
        facts = read_picture(exrs[1])[2]
        self.assertEqual((facts["stage"]["time"], facts["final"]["seed"]), (0.5, 1))

    def test_nothing_is_made_of_a_frame_beyond_its_next_look(self):
        picture = self.order_series(Motion(frames=12, moves=[TurnMove()]), noise=0.01, samples=None)
        making.plan(picture.id, 40)
        planned = making.Chunk.objects.filter(piece__picture=picture).values_list("piece__frame", "number")
        # One sample, one more, two more: those by which a frame is looked at first, four.
        self.assertEqual(max(number for _, number in planned), 2)
        self.assertEqual(len({frame for frame, _ in planned}), 12, "others are begun instead")

    def test_it_ends_by_noise_frame_by_frame(self):
        picture = self.order_series(Motion(frames=2, moves=[TurnMove()]), noise=0.2, samples=None)
        self.make(picture)
        self.assertEqual(picture.state, State.DONE)
        self.assertLessEqual(max(one.noise for one in picture.frames.all()), 0.2)
        self.assertLessEqual(picture.noise, 0.2)

    def test_paused_it_keeps_its_frames_and_goes_on(self):
        picture = self.order_series(Motion(frames=7, moves=[TurnMove()]))
        lane = making.Lane()
        while not picture.frames.filter(is_done=True).exists():
            lane.make(self.waiting(picture)[0])
            series.look_at_frames(picture.id)
            making.plan(picture.id, 1)
        services.pause(self.keeper, picture.id)
        done = picture.frames.filter(is_done=True).values_list("png", flat=True)
        before = set(done)
        with self.assertRaises(Refused):
            services.go_on(self.keeper, picture.id, 0.1, None, None)
        self.assertEqual(services.take_up(self.keeper, picture.id).state, State.UNDER_WAY)
        self.make(picture)
        self.assertEqual(picture.state, State.DONE)
        self.assertLessEqual(before, set(done), "what was done is not made again")

    def test_what_cannot_be_is_refused_before_it_begins(self):
        turn = Motion(moves=[TurnMove()])
        wrong = (
            (turn, {"by_light": True}, "final.by_light"),
            (turn, {"minutes": 2}, "final.minutes"),
            (turn, {"samples": None}, "final.minutes"),
            (Motion(moves=[TurnMove(turns=0.4)]), {}, "moves[0].turns"),
        )
        for what, about, path in wrong:
            with self.assertRaises(Refused) as caught:
                self.order_series(what, **about)
            self.assertEqual(caught.exception.faults[0].path, path)
        self.assertFalse(FinalPicture.objects.exists())

    def test_chunks_of_a_frame_that_is_done_count_no_more(self):
        picture = self.order_series(Motion(frames=2, moves=[TurnMove()]), samples=2)
        late = making.take(self.waiting(picture)[0])
        self.make(picture)
        film = making.Lane()
        self.assertFalse(film.make(late.id))
        self.assertEqual(making.Chunk.objects.filter(piece__picture=picture).count(), 0)


class Trials(SeriesCase):
    def test_a_sheet_is_made_behind_and_kept(self):
        across = DialAxis(part="stage:camera", dial="exposure", values=[-2, 0, 2], label="Exposure", unit="EV")
        down = DialAxis(part="stage:camera", dial="focal_length", values=[60, 90], label="Lens")
        trial = TrialDocument(name="Light by lens", material=self.material, stage=self.stage, across=across, down=down)
        picture = self.order_series(trial, width=32, samples=24)
        order = self.make(picture)
        self.assertEqual(picture.state, State.DONE, picture.says)
        self.assertEqual(set(order[:6]), set(range(6)), "evenly")
        kept = Trial.objects.get(owner=self.keeper)
        self.assertEqual((kept.name, len(kept.means), kept.across["values"]), ("Light by lens", 6, [-2, 0, 2]))
        brightness = [sum(mean) for mean in kept.means]
        self.assertTrue(brightness[0] < brightness[1] < brightness[2], brightness)
        self.assertAlmostEqual(brightness[2] / brightness[1], 4, delta=0.2)
        with kept.picture.open() as file:
            self.assertGreater(Image.open(file).width, 3 * 32)

    def test_where_its_material_is_not_shared_any_more_it_says_so(self):
        across = DialAxis(part="stage:camera", dial="exposure", values=[0, 1])
        trial = TrialDocument(material=self.material, stage=self.stage, across=across)
        picture = self.order_series(trial, width=32, samples=1)
        with mock.patch.object(series.trials, "keep", side_effect=Http404):
            self.make(picture)
        self.assertEqual(picture.state, State.FAILED)
        self.assertIn("not shared with you any more", picture.says)

    def test_where_no_more_trials_can_be_kept_it_says_so(self):
        across = DialAxis(part="stage:camera", dial="exposure", values=[0, 1])
        trial = TrialDocument(material=self.material, stage=self.stage, across=across)
        picture = self.order_series(trial, width=32, samples=1)
        with self.settings(MOST_DOCUMENTS=0):
            self.make(picture)
        self.assertEqual((picture.state, "at most 0" in picture.says), (State.FAILED, True))
        self.assertEqual(services.take_up(self.keeper, picture.id).state, State.UNDER_WAY)
        series.look_at_frames(picture.id)
        self.assertEqual(Trial.objects.count(), 1)

    def test_a_value_that_is_not_allowed_is_told_before(self):
        across = DialAxis(part="stage:camera", dial="exposure", values=[0, 1e9])
        trial = TrialDocument(material=self.material, stage=self.stage, across=across)
        with self.assertRaises(Refused):
            self.order_series(trial, width=32)


class Finishes(SeriesCase):
    def setUp(self):
        super().setUp()
        self.own, self.other = Client(), Client()
        self.own.force_login(self.keeper)
        self.other.force_login(self.stranger)

    def finish(self, stops: float) -> Finish:
        return Finish(name="Brighter", steps=[FinishStep(kind="exposure", dials={"stops": stops})])

    def mean(self, picture) -> float:
        picture.refresh_from_db()
        with picture.png.open() as file:
            return float(np.asarray(Image.open(file).convert("RGB"), float).mean())

    def test_pictures_that_wear_one_follow_it(self):
        pictures = [self.order(samples=4) for _ in range(2)]
        for picture in pictures:
            self.make_all(picture)
        plain = self.mean(pictures[0])
        kept = services.keep_finish(self.keeper, self.finish(-1))
        for picture in pictures:
            services.wear(self.keeper, picture.id, kept.id)
            making.show_anew(picture.id)
        darker = [self.mean(picture) for picture in pictures]
        exr = pictures[0].exr.name
        self.assertLess(max(darker), 0.85 * plain)
        services.change_finish(self.keeper, kept.id, 1, self.finish(1))
        for picture in pictures:
            making.show_anew(picture.id)
        self.assertGreater(self.mean(pictures[0]), 1.2 * plain)
        self.assertEqual(pictures[0].exr.name, exr, "it is not baked into the light")
        with Image.open(default_storage.path(pictures[0].png.name)) as png:
            told = json.loads(png.text["nineglass"])
        self.assertEqual(told["finish"]["steps"][0]["dials"], {"stops": 1})
        services.remove_finish(self.keeper, kept.id)
        making.show_anew(pictures[0].id)
        self.assertAlmostEqual(self.mean(pictures[0]), plain, places=6)

    def test_a_video_follows_too(self):
        picture = self.order_series(Motion(frames=2, moves=[TurnMove()]), samples=2)
        self.make(picture)
        before, video = read_webm(default_storage.path(picture.video.name)), picture.video.name
        kept = services.keep_finish(self.keeper, self.finish(-2))
        services.wear(self.keeper, picture.id, kept.id)
        series.show_frames_anew(picture.id)
        picture.refresh_from_db()
        self.assertNotEqual(picture.video.name, video)
        self.assertLess(read_webm(default_storage.path(picture.video.name))[1].mean(), 0.8 * before[1].mean())

    def test_one_that_is_removed_while_it_is_shown_anew_leaves_nothing(self):
        for picture in (self.order(samples=4), self.order_series(Motion(frames=2, moves=[TurnMove()]), samples=2)):
            (self.make if picture.series else self.make_all)(picture)
            made = making.seen_anew

            def removed_meanwhile(*about, picture=picture, made=made):
                names = made(*about)
                services.remove(self.keeper, picture.id)
                return names

            with (
                mock.patch.object(making, "seen_anew", removed_meanwhile),
                mock.patch.object(series, "seen_anew", removed_meanwhile),
            ):
                tasks.show(str(picture.id))
            _, left = default_storage.listdir(f"finals/{picture.id}")
            self.assertEqual(left, [])

    def test_it_is_seen_while_it_is_turned_and_handed_out_as_light(self):
        picture = self.order(samples=4)
        self.make_all(picture)
        path = f"/pictures/{picture.id}/finished.jpg"

        def shown(finish: dict) -> np.ndarray:
            answer = self.own.get(path, {"finish": json.dumps(finish)})
            self.assertEqual(answer.status_code, 200, answer.content[:200])
            return np.asarray(Image.open(io.BytesIO(answer.content)), float)

        steps = [{"kind": "exposure", "dials": {"stops": -2}}]
        self.assertLess(shown({"steps": steps}).mean(), 0.7 * shown({}).mean())
        wrong = self.own.get(path, {"finish": '{"steps": [{"kind": "sparkle"}]}'})
        self.assertEqual((wrong.status_code, b"steps[0].kind" in wrong.content), (400, True))
        self.assertEqual(self.own.get(path, {"frame": "x"}).status_code, 400)
        light = self.own.get(path.replace("jpg", "exr"), {"finish": json.dumps({"steps": steps})})
        self.assertEqual(b"".join(light)[:4], b"\x76\x2f\x31\x01")
        self.assertEqual(self.other.get(path).status_code, 404)

    def test_frames_come_in_one_file_and_a_video_in_parts(self):
        picture = self.order_series(Motion(frames=3, moves=[TurnMove()]), samples=2)
        self.make(picture)
        answer = self.own.get(f"/pictures/{picture.id}/frames-png.zip")
        archive = zipfile.ZipFile(io.BytesIO(b"".join(answer)))
        self.assertEqual(archive.namelist(), ["0001.png", "0002.png", "0003.png"])
        self.assertIsNone(archive.testzip())
        video = f"/pictures/{picture.id}/motion.webm"
        whole = self.own.get(video).content
        part = self.own.get(video, headers={"Range": "bytes=10-19"})
        self.assertEqual((part.status_code, part.content), (206, whole[10:20]))
        self.assertEqual(self.own.get(video, headers={"Range": "bytes=99999999-"}).status_code, 416)
        for path in (video, f"/pictures/{picture.id}/frames-exr.zip", f"/pictures/{picture.id}/frames/0.jpg"):
            self.assertEqual(self.own.get(path).status_code, 200)
            self.assertEqual(self.other.get(path).status_code, 404)

    def test_a_finish_that_was_changed_elsewhere_is_not_overwritten(self):
        kept = services.keep_finish(self.keeper, self.finish(1))
        path = f"/api/pictures/finishes/{kept.id}"

        def change(based_on: int, stops: float):
            body = {"based_on": based_on, "document": self.finish(stops).model_dump(mode="json")}
            return self.own.put(path, json.dumps(body), "application/json")

        self.assertEqual(change(1, -1).json()["revision"], 2)
        late = change(1, 2)
        self.assertEqual((late.status_code, late.json()["newest"]["revision"]), (409, 2))
        kept.refresh_from_db()
        self.assertEqual(kept.document, self.finish(-1).model_dump(mode="json"))
        self.assertEqual(change(2, 2).status_code, 200)

    def test_finishes_of_others_cannot_be_worn_read_or_changed(self):
        kept = services.keep_finish(self.stranger, self.finish(1))
        picture = self.order(samples=2)
        wear = f"/api/pictures/{picture.id}/finish"
        body = json.dumps({"finish_id": str(kept.id)})
        self.assertEqual(self.own.post(wear, body, "application/json").status_code, 404)
        self.assertEqual(self.own.get("/api/pictures/finishes").json(), [])
        document = self.finish(0).model_dump(mode="json")
        path = f"/api/pictures/finishes/{kept.id}"
        body = json.dumps({"based_on": 1, "document": document})
        self.assertEqual(self.own.put(path, body, "application/json").status_code, 404)
        self.assertEqual(self.own.delete(path).status_code, 404)
        wrong = self.own.post(
            "/api/pictures/finishes", '{"steps": [{"kind": "bloom", "dials": {"size": "x"}}]}', "application/json"
        )
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("steps[0].dials.size", wrong.content.decode())


class Frames(SeriesCase):
    def test_the_next_look_is_when_it_is_likely_to_be_done(self):
        final = Final(noise=0.1)
        self.assertEqual(series._looked_at_next(10, 0.15, final), 22, "noise falls with the root of the samples")
        self.assertEqual(series._looked_at_next(10, 2.0, final), 40, "four times as many at most")
        self.assertEqual(series._looked_at_next(1, None, final), 4)

    def test_a_frame_that_cannot_be_made_ends_the_series_and_says_why(self):
        picture = self.order_series(Motion(frames=2, moves=[TurnMove()]))
        with mock.patch.object(making.Documents, "at", side_effect=Refused([making_fault()])):
            making.Lane().make(self.waiting(picture)[0])
        picture.refresh_from_db()
        self.assertEqual((picture.state, "camera" in picture.says), (State.FAILED, True))
        self.assertEqual(Frame.objects.filter(picture=picture, is_done=True).count(), 0)


def making_fault():
    from nineglass.describe import Fault

    return Fault("camera.dials.distance", "out of range", "1 to 100", "Set it.")
