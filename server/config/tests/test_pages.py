"""Addresses of places, and pages for what is not there."""

from django.contrib.auth import get_user_model
from django.core.exceptions import PermissionDenied
from django.test import RequestFactory, TestCase
from django.views.defaults import permission_denied, server_error

from config.urls import PLACES


class Pages(TestCase):
    def setUp(self):
        self.client.force_login(get_user_model().objects.create_user("keeper"))

    def test_addresses_of_places_work_without_a_material(self):
        for place in PLACES:
            self.assertContains(self.client.get(f"/{place}/"), "Nine Glass")

    def test_wrong_addresses_and_faults_have_pages_of_ours(self):
        self.assertContains(self.client.get("/nothing/"), "Back to the bench", status_code=404)
        request = RequestFactory().get("/")
        self.assertIn("Back to the bench", permission_denied(request, PermissionDenied()).content.decode())
        self.assertIn("Nothing that was saved is lost", server_error(request).content.decode())
