from django.http import FileResponse, Http404
from django.utils.text import slugify
from django.views.decorators.http import require_GET
from library.kept_pictures import answer_with

from pictures import services

FILES = {"final.exr": "exr", "final.png": "png"}


@require_GET
def final_preview(request, final_id):
    """How far a picture is; its address changes with it."""
    picture = services.get(request.user, final_id)
    if not picture.preview.name:
        raise Http404
    with picture.preview.open() as file:
        return answer_with(file.read(), "image/jpeg")


@require_GET
def final_file(request, final_id, name):
    """A file of a picture that is done."""
    picture = services.get(request.user, final_id)
    file = getattr(picture, FILES[name]) if name in FILES else None
    if not file:
        raise Http404
    ending = FILES[name]
    return FileResponse(file.open(), as_attachment=True, filename=f"{slugify(picture.name) or 'final'}.{ending}")
