"""Materials on their shelves: families, words, pictures."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.documents.families import FAMILIES, family_of, made_of
from nineglass.documents.model import Material, read
from nineglass.spectra.srgb import decode
from nineglass.spectra.words import words_for
from nineglass.trials.portraits import portrait_of, stage_for

from tests.scenes import DEMO, TRACER, demo


def material(name: str) -> Material:
    return read(Material, demo(name))


class Families(SimpleTestCase):
    def test_each_demo_material_is_of_its_family(self):
        for name, family in (
            ("net-float", "glass"),
            ("signal-lens-ruby", "glass"),
            ("ink", "liquid"),
            ("rosehip-syrup", "liquid"),
            ("open-sea", "liquid"),
            ("rock-crystal", "gem"),
            ("otter-pelt", "fibre"),
            ("whale-tooth", "subsurface"),
            ("milk-glass", "subsurface"),
            ("harbour-fog", "volume"),
            ("wick-flame", "flame"),
            ("shears", "film"),
            ("tea-caddy", "coat and flake"),
        ):
            self.assertEqual(family_of(material(name)), family, name)

    def test_every_family_has_a_demo_material(self):
        every = [path.stem for path in DEMO.glob("*.json") if demo(path.stem)["format"] == "nineglass.material"]
        self.assertEqual({family_of(material(name)) for name in every}, set(FAMILIES))

    def test_what_it_is_made_of(self):
        self.assertEqual(made_of(material("rock-crystal")), ["interface", "quartz", "interior"])
        self.assertIn("rosehip", made_of(material("cordial")))
        off = demo("tea-caddy")
        off["section"]["bands"][0]["on"] = False
        self.assertNotIn("coat", made_of(read(Material, off)))


class Words(SimpleTestCase):
    def test_colours_are_called_as_people_call_them(self):
        # Common names of sRGB colours, from memory: CSS Color Module 4 keywords.
        for hexadecimal, word in (
            ("ff0000", "red"),
            ("ffa500", "orange"),
            ("ffff00", "yellow"),
            ("008000", "green"),
            ("0000ff", "blue"),
            ("8b4513", "brown"),
            ("ffc0cb", "pink"),
            ("808080", "grey"),
            ("000000", "black"),
            ("ffffff", "white"),
            ("ee82ee", "violet"),
        ):
            color = decode(np.array([int(hexadecimal[k : k + 2], 16) / 255 for k in (0, 2, 4)]))
            self.assertIn(word, words_for(color), hexadecimal)
        self.assertEqual(words_for([0.01, 0.02, 0.01])[1], "dark")
        self.assertEqual(words_for([0.8, 0.8, 0.8])[1], "light")


class Pictures(SimpleTestCase):
    def test_a_portrait_shows_the_matter(self):
        green, red = (portrait_of(material(name), TRACER, 48, 8) for name in ("net-float", "signal-cover"))
        self.assertEqual(green.pixels.shape, (48, 48, 3))
        self.assertGreater(green.mean[1], green.mean[0])
        self.assertGreater(red.mean[0], 2 * red.mean[1])

    def test_each_family_has_a_stage_that_can_be_built(self):
        for name in ("net-float", "ink", "rock-crystal", "otter-pelt", "jade", "harbour-fog", "wick-flame", "shears"):
            self.assertEqual(stage_for(material(name)).name, "Shelf")
