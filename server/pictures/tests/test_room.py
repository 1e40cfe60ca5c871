from library.models import Quota
from nineglass.describe import Refused
from nineglass.documents.final import Final
from nineglass.documents.motion import Motion, TurnMove

from pictures import room, services
from pictures.tests.test_making import FinalCase


class RoomForSums(FinalCase):
    def setUp(self):
        super().setUp()
        Quota.objects.create(owner=self.keeper, documents=100, file_mb=100, sums_mb=1)

    def test_pictures_take_no_more_than_the_share_of_a_person(self):
        first = self.order(width=64, height=48)
        with self.assertRaises(Refused) as caught:
            self.order(width=80, height=80)
        [fault] = caught.exception.faults
        self.assertEqual(fault.path, "final.width")
        self.assertIn("1 MB for all your pictures", fault.allowed)
        services.remove(self.keeper, first.id)
        self.order(width=70, height=70)

    def test_one_person_takes_nothing_of_anothers(self):
        self.order(width=70, height=70)
        room.leave_room_for(self.stranger, 900_000)

    def test_lights_kept_apart_count_each_and_frames_that_are_done_do_not(self):
        final = Final(width=100, height=100)
        self.assertEqual(room.needed(final, 3, None), 3 * room.needed(final, 1, None))
        motion = Motion(frames=400, moves=[TurnMove()])
        self.assertLess(room.needed(final, 1, motion), 100 * room.needed(final, 1, None))
