import json

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files import File
from django.core.management.base import BaseCommand
from library.models import KeptFile, KeptModule
from library.services import keep_module, put_in
from materials import services
from materials.models import Material
from nineglass.documents import model as documents
from stages.models import Stage, Standing

from people.services import share

PERSON = "keeper"
"""Who runs this installation, and has the demo."""

COLLEAGUE = "mate"
"""With whom some of it is shared."""

SHARED = {Material: ("Net float", "change"), Stage: ("Window bench", "look")}


def following_the_library(person, material: documents.Material) -> documents.Material:
    """The material with its modules known as copies of those of the same names in the library."""
    for module in material.modules:
        kept = KeptModule.objects.filter(owner=person, name=module.name).first()
        module.kept = kept and documents.Kept(id=str(kept.id), revision=kept.revision)
    return material


def somebody(name: str, **about):
    """A person of this installation who signs in by a link."""
    person, made = get_user_model().objects.get_or_create(username=name, defaults=about)
    if made:
        person.set_unusable_password()
        person.save()
    return person


class Command(BaseCommand):
    help = "Make the demo person and fill in what is missing of the Skerry Light demo."

    def handle(self, *args, **options):
        person = somebody(PERSON, is_staff=True, is_superuser=True)
        files = [json.loads(path.read_text()) for path in sorted(settings.DEMO_DIR.glob("*.json"))]
        for given in (one for one in files if one["format"] == "nineglass.module"):
            module = documents.read(documents.ModuleFile, given)
            if not KeptModule.objects.filter(owner=person, name=module.modules[0].name).exists():
                keep_module(person, module)
        for given in files:
            if given["format"] == "nineglass.material":
                if not Material.objects.filter(owner=person, name=given["name"]).exists():
                    services.create(person, following_the_library(person, documents.read(documents.Material, given)))
            elif (
                given["format"] == "nineglass.stage"
                and not Stage.objects.filter(owner=person, name=given["name"]).exists()
            ):
                stage = documents.read(documents.Stage, given)
                Stage.objects.create(owner=person, name=stage.name, document=stage.model_dump(mode="json"))
        for path in sorted(settings.DEMO_DIR.glob("*.ies")):
            if not KeptFile.objects.filter(owner=person, name=path.name).exists():
                with path.open("rb") as given:
                    put_in(person, "photometry", File(given, path.name))
        stand_on = next(one["stands"] for one in files if one["format"] == "nineglass.standing")
        for material in Material.objects.filter(owner=person, name__in=stand_on):
            stage = Stage.objects.filter(owner=person, name=stand_on[material.name]).first()
            if stage:
                Standing.objects.get_or_create(person=person, material=material, defaults={"stage": stage})
        if not get_user_model().objects.filter(username=COLLEAGUE).exists():
            somebody(COLLEAGUE)
            for model, (name, may) in SHARED.items():
                one = model.objects.get(owner=person, name=name)
                share(person, model.__name__.lower(), one.id, COLLEAGUE, may)
        self.stdout.write(f"demo: {PERSON} has {Material.objects.filter(owner=person).count()} materials")
