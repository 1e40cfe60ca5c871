"""Materials that are the same but for what they are called and where their slips lie: found by a word that both have."""

import hashlib
import json

from nineglass.documents.model import Material

ON_PAPER = {"mounts": True, "slips": {"__all__": {"title", "at"}}}
"""What of a network says nothing of the matter."""

CALLED = {
    "name": True,
    "section": {"bands": {"__all__": {"name"}}},
    "modules": {"__all__": {"name": True, "help": True, "kept": True, **ON_PAPER}},
    **ON_PAPER,
}


def likeness_of(material: Material) -> str:
    """A word that two materials have in common when they are of the same matter; 64 characters."""
    told = json.dumps(material.model_dump(mode="json", exclude=CALLED))
    # Browsers write 0.0 as 0.
    told = json.dumps(json.loads(told, parse_int=float), sort_keys=True)
    return hashlib.sha256(told.encode()).hexdigest()
