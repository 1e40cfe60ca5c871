from unittest import TestCase

from config.api import api


class SchemaTest(TestCase):
    def test_the_messages_of_the_socket_are_in_the_schema(self):
        schemas = api.get_openapi_schema()["components"]["schemas"]
        for name in (
            "Frame",
            "Reading",
            "Picked",
            "Followed",
            "Held",
            "Bracketed",
            "Tried",
            "Preparing",
            "ProofKept",
            "TrialKept",
            "Show",
        ):
            self.assertIn("type", schemas[name]["properties"])
