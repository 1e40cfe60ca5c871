"""Everything is backed up and put back."""

import json
import shutil
import tempfile
from pathlib import Path

from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TransactionTestCase, override_settings
from library.models import KeptFile
from materials.models import Material
from nineglass.documents import model as documents

from people.backups import DUMP, FORMAT, TOLD, VERSION, backup, restore


class Backups(TransactionTestCase):
    def setUp(self):
        self.folder = Path(tempfile.mkdtemp(prefix="nineglass-backup-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        elsewhere = override_settings(MEDIA_ROOT=self.folder / "files")
        elsewhere.enable()
        self.addCleanup(elsewhere.disable)
        # What is put back takes all tables along: the next test begins with those of the migrations.
        self.addCleanup(call_command, "flush", verbosity=0, interactive=False)
        owner = get_user_model().objects.create_user("keeper", password="salt-and-lamp-oil")
        self.material = Material.objects.create(owner=owner, name="Net float", document={"name": "Net float"})
        self.picture = default_storage.save("proofs/one.png", ContentFile(b"a picture"))

    def test_what_was_there_is_there_again_and_nothing_else(self):
        told = backup(self.folder / "kept")
        self.assertEqual(told["rows"]["materials_material"], 1)
        Material.objects.create(owner=self.material.owner, name="Made later", document={})
        get_user_model().objects.filter(username="keeper").update(username="somebody")
        default_storage.delete(self.picture)
        restore(self.folder / "kept")
        self.assertEqual(list(Material.objects.values_list("name", flat=True)), ["Net float"])
        self.assertTrue(self.client.login(username="keeper", password="salt-and-lamp-oil"))
        self.assertEqual(default_storage.open(self.picture).read(), b"a picture")
        self.assertEqual(Material.objects.create(owner=self.material.owner, name="Next", document={}).name, "Next")

    def test_one_of_an_older_version_is_brought_up(self):
        """The demo as it was on 2026-11-25, before people shared, before finals and finishes."""
        kept = self.folder / "old"
        kept.mkdir()
        shutil.copy(Path(__file__).parent / "data" / "demo-of-2026-11-25.dump", kept / DUMP)
        told = {"format": FORMAT, "version": VERSION, "rows": {"materials_material": 18}}
        (kept / TOLD).write_text(json.dumps(told))
        restore(kept)
        self.client.force_login(get_user_model().objects.get(username="keeper"))
        lines = self.client.get("/api/materials").json()
        self.assertEqual(len(lines), 18)
        for line in lines:
            material = self.client.get(f"/api/materials/{line['id']}").json()
            self.assertEqual(documents.faults_of(documents.read(documents.Material, material["document"])), [])
        stages = self.client.get("/api/stages").json()
        self.assertIn("Lamp room", [stage["name"] for stage in stages])
        self.assertEqual(self.client.get("/api/pictures").json(), [])

    def test_it_is_told_which_files_were_missing_before(self):
        KeptFile.objects.create(
            owner=self.material.owner, sha256="ab" * 32, kind="mesh", name="vase", bytes=1, facts={}
        )
        told = backup(self.folder / "kept")
        self.assertEqual(told["missing"], [f"put-in/ab/{'ab' * 32}"])

    def test_a_folder_with_something_in_it_is_left_alone(self):
        (self.folder / "mine.txt").write_text("mine")
        with self.assertRaisesMessage(CommandError, "not empty"):
            backup(self.folder)
        self.assertEqual((self.folder / "mine.txt").read_text(), "mine")

    def test_what_is_no_backup_or_was_changed_is_refused_and_nothing_is_lost(self):
        with self.assertRaisesMessage(CommandError, "no backup"):
            restore(self.folder)
        kept = self.folder / "kept"
        backup(kept)
        changed = kept / "files" / "put-in" / "ab"
        changed.mkdir(parents=True)
        (changed / ("ab" * 32)).write_bytes(b"something else")
        with self.assertRaisesMessage(CommandError, "not what it was"):
            restore(kept)
        shutil.rmtree(changed)
        (kept / TOLD).write_text(json.dumps({"format": "something else"}))
        with self.assertRaisesMessage(CommandError, "no backup"):
            restore(kept)
        self.assertTrue(Material.objects.filter(name="Net float").exists())

    def test_it_is_not_put_back_while_people_work(self):
        backup(self.folder / "kept")
        other = connection.copy()
        other.ensure_connection()
        self.addCleanup(other.close)
        with self.assertRaisesMessage(CommandError, "stop the server"):
            restore(self.folder / "kept")
        self.assertTrue(Material.objects.exists())
