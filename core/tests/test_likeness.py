"""Materials of the same matter are found whatever they are called."""

from django.test import SimpleTestCase
from nineglass.documents.likeness import likeness_of
from nineglass.documents.model import Material, read

from tests.scenes import demo


def changed(name: str, change) -> Material:
    given = demo(name)
    change(given)
    return read(Material, given)


class Likeness(SimpleTestCase):
    def test_names_and_places_on_the_paper_make_no_difference(self):
        def call_otherwise(given):
            given["name"] = "Another"
            given["section"]["bands"][0]["name"] = "skin"
            for i, slip in enumerate(given["slips"]):
                slip["at"], slip["title"] = [17 * i, 3], f"slip {i}"

        for name in ("net-float", "abalone-film", "driftwood"):
            first = likeness_of(read(Material, demo(name)))
            self.assertEqual(likeness_of(changed(name, call_otherwise)), first, name)

    def test_whole_numbers_are_alike_however_they_are_written(self):
        def write_as(number):
            return lambda given: given["section"]["bands"][0]["dials"].update(specular_roughness=number)

        self.assertEqual(*(likeness_of(changed("net-float", write_as(number))) for number in (1, 1.0)))

    def test_a_dial_or_a_wire_does(self):
        first = likeness_of(read(Material, demo("abalone-film")))
        self.assertNotEqual(likeness_of(changed("abalone-film", lambda given: given["wires"].pop())), first)
        dials = {"specular_roughness": 0.31}
        turned = changed("abalone-film", lambda given: given["section"]["bands"][-1]["dials"].update(dials))
        self.assertNotEqual(likeness_of(turned), first)
