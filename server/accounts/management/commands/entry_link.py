from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand, CommandError

from accounts.models import Entry


class Command(BaseCommand):
    help = "Print a link that signs a person in, once."

    def add_arguments(self, parser):
        parser.add_argument("base", help="address of the server")
        parser.add_argument("--person", default="keeper")

    def handle(self, *args, base, person, **options):
        owner = get_user_model().objects.filter(username=person).first()
        if owner is None:
            raise CommandError(f"There is nobody called {person!r}; run the command demo first.")
        self.stdout.write(f"{base.rstrip('/')}/enter/{Entry.issue(owner)}/")
