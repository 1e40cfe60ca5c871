from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET
from library.access import held
from library.kept_pictures import answer_of, answer_with

from materials.models import Material, Proof


@require_GET
def proof_picture(request, proof_id):
    """The picture of a proof; it never changes."""
    proof = get_object_or_404(Proof, id=proof_id)
    held(Material, request.user, proof.material_id)
    with proof.picture.open() as file:
        return answer_with(file.read())


@require_GET
def material_picture(request, material_id):
    """The picture of a material by itself."""
    return answer_of(held(Material, request.user, material_id).picture)
