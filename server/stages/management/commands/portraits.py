import os

from django.core.management.base import BaseCommand
from materials import portraits

from stages.pictures import STAGES


class Command(BaseCommand):
    help = "Make the pictures of materials and stages that are missing or not current."

    def add_arguments(self, parser):
        parser.add_argument("--while-listened-to", action="store_true", help="end when the standard input is closed")

    def handle(self, *args, **options):
        os.nice(portraits.NICE)
        if options["while_listened_to"]:
            portraits.end_with_the_server()
        self.stdout.write(f"{portraits.make_all([portraits.MATERIALS, STAGES])} pictures made")
