"""Two changes of one material put together (`documents.merge`). Expected results are worked by hand."""

import copy
import random
from unittest import TestCase

from nineglass.documents.merge import merged

BASE = {
    "name": "Glass",
    "section": {
        "kind": "stack",
        "bands": [{"id": "interface", "dials": {"ior": 1.5}}, {"id": "interior", "dials": {"depth": 2}}],
    },
    "slips": [{"id": "noise", "at": [0, 0]}, {"id": "ramp", "at": [9, 0]}],
    "wires": [{"source": {"slip": "noise", "port": "out"}, "target": {"part": "ramp", "dial": "at"}}],
}


def changed(change) -> dict:
    document = copy.deepcopy(BASE)
    change(document)
    return document


class Merging(TestCase):
    def test_each_keeps_what_the_other_did_not_touch(self):
        theirs = changed(lambda one: one["section"]["bands"][0]["dials"].update(ior=1.7))
        mine = changed(lambda one: (one["slips"][1].update(at=[5, 5]), one.update(name="Flint")))
        found = merged(BASE, theirs, mine)
        self.assertEqual(found.both, [])
        self.assertEqual(found.document["section"]["bands"][0]["dials"], {"ior": 1.7})
        self.assertEqual((found.document["slips"][1]["at"], found.document["name"]), ([5, 5], "Flint"))

    def test_the_same_change_is_no_conflict(self):
        both = changed(lambda one: one["section"]["bands"][0]["dials"].update(ior=1.7))
        self.assertEqual(merged(BASE, both, copy.deepcopy(both)).document, both)

    def test_one_part_changed_by_both_is_named(self):
        theirs = changed(lambda one: one["section"]["bands"][1]["dials"].update(depth=3))
        mine = changed(lambda one: one["section"]["bands"][1]["dials"].update(depth=4))
        found = merged(BASE, theirs, mine)
        self.assertEqual((found.document, found.both), (None, ["section.bands.interior"]))

    def test_what_one_takes_out_and_the_other_changes_is_a_conflict(self):
        theirs = changed(lambda one: one["slips"].pop(1))
        mine = changed(lambda one: one["slips"][1].update(at=[1, 1]))
        self.assertEqual(merged(BASE, theirs, mine).both, ["slips.ramp"])
        self.assertEqual([one["id"] for one in merged(BASE, theirs, BASE).document["slips"]], ["noise"])

    def test_what_both_add_stands_where_each_put_it(self):
        theirs = changed(lambda one: one["section"]["bands"].insert(0, {"id": "film"}))
        mine = changed(lambda one: one["section"]["bands"].insert(1, {"id": "coat"}))
        order = [one["id"] for one in merged(BASE, theirs, mine).document["section"]["bands"]]
        self.assertEqual(order, ["film", "interface", "coat", "interior"])

    def test_an_order_that_one_turned_is_kept(self):
        theirs = changed(lambda one: one["slips"].reverse())
        mine = changed(lambda one: one["slips"].append({"id": "value", "at": [1, 1]}))
        names = [one["id"] for one in merged(BASE, theirs, mine).document["slips"]]
        self.assertLess(names.index("ramp"), names.index("noise"))
        self.assertEqual(len(names), 3)

    def test_a_wire_is_known_by_where_it_ends(self):
        theirs = changed(lambda one: one["wires"][0]["source"].update(slip="ramp"))
        mine = changed(lambda one: one["wires"][0]["source"].update(port="height"))
        self.assertEqual(merged(BASE, theirs, mine).both, ["wires.ramp.at"])

    def test_it_makes_no_difference_who_saves_first(self):
        """Random changes of different parts: the same comes of either order, up to the order of what was added."""
        chance = random.Random(7)
        for _ in range(200):
            sides = [copy.deepcopy(BASE), copy.deepcopy(BASE)]
            for at, side in enumerate(sides):
                side["section"]["bands"][at]["dials"][f"dial_{at}"] = chance.random()
                if chance.random() < 0.5:
                    side["slips"].append({"id": f"new_{at}", "at": [chance.random(), 0]})
                if chance.random() < 0.3:
                    side["slips"] = [one for one in side["slips"] if one["id"] != ("noise", "ramp")[at]]
            one, other = merged(BASE, *sides).document, merged(BASE, *reversed(sides)).document
            self.assertEqual(one["section"], other["section"])
            self.assertCountEqual(one["slips"], other["slips"])
