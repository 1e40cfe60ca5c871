import json
from uuid import uuid4

from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import Client, TestCase
from nineglass.documents import model as documents

from materials import services
from materials.models import Immutable, Material, Proof, Revision

FLOAT = json.loads((settings.DEMO_DIR / "net-float.json").read_text())
LAMP_ROOM = json.loads((settings.DEMO_DIR / "lamp-room.json").read_text())


class TwoPeople(TestCase):
    def setUp(self):
        people = get_user_model().objects
        self.keeper, self.stranger = people.create_user("keeper"), people.create_user("stranger")
        self.client.force_login(self.keeper)
        self.other = Client()
        self.other.force_login(self.stranger)
        self.material = services.create(self.keeper, documents.read(documents.Material, FLOAT))
        self.path = f"/api/materials/{self.material.id}"

    def put(self, document, based_on, client=None):
        body = json.dumps({"based_on": based_on, "document": document})
        return (client or self.client).put(self.path, body, "application/json")

    def deeper(self, depth):
        document = json.loads(json.dumps(FLOAT))
        document["section"]["bands"][1]["dials"]["transmission_depth"] = depth
        return document


class Saving(TwoPeople):
    def test_each_save_is_a_revision(self):
        answer = self.put(self.deeper(3), 1)
        self.assertEqual((answer.status_code, answer.json()["revision"]), (200, 2))
        kept = self.client.get(f"{self.path}/revisions").json()
        self.assertEqual([one["number"] for one in kept], [2, 1])
        self.assertEqual(kept[1]["document"]["section"]["bands"][1]["dials"]["transmission_depth"], 2.4)

    def test_a_long_history_comes_in_parts(self):
        document = self.material.document
        self.material.revisions.bulk_create(
            Revision(material=self.material, number=number, document=document) for number in range(2, 32)
        )
        first = self.client.get(f"{self.path}/revisions").json()
        self.assertEqual([one["number"] for one in first], list(range(31, 11, -1)))
        second = self.client.get(f"{self.path}/revisions?before={first[-1]['number']}").json()
        self.assertEqual([one["number"] for one in second], list(range(11, 0, -1)))

    def test_on_an_outdated_revision_is_refused_and_loses_nothing(self):
        self.assertEqual(self.put(self.deeper(3), 1).status_code, 200)
        refused = self.put(self.deeper(5), 1)
        self.assertEqual(refused.status_code, 409)
        newest = refused.json()["newest"]
        self.assertEqual(newest["revision"], 2)
        self.assertEqual(newest["document"]["section"]["bands"][1]["dials"]["transmission_depth"], 3)
        self.assertIn("revision 2 is newer", refused.json()["says"])
        self.assertEqual(Revision.objects.count(), 2)
        self.assertEqual(self.put(self.deeper(5), 2).json()["revision"], 3)

    def test_nothing_new_is_no_revision(self):
        current = self.client.get(self.path).json()["document"]
        self.assertEqual(self.put(current, 1).json()["revision"], 1)

    def test_faults_name_the_field_and_the_remedy(self):
        answer = self.put(self.deeper(-1), 1)
        self.assertEqual(answer.status_code, 422)
        fault = answer.json()["faults"][0]
        self.assertEqual(fault["path"], "section.bands[1].dials.transmission_depth")
        self.assertTrue(fault["allowed"] and fault["remedy"])
        missing = self.put({"name": "x"}, 1)
        self.assertEqual(missing.json()["faults"][0]["path"], "document.section")
        self.material.refresh_from_db()
        self.assertEqual(self.material.revision, 1)

    def test_needs_the_token_against_forged_requests(self):
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.keeper)
        self.assertEqual(self.put(self.deeper(3), 1, strict).status_code, 403)

    def test_a_new_material(self):
        answer = self.client.post("/api/materials", json.dumps({"document": FLOAT}), "application/json")
        self.assertEqual((answer.status_code, answer.json()["revision"]), (201, 1))


class Ownership(TwoPeople):
    def test_others_find_nothing(self):
        self.assertEqual(self.other.get("/api/materials").json(), [])
        for path in (self.path, f"{self.path}/revisions", f"{self.path}/proofs"):
            self.assertEqual(self.other.get(path).status_code, 404)
        self.assertEqual(self.put(self.deeper(9), 1, self.other).status_code, 404)
        self.assertEqual(Material.objects.get().revision, 1)

    def test_nor_proofs(self):
        proof = self.proof()
        self.assertEqual(self.other.get(f"/proofs/{proof.id}/picture.png").status_code, 404)
        self.assertEqual(self.client.get(f"/proofs/{uuid4()}/picture.png").status_code, 404)

    def proof(self):
        document, stage = documents.read(documents.Material, FLOAT), documents.read(documents.Stage, LAMP_ROOM)
        return services.keep_proof(self.keeper, self.material.id, document, stage, b"\x89PNG picture", 12, 0.1)


class Proofs(Ownership):
    def test_are_kept_with_their_picture(self):
        proof = self.proof()
        told = self.client.get(f"{self.path}/proofs").json()
        self.assertEqual([(one["number"], one["samples"]) for one in told], [(1, 12)])
        self.assertEqual(told[0]["stage"]["name"], "Lamp room")
        picture = self.client.get(told[0]["picture"])
        self.assertEqual((picture.status_code, picture.content), (200, b"\x89PNG picture"))
        self.assertEqual(self.proof().number, 2)
        self.assertEqual(Proof.objects.get(number=2).picture.name, proof.picture.name)

    def test_never_change(self):
        proof = self.proof()
        proof.samples = 99
        with self.assertRaises(Immutable):
            proof.save()
