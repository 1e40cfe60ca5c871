from django.views.decorators.http import require_GET
from materials.views import portrait_answer

from stages.models import Stage


@require_GET
def stage_picture(request, stage_id):
    """The picture of a stage with what stood on it last."""
    return portrait_answer(Stage, owner=request.user, id=stage_id)
