"""What can be done with kept modules. Every function takes the owner; nobody reaches what is not theirs."""

from uuid import UUID

from django.db import transaction
from django.shortcuts import get_object_or_404
from materials.services import Outdated, check
from nineglass.documents.model import ModuleFile

from library.models import KeptModule


def keep_module(owner, document: ModuleFile) -> KeptModule:
    check(document)
    about = {"name": document.modules[0].name, "document": document.model_dump(mode="json")}
    return KeptModule.objects.create(owner=owner, **about)


def change_module(owner, module_id: UUID, based_on: int, document: ModuleFile) -> KeptModule:
    """A new revision of a kept module; raises Outdated when it was changed since `based_on`."""
    check(document)
    with transaction.atomic():
        kept = get_object_or_404(KeptModule.objects.select_for_update(), owner=owner, id=module_id)
        if kept.revision != based_on:
            raise Outdated(kept)
        kept.revision += 1
        kept.name, kept.document = document.modules[0].name, document.model_dump(mode="json")
        kept.save()
    return kept


def remove_module(owner, module_id: UUID) -> None:
    get_object_or_404(KeptModule, owner=owner, id=module_id).delete()
