"""Sharing, comments, presence, merged saves, and who may sign up."""

import copy
import json
from datetime import timedelta
from unittest import mock

from accounts.models import Invitation
from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import Client, TestCase
from django.utils import timezone
from library import services as library
from library.models import KeptFile, Quota
from live.consumers import KEPT
from materials import services as materials
from materials.models import Revision
from nineglass.describe import Refused
from nineglass.documents import model as documents
from stages.models import Stage, Standing

from people import services
from people.models import Comment, Presence

PIXEL = bytes.fromhex(
    "89504e470d0a1a0a0000000d49484452000000010000000108060000001f15c4890000000d49444154789c6360606060000000050001a5f645400000000049454e44ae426082"
)


def demo(name: str) -> dict:
    return json.loads((settings.DEMO_DIR / f"{name}.json").read_text())


class Together(TestCase):
    """A keeper, a mate with whom something may be shared, and a stranger."""

    def setUp(self):
        names = ("keeper", "mate", "stranger")
        self.people = {name: get_user_model().objects.create_user(name) for name in names}
        self.clients = {name: Client() for name in names}
        for name, client in self.clients.items():
            client.force_login(self.people[name])
        self.keeper = self.people["keeper"]
        self.material = materials.create(self.keeper, documents.read(documents.Material, demo("net-float")))
        self.stage = Stage.objects.create(owner=self.keeper, name="Lamp room", document=demo("lamp-room"))
        proof = (
            documents.read(documents.Material, demo("net-float")),
            documents.read(documents.Stage, demo("lamp-room")),
        )
        self.proof = materials.keep_proof(self.keeper, self.material.id, *proof, PIXEL, 4, 0.1)
        self.path = f"/api/materials/{self.material.id}"

    def ask(self, name, method, path, body=None):
        return getattr(self.clients[name], method)(path, json.dumps(body), "application/json")

    def get(self, name, path):
        return self.clients[name].get(path)

    def share(self, may, name="mate", kind="material", of=None):
        of = of or getattr(self, kind).id
        answer = self.ask("keeper", "put", f"/api/people/shares/{kind}/{of}", {"person": name, "may": may})
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def changed(self, part, **dials):
        document = copy.deepcopy(demo("net-float"))
        both = [*document["section"]["bands"], *document["slips"]]
        next(one for one in both if one["id"] == part)["dials"] |= dials
        return document

    def save(self, name, document, based_on):
        return self.ask(name, "put", self.path, {"based_on": based_on, "document": document})


class Sharing(Together):
    def test_nobody_reaches_what_was_not_shared(self):
        self.assertEqual(self.get("mate", self.path).status_code, 404)
        self.assertEqual(self.get("mate", "/api/materials").json(), [])

    def test_it_is_on_the_shelf_of_whoever_has_it_with_whose_it_is_and_what_they_may(self):
        self.share("look")
        [line] = self.get("mate", "/api/materials").json()
        self.assertEqual((line["name"], line["owner"], line["may"]), ("Net float", "keeper", "look"))
        self.assertEqual(self.get("keeper", "/api/materials").json()[0]["may"], "own")
        self.assertEqual(self.get("mate", f"/proofs/{self.proof.id}/picture.png").status_code, 200)
        self.assertEqual(self.get("stranger", f"/proofs/{self.proof.id}/picture.png").status_code, 404)

    def test_to_look_is_not_to_change_and_it_says_whom_to_ask(self):
        self.share("look")
        refused = self.save("mate", self.changed("interior", transmission_depth=3), 1)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("keeper", refused.json()["faults"][0]["fault"])
        self.share("change")
        self.assertEqual(self.save("mate", self.changed("interior", transmission_depth=3), 1).status_code, 200)
        for method, path in (("delete", self.path), ("put", f"{self.path}/tags")):
            self.assertEqual(self.ask("mate", method, path, {"tags": []}).status_code, 422, path)

    def test_only_the_owner_shares_and_everybody_who_has_it_sees_who(self):
        made = self.share("change")
        path = f"/api/people/shares/material/{self.material.id}"
        self.assertEqual(self.ask("mate", "put", path, {"person": "stranger", "may": "look"}).status_code, 422)
        self.assertEqual([one["person"] for one in self.get("mate", path).json()], ["mate"])
        self.assertEqual(self.get("stranger", path).status_code, 404)
        self.assertEqual([one["called"] for one in self.get("keeper", "/api/people/shares").json()], ["Net float"])
        self.assertEqual(self.ask("stranger", "delete", f"/api/people/shares/{made['id']}").status_code, 404)

    def test_nobody_of_that_name(self):
        path = f"/api/people/shares/material/{self.material.id}"
        for name in ("nobody", "keeper"):
            faults = self.ask("keeper", "put", path, {"person": name, "may": "look"}).json()["faults"]
            self.assertEqual(faults[0]["path"], "name")

    def test_whoever_leaves_takes_nothing_away(self):
        made = self.share("change")
        self.save("mate", self.changed("interior", transmission_depth=3), 1)
        self.ask("mate", "post", f"/api/proofs/{self.proof.id}/comments", {"says": "too pale"})
        self.assertEqual(self.ask("mate", "delete", f"/api/people/shares/{made['id']}").status_code, 204)
        self.assertEqual(self.get("mate", self.path).status_code, 404)
        self.assertEqual(self.get("keeper", self.path).json()["revision"], 2)
        self.people["mate"].delete()
        [said] = self.get("keeper", f"{self.path}/comments").json()
        self.assertEqual((said["says"], said["author"]), ("too pale", "somebody who left"))

    def test_a_stage_stands_where_each_has_it(self):
        self.share("look", kind="stage")
        self.share("look")
        self.assertEqual([one["owner"] for one in self.get("mate", "/api/stages").json()], ["keeper"])
        path = f"/api/stages/{self.stage.id}"
        self.assertEqual(self.ask("mate", "put", f"{path}/standing/{self.material.id}").status_code, 204)
        self.assertFalse(Standing.objects.filter(person=self.keeper).exists())
        self.assertEqual(self.ask("mate", "put", path, {"based_on": 1, "document": demo("lamp-room")}).status_code, 422)
        self.assertEqual(self.ask("mate", "delete", path).status_code, 422)
        self.share("change", kind="stage")
        self.assertEqual(self.ask("mate", "put", path, {"based_on": 1, "document": demo("lamp-room")}).status_code, 200)

    def test_files_go_with_what_is_shared_and_take_no_room(self):
        stage = documents.read(documents.Stage, demo("lamp-room"))
        named = [("surround.light.dials.picture", "a" * 64, "picture")]
        about = {"sha256": "a" * 64, "kind": "picture", "name": "sky.exr", "bytes": 5_000_000, "facts": {}}
        KeptFile.objects.create(owner=self.keeper, **about)
        with mock.patch("library.services.files_in", lambda document: named if document == stage else []):
            self.share("look", kind="stage")
        lent = KeptFile.objects.get(owner=self.people["mate"])
        self.assertEqual((lent.sha256, lent.is_lent), ("a" * 64, True))
        self.assertEqual(library.room_for(self.people["mate"].id), settings.MOST_FILE_MB * 1_000_000)


class Merging(Together):
    """Saves by two on one revision: bands and slips of the demo's net float."""

    def setUp(self):
        super().setUp()
        self.share("change")

    def test_different_bands_are_merged(self):
        self.assertEqual(self.save("keeper", self.changed("interior", transmission_depth=3), 1).status_code, 200)
        merged = self.save("mate", self.changed("interface", specular_roughness=0.2), 1)
        self.assertEqual((merged.status_code, merged.json()["revision"], merged.json()["is_merged"]), (200, 3, True))
        bands = {one["id"]: one["dials"] for one in merged.json()["document"]["section"]["bands"]}
        self.assertEqual((bands["interior"]["transmission_depth"], bands["interface"]["specular_roughness"]), (3, 0.2))
        self.assertEqual(Revision.objects.filter(material=self.material).count(), 3)

    def test_the_same_band_is_a_conflict_that_names_it_and_loses_nothing(self):
        self.save("keeper", self.changed("interior", transmission_depth=3), 1)
        refused = self.save("mate", self.changed("interior", transmission_depth=5), 1)
        self.assertEqual((refused.status_code, refused.json()["both"]), (409, ["section.bands.interior"]))
        self.assertEqual(materials.get(self.keeper, self.material.id).revision, 2)

    def test_what_would_not_stand_together_is_not_merged(self):
        """One side drives a band that the other takes out."""
        first = demo("net-float")
        first["section"]["bands"] = [one for one in first["section"]["bands"] if one["id"] != "interior"]
        self.assertEqual(self.save("keeper", first, 1).status_code, 200)
        other = demo("net-float")
        other["slips"].append({"id": "value", "kind": "number", "dials": {}})
        target = {"part": "interior", "dial": "transmission_depth"}
        other["wires"].append({"source": {"slip": "value"}, "target": target})
        self.assertEqual(self.save("mate", other, 1).status_code, 409)


class Commenting(Together):
    def say(self, name, **body):
        return self.ask(name, "post", f"/api/proofs/{self.proof.id}/comments", body)

    def test_at_a_place_of_the_picture(self):
        self.share("comment")
        self.assertEqual(self.say("mate", says=" thinner at the rim ", at=[0.25, 0.5]).status_code, 201)
        [said] = self.get("keeper", f"{self.path}/comments").json()
        self.assertEqual((said["says"], said["at"], said["number"]), ("thinner at the rim", [0.25, 0.5], 1))
        self.assertEqual((said["author"], said["is_mine"]), ("mate", False))

    def test_faults(self):
        self.assertEqual(self.say("stranger", says="x").status_code, 404)
        self.share("look")
        self.assertEqual(self.say("mate", says="x").status_code, 422)
        self.assertEqual(self.say("keeper", says="  ").json()["faults"][0]["path"], "says")
        self.assertEqual(self.say("keeper", says="x" * 2001).status_code, 422)
        self.assertEqual(self.say("keeper", says="x", at=[2, 0]).status_code, 422)

    def test_it_is_taken_back_by_whoever_said_it_or_by_the_owner(self):
        self.share("comment", "mate")
        self.share("comment", "stranger")
        said = [self.say("mate", says=words).json()["id"] for words in ("one", "two")]
        self.assertEqual(self.ask("stranger", "delete", f"/api/comments/{said[0]}").status_code, 404)
        self.assertEqual(self.ask("mate", "delete", f"/api/comments/{said[0]}").status_code, 204)
        self.assertEqual(self.ask("keeper", "delete", f"/api/comments/{said[1]}").status_code, 204)


class BeingHere(Together):
    def test_each_sees_the_other_until_they_leave(self):
        self.share("look")
        mate = self.people["mate"]
        self.assertEqual(services.be_here(self.keeper, self.material.id)[:2], ([], 1))
        self.assertEqual(services.be_here(mate, self.material.id)[:2], (["keeper"], 1))
        services.leave(self.keeper, self.material.id)
        self.assertEqual(services.be_here(mate, self.material.id)[:2], ([], 1))

    def test_the_socket_is_told_when_something_is_said_or_taken_back(self):
        told = [services.be_here(self.keeper, self.material.id)[2]]
        for change in (
            lambda: services.comment(self.keeper, self.proof.id, "so", None),
            lambda: Comment.objects.all().delete(),
        ):
            change()
            told.append(services.be_here(self.keeper, self.material.id)[2])
            self.assertNotEqual(*told[-2:])
            self.assertEqual(services.be_here(self.keeper, self.material.id)[2], told[-1])

    def test_whoever_is_not_seen_for_a_while_has_left(self):
        self.share("look")
        services.be_here(self.keeper, self.material.id)
        Presence.objects.update(seen_at=timezone.now() - timedelta(minutes=1))
        self.assertEqual(services.be_here(self.people["mate"], self.material.id)[:2], ([], 1))


class Joining(TestCase):
    NEW = {"username": "mate", "password1": "salt-and-lamp-oil", "password2": "salt-and-lamp-oil"}

    def setUp(self):
        self.keeper = get_user_model().objects.create_superuser("keeper")
        self.link = f"/join/{Invitation(note='the mate').issue(self.keeper)}/"

    def test_one_person_signs_up_and_has_something_to_begin_with(self):
        self.assertContains(self.client.get(self.link), "Choose a name")
        self.assertRedirects(self.client.post(self.link, self.NEW), "/", fetch_redirect_response=False)
        self.assertEqual(self.client.get("/api/me").json()["name"], "mate")
        self.assertEqual(len(self.client.get("/api/materials").json()), 1)
        self.assertEqual(len(self.client.get("/api/stages").json()), 1)
        again = Client().post(self.link, self.NEW | {"username": "other"})
        self.assertEqual(again.status_code, 410)
        self.assertFalse(get_user_model().objects.filter(username="other").exists())

    def test_a_weak_password_does_not_spend_it(self):
        weak = {"password1": "short", "password2": "short"}
        self.assertContains(self.client.post(self.link, self.NEW | weak), "at least 12")
        self.assertEqual(self.client.post(self.link, self.NEW).status_code, 302)

    def test_it_grows_old(self):
        Invitation.objects.update(expires=timezone.now())
        self.assertEqual(self.client.get(self.link).status_code, 410)

    def test_guessing_is_slowed(self):
        answers = [self.client.get(f"/join/{'x' * 40}{n}/").status_code for n in range(12)]
        self.assertEqual((answers[0], answers[-1]), (410, 429))


class Administrators(TestCase):
    def setUp(self):
        self.keeper = get_user_model().objects.create_superuser("keeper")
        self.mate = get_user_model().objects.create_user("mate")
        self.client.force_login(self.keeper)

    def test_an_invitation_is_made_and_its_link_is_shown_once(self):
        made = self.client.post("/admin/accounts/invitation/add/", {"note": "the mate"}, follow=True)
        link = made.content.decode().partition("/join/")[2].partition("/<")[0]
        self.assertEqual(Client().get(f"/join/{link}/").status_code, 200)
        self.assertNotIn("/join/", self.client.get("/admin/accounts/invitation/").content.decode())

    def test_a_quota_of_ones_own(self):
        Quota.objects.create(owner=self.mate, documents=1, file_mb=2)
        document = documents.read(documents.Material, demo("net-float"))
        materials.create(self.mate, document)
        with self.assertRaises(Refused):
            materials.create(self.mate, document)
        self.assertEqual(library.room_for(self.mate.id), 2_000_000)
        page = self.client.get("/admin/auth/user/")
        self.assertContains(page, "1 documents of each kind, 2 MB of files")

    def test_nobody_is_deleted(self):
        self.assertEqual(self.client.get(f"/admin/auth/user/{self.mate.id}/delete/").status_code, 403)

    def test_it_is_for_administrators(self):
        other = Client()
        self.assertNotEqual(other.get("/admin/").status_code, 200)
        other.force_login(self.mate)
        self.assertFalse(other.get("/api/me").json()["is_administrator"])
        self.assertTrue(self.client.get("/api/me").json()["is_administrator"])
        self.assertNotEqual(other.get("/admin/").status_code, 200)

    def test_its_styles_come_from_here(self):
        self.assertEqual(self.client.get("/static/admin/css/base.css").status_code, 200)


class KeptByTheSocket(Together):
    def test_a_trial_and_a_proof_are_told_to_whoever_asked_for_them(self):
        """As the live picture's socket tells them, by somebody who may comment."""
        self.share("comment")
        glass, room = demo("net-float"), demo("lamp-room")
        axis = {"kind": "dial", "part": "interior", "dial": "transmission_depth", "values": [1, 2]}
        trial = {
            "format": "nineglass.trial",
            "version": 1,
            "name": "depths",
            "material": glass,
            "stage": room,
            "across": axis,
        }
        asked = {"request": "a", "document": trial, "means": [[0, 0, 0]] * 2, "noise": [0, 0], "type": "trial_made"}
        told = KEPT["trial_made"](self.people["mate"], self.material.id, asked, PIXEL).model_dump(mode="json")
        self.assertEqual((told["trial"]["name"], told["trial"]["owner"]), ("depths", "keeper"))
        asked = {"request": "b", "material": glass, "stage": room, "samples": 1, "noise": None, "type": "proof"}
        told = KEPT["proof"](self.people["mate"], self.material.id, asked, PIXEL).model_dump(mode="json")
        self.assertEqual(told["proof"]["number"], 2)
