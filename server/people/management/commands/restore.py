from pathlib import Path

from django.core.management.base import BaseCommand

from people.backups import restore


class Command(BaseCommand):
    help = "Put everything back as a backup has it, in place of what is there."

    def add_arguments(self, parser):
        parser.add_argument("folder", type=Path)

    def handle(self, *args, **options):
        told = restore(options["folder"])
        self.stdout.write(f"Everything is as it was at {told['made_at']}.")
        if told["settings"]:
            self.stdout.write(f"These settings were set then: {', '.join(told['settings'])}.")
