"""Boundaries that are rugged more along than across."""

from nineglass.documents.bands import BANDS

ANISOTROPY = {
    kind: dial.name
    for kind, about in BANDS.kinds.items()
    for dial in about.dials.values()
    if dial.standard.endswith("roughness_anisotropy")
}
"""The dial of each kind of band that says how much more it is rugged along than across."""


def is_sanded(leaf) -> bool:
    """Whether a boundary of a stack is sanded, or may be by a wire."""
    named = ((slot, ANISOTROPY.get(leaf.kinds[slot])) for slot in leaf.order)
    return any(name and ((slot, name) in leaf.driven or leaf.settings[slot][name] > 0) for slot, name in named)
