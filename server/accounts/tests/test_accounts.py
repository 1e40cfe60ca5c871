import json
from datetime import timedelta
from io import StringIO

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management import CommandError, call_command
from django.test import TestCase
from django.utils import timezone

from accounts.models import MOST_WRONG, Entry


class OneTimeLink(TestCase):
    def setUp(self):
        self.person = get_user_model().objects.create_user("keeper")

    def test_signs_in_once(self):
        token = Entry.issue(self.person)
        self.assertRedirects(self.client.get(f"/enter/{token}/"), "/", fetch_redirect_response=False)
        self.assertEqual(self.client.get("/api/me").json()["name"], "keeper")
        self.client.logout()
        self.assertEqual(self.client.get(f"/enter/{token}/").status_code, 410)
        self.assertEqual(self.client.get("/api/me").status_code, 401)

    def test_grows_old(self):
        token = Entry.issue(self.person)
        Entry.objects.update(expires=timezone.now() - timedelta(seconds=1))
        self.assertEqual(self.client.get(f"/enter/{token}/").status_code, 410)

    def test_only_its_digest_is_kept(self):
        token = Entry.issue(self.person)
        self.assertNotIn(token, Entry.objects.values_list("digest", flat=True))

    def test_of_somebody_who_may_not_sign_in(self):
        token = Entry.issue(self.person)
        get_user_model().objects.update(is_active=False)
        self.assertEqual(self.client.get(f"/enter/{token}/").status_code, 410)

    def test_the_command_prints_a_link(self):
        out = StringIO()
        call_command("entry_link", "http://127.0.0.1:1", stdout=out)
        self.assertRegex(out.getvalue(), r"^http://127\.0\.0\.1:1/enter/[\w-]{40,}/\n$")
        with self.assertRaises(CommandError):
            call_command("entry_link", "http://127.0.0.1:1", person="nobody")


class NotSignedIn(TestCase):
    def test_nothing_is_served_but_the_way_in(self):
        for path in (
            "/",
            "/bench/00000000-0000-0000-0000-000000000000/",
            "/proofs/00000000-0000-0000-0000-000000000000/picture.png",
        ):
            self.assertRedirects(self.client.get(path), f"/sign-in/?next={path}", fetch_redirect_response=False)
        for path in ("me", "catalogue", "materials", "stages", "openapi.json"):
            self.assertEqual(self.client.get(f"/api/{path}").status_code, 401, path)
        self.assertEqual(self.client.get("/sign-in/").status_code, 200)

    def test_nor_the_files_of_the_web_application(self):
        built = next((settings.WEB_DIST / "assets").glob("*.js"))
        self.assertNotEqual(self.client.get(f"/assets/{built.name}").status_code, 200)
        self.client.force_login(get_user_model().objects.create_user("keeper"))
        self.assertEqual(self.client.get(f"/assets/{built.name}").status_code, 200)
        self.assertContains(self.client.get("/"), "Nine Glass")

    def test_everything_comes_from_this_server(self):
        policy = self.client.get("/sign-in/")["Content-Security-Policy"]
        self.assertIn("default-src 'self'", policy)

    def test_password(self):
        get_user_model().objects.create_user("mate", password="salt-and-lamp-oil")
        wrong = self.client.post("/sign-in/", {"username": "mate", "password": "x"})
        self.assertContains(wrong, "do not go together")
        right = self.client.post("/sign-in/", {"username": "mate", "password": "salt-and-lamp-oil"})
        self.assertRedirects(right, "/", fetch_redirect_response=False)

    def test_there_is_one_way_in_and_one_limit(self):
        """Of administrators as well, and whatever a browser says of whom it speaks for."""
        get_user_model().objects.create_superuser("mate", password="salt-and-lamp-oil")
        self.assertRedirects(self.client.get("/admin/", follow=True), "/sign-in/?next=/admin/")
        for k in range(MOST_WRONG):
            said = {"username": "mate", "password": "x"}
            self.client.post("/admin/login/?next=/admin/", said, follow=True)
            self.client.post("/sign-in/", said, headers={"x-forwarded-for": f"10.0.0.{k}"})
        right = self.client.post("/sign-in/", {"username": "mate", "password": "salt-and-lamp-oil"})
        self.assertEqual(right.status_code, 429)
        self.assertNotIn("_auth_user_id", self.client.session)


class Preferences(TestCase):
    def setUp(self):
        self.client.force_login(get_user_model().objects.create_user("keeper"))

    def put(self, document):
        return self.client.put("/api/settings", json.dumps(document), "application/json")

    def test_are_kept(self):
        self.assertEqual(self.client.get("/api/me").json()["settings"]["theme"], "paper")
        self.assertEqual(self.put({"theme": "night", "most_samples": 64}).status_code, 200)
        self.assertEqual(self.client.get("/api/me").json()["settings"]["theme"], "night")

    def test_bad_ones_name_the_field(self):
        answer = self.put({"picture_side": 3})
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(answer.json()["faults"][0]["path"], "picture_side")

    def test_catalogue(self):
        kinds = self.client.get("/api/catalogue").json()["kinds"]
        facing = next(kind for kind in kinds if kind["name"] == "facing")
        self.assertEqual(facing["dials"][1]["ends"], ["rim", "centre"])

    def test_the_catalogue_says_how_kinds_are_drawn_and_what_documents_begin_as(self):
        given = self.client.get("/api/catalogue").json()
        rules = {kind["name"]: kind["rules"] for kind in given["kinds"] if kind["role"] in ("band", "lamp", "form")}
        self.assertEqual((rules["film"]["cut"]["style"], rules["film"]["most"]), ("skin", 4))
        self.assertEqual((rules["metal"]["excludes"], rules["split"]["splits"]), (["interface", "body"], True))
        self.assertEqual((rules["spot"]["sign"], rules["beaker"]["parts"]), ("beam", {"body": 20, "liquid": 10}))
        plain = given["plain"]
        self.assertEqual([band["kind"] for band in plain["material"]["section"]["bands"]], ["interface", "interior"])
        made = self.client.post("/api/materials", {"document": plain["material"]}, "application/json")
        self.assertEqual(made.status_code, 201)
        made = self.client.post("/api/stages", {"document": plain["stage"]}, "application/json")
        self.assertEqual(made.status_code, 201)
