"""What is at hand is found again, and all of it has a budget."""

from dataclasses import dataclass
from unittest import mock

import numpy as np
from django.test import SimpleTestCase
from nineglass import at_hand
from nineglass.at_hand import bytes_of, remembered


@dataclass(frozen=True)
class Thing:
    rows: np.ndarray
    also: tuple


class AtHand(SimpleTestCase):
    def setUp(self):
        at_hand.let_go()
        self.addCleanup(at_hand.let_go)
        self.made = []

        @remembered
        def thing(name: str, megabytes: int):
            self.made.append(name)
            return np.zeros(megabytes * 1_000_000, np.uint8)

        self.thing = thing

    def test_it_is_made_once_for_what_it_is_asked_with(self):
        self.assertIs(self.thing("a", 1), self.thing("a", 1))
        self.thing("b", 1)
        self.assertEqual(self.made, ["a", "b"])

    def test_what_was_not_asked_for_the_longest_goes_first(self):
        with mock.patch.object(at_hand, "MOST_BYTES", 10_100_000):
            for name in "abcaded":
                self.thing(name, 3)
        self.assertEqual(self.made, ["a", "b", "c", "d", "e"])
        self.assertLessEqual(at_hand.held()[1], 10_100_000)

    def test_one_thing_over_the_budget_is_at_hand_until_the_next(self):
        with mock.patch.object(at_hand, "MOST_BYTES", 1_000_000):
            self.assertIs(self.thing("large", 3), self.thing("large", 3))
            self.thing("small", 0)
        self.assertEqual(at_hand.held()[0], 1)

    def test_all_is_counted_and_let_go(self):
        self.thing("a", 2)
        self.assertAlmostEqual(at_hand.held()[1] / 1e6, 2, delta=0.01)
        self.thing.let_go()
        self.assertEqual(at_hand.held(), (0, 0))

    def test_bytes_are_those_of_arrays_wherever_they_are_each_once(self):
        rows = np.zeros((100, 4), np.float32)
        self.assertEqual(bytes_of(Thing(rows, (rows[:10], {"more": np.zeros(5)}))), 1600 + 40)
        self.assertEqual(bytes_of([rows, rows]), 1600)
        self.assertEqual(bytes_of((1, None, "four")), 4)
