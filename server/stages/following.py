"""What an object wears follows the material that it was taken from, as long as that is there and who asks may look at it."""

from uuid import UUID

from library.access import reached
from materials.models import Material


def _is_id(text: str) -> bool:
    try:
        return str(UUID(text)) == text
    except ValueError:
        return False


def _wears(document: dict):
    """All that the objects of a stage wear and that follows something."""
    for one in document.get("objects", ()):
        for wear in one.get("wears", {}).values():
            if wear.get("follows") and _is_id(wear["follows"]):
                yield wear


def brought_up(stages: list, person) -> list:
    """Stages with the newest of what their objects follow, as far as a person may look at it; nothing is saved by that."""
    followed = {wear["follows"] for stage in stages for wear in _wears(stage.document)}
    if followed:
        there = reached(Material, person).filter(deleted_at=None, id__in=followed)
        newest = {str(one): document for one, document in there.values_list("id", "document")}
        for stage in stages:
            for wear in _wears(stage.document):
                wear["material"] = newest.get(wear["follows"], wear["material"])
    return stages
