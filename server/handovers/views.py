from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET
from library.kept_pictures import answer_with
from nineglass.documents.shown import VIEWS
from nineglass.exchange.cube import cube_in_child

from handovers import services


@require_GET
def handed_file(request, handed_id):
    handed = services.get(request.user, handed_id)
    return FileResponse(handed.file.open(), as_attachment=True, filename=handed.file_name)


@require_GET
def measured_picture(request, handed_id, number):
    """The original, what was read back and how far apart they are; it never changes."""
    one = get_object_or_404(services.get(request.user, handed_id).measured, number=number)
    with one.picture.open() as file:
        return answer_with(file.read())


@require_GET
def view_table(request, view):
    """A view of pictures as a table, for programs that grade."""
    if view not in VIEWS:
        raise Http404
    response = HttpResponse(cube_in_child(view), content_type="text/plain; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{view}.cube"'
    return response
