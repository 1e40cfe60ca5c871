from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET
from library.kept_pictures import answer_of

from stages.models import Stage


@require_GET
def stage_picture(request, stage_id):
    """The picture of a stage with what stood on it last."""
    return answer_of(get_object_or_404(Stage.objects.only("picture"), owner=request.user, id=stage_id).picture)
