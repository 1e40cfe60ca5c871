import sys
import threading

from django.test import SimpleTestCase

from live.counted import InFlight, Wishes

MANY = 20_000


class OnSeveralThreads(SimpleTestCase):
    def setUp(self):
        self.addCleanup(sys.setswitchinterval, sys.getswitchinterval())
        sys.setswitchinterval(1e-6)

    def all_at_once(self, *acts):
        threads = [threading.Thread(target=act) for act in acts]
        for one in threads:
            one.start()
        for one in threads:
            one.join()

    def test_frames_sent_by_two_and_shown_to_a_third_are_counted_right(self):
        flying = InFlight()
        for _ in range(2 * MANY):
            flying.sent()

        def sends():
            for _ in range(MANY):
                flying.sent()

        def hears():
            for _ in range(MANY):
                flying.shown()

        self.all_at_once(sends, sends, hears)
        self.assertEqual(flying.count, 3 * MANY)
        for _ in range(4 * MANY):
            flying.shown()
        self.assertEqual(flying.count, 0, "what is shown twice is not owed")

    def test_every_wish_is_taken_once(self):
        wishes, taken = Wishes(), []

        def wants():
            for k in range(MANY):
                wishes.append(str(k))

        def keeps():
            while len(taken) < MANY:
                taken.extend(wishes.taken())

        self.all_at_once(wants, keeps)
        self.assertEqual(taken, [str(k) for k in range(MANY)])
