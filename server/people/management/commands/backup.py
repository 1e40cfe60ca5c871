from pathlib import Path

from django.core.management.base import BaseCommand

from people.backups import backup


class Command(BaseCommand):
    help = "Write everything that people keep into a new folder, while they work."

    def add_arguments(self, parser):
        parser.add_argument("folder", type=Path)

    def handle(self, *args, **options):
        told = backup(options["folder"])
        self.stdout.write(
            f"{sum(told['rows'].values())} rows and {told['files']} files are kept in {options['folder']}."
        )
        for name in told["missing"]:
            self.stdout.write(f"not there before: {name}")
