from django.views.decorators.http import require_GET
from library.access import held
from library.kept_pictures import answer_of

from stages.models import Stage


@require_GET
def stage_picture(request, stage_id):
    """The picture of a stage with what stood on it last."""
    return answer_of(held(Stage, request.user, stage_id).picture)
