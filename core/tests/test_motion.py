"""What moves over the frames of a series."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.describe import Refused
from nineglass.documents.model import Material, Stage, read
from nineglass.documents.motion import DialMove, Motion, TurnMove, check_motion
from nineglass.documents.trials import DialAxis, Trial
from scipy.interpolate import PchipInterpolator

from tests.scenes import demo

FLOAT, BENCH = read(Material, demo("net-float")), read(Stage, demo("window-bench"))


def refused(*about) -> list:
    try:
        check_motion(*about)
    except Refused as why:
        return why.faults
    return []


class Turns(SimpleTestCase):
    def test_a_loop_ends_one_step_before_it_begins_again(self):
        motion = Motion(frames=48, moves=[TurnMove()])
        turns = [motion.documents_at(k, FLOAT, BENCH)[1].turn - BENCH.turn for k in range(48)]
        np.testing.assert_allclose(np.diff(turns), 7.5)
        self.assertEqual(turns[0], 0)
        self.assertEqual(360 - turns[-1], 7.5, "the step over the seam is as long as every other")
        self.assertEqual(refused(motion, FLOAT, BENCH), [])

    def test_where_the_next_loop_begins_everything_is_as_in_the_first_frame(self):
        for what in ("forms", "lamps", "surround", "camera"):
            for ease in ("even", "soft"):
                move = TurnMove(what=what, turns=-2, ease=ease)
                self.assertEqual(move.at(1.0, FLOAT, BENCH)[1], move.at(0.0, FLOAT, BENCH)[1], (what, ease))

    def test_every_thing_that_turns_turns_alone(self):
        for what, changed in (("forms", "turn"), ("lamps", "lamps"), ("camera", "camera")):
            moved = TurnMove(what=what).at(0.25, FLOAT, BENCH)[1]
            different = {name for name in Stage.model_fields if getattr(moved, name) != getattr(BENCH, name)}
            self.assertEqual(different, {changed})

    def test_half_a_turn_is_no_loop_and_says_so(self):
        [fault] = refused(Motion(moves=[TurnMove(turns=0.5)]), FLOAT, BENCH)
        self.assertEqual((fault.path, fault.allowed), ("moves[0].turns", "whole turns"))
        self.assertEqual(refused(Motion(loops=False, moves=[TurnMove(turns=0.5)]), FLOAT, BENCH), [])

    def test_soft_begins_and_ends_at_rest(self):
        motion = Motion(frames=101, loops=False, moves=[TurnMove(ease="soft")])
        turns = np.array([motion.documents_at(k, FLOAT, BENCH)[1].turn for k in range(100)]) - BENCH.turn
        steps = np.diff(turns)
        self.assertLess(steps[0], 0.05 * steps.max())
        self.assertLess(steps[-1], 0.1 * steps.max())
        self.assertAlmostEqual(turns[50], 180, places=6)


class DialsOverTime(SimpleTestCase):
    def move(self, **about) -> DialMove:
        given = {"part": "stage:camera", "dial": "focal_length", "points": [(0, 50), (0.5, 120), (1, 50)]} | about
        return DialMove(**given)

    def test_it_goes_through_its_points_as_the_library_does(self):
        points = [(0, 50), (0.3, 80), (0.7, 60), (1, 50)]
        move, at = self.move(points=points), np.linspace(0, 1, 41)
        expected = PchipInterpolator(*np.array(points, float).T)(at)
        np.testing.assert_allclose([move.value(t) for t in at], expected, rtol=1e-12)
        straight = self.move(points=points, joined="straight")
        self.assertAlmostEqual(straight.value(0.15), 65)

    def test_it_sets_dials_of_the_stage_the_material_and_the_time(self):
        stage = self.move().at(0.5, FLOAT, BENCH)[1]
        self.assertEqual(stage.camera.dials["focal_length"], 120)
        band = next(one for one in FLOAT.section.bands if one.kind == "interface")
        thin = self.move(part=band.id, dial="specular_roughness", points=[(0, 0), (1, 0.4)]).at(0.5, FLOAT, BENCH)[0]
        rough = next(one for one in thin.section.bands if one.id == band.id).dials["specular_roughness"]
        self.assertAlmostEqual(rough, 0.2)
        timed = self.move(part="stage:", dial="time", points=[(0, 0), (1, 4)]).at(0.25, FLOAT, BENCH)[1]
        self.assertAlmostEqual(timed.time, PchipInterpolator([0, 1], [0, 4])(0.25))

    def test_a_loop_must_come_back_and_values_must_be_allowed(self):
        [fault] = refused(Motion(moves=[self.move(points=[(0, 50), (1, 80)])]), FLOAT, BENCH)
        self.assertEqual(fault.path, "moves[0].points")
        self.assertTrue(refused(Motion(moves=[self.move(points=[(0, 50), (0.5, 1e6), (1, 50)])]), FLOAT, BENCH))
        self.assertTrue(refused(Motion(moves=[self.move(part="stage:", dial="name")]), FLOAT, BENCH))
        for points in ([(0, 1)], [(0.5, 1), (0.5, 2)], [(0, 1), (1.5, 2)]):
            with self.assertRaises(ValueError):
                self.move(points=points)


class Order(SimpleTestCase):
    def test_the_strip_comes_first_and_then_frame_after_frame(self):
        motion = Motion(frames=48, moves=[TurnMove()])
        samples = dict.fromkeys(range(48), 0)
        order = []
        for _ in range(40):
            k = min(samples, key=lambda k: motion.rank(k, samples[k]))
            samples[k] += 2
            order.append(k)
        self.assertEqual(set(order[:12]), motion.strip(), "six frames to four samples each")
        self.assertEqual(set(order[12:]), {0}, "and then the first one")

    def test_the_pictures_of_a_trial_come_evenly(self):
        across = DialAxis(part="stage:camera", dial="exposure", values=[-1, 0, 1])
        trial = Trial(material=FLOAT, stage=BENCH, across=across)
        self.assertEqual(trial.count, 3)
        self.assertLess(trial.rank(2, 1), trial.rank(0, 2))
        self.assertEqual(trial.documents_at(2, FLOAT, BENCH)[1].camera.dials["exposure"], 1)
