from django.http import FileResponse, Http404, HttpResponseBadRequest
from django.utils.text import slugify
from django.views.decorators.http import require_GET
from library.kept_pictures import answer_of, answer_with

from pictures import services
from pictures.making import turned

FILES = {"final.exr": "exr", "final.png": "png"}


@require_GET
def final_preview(request, final_id):
    """How far a picture is; its address changes with it."""
    return answer_of(services.get(request.user, final_id).preview)


@require_GET
def final_turned(request, final_id):
    """The picture with its lights turned: ?window=0.5,0.5,0.4&stage:surround=2,2,2."""
    picture = services.get(request.user, final_id)
    if not picture.by_light.name:
        raise Http404
    try:
        gains = {one["id"]: gain_of(request.GET[one["id"]]) for one in picture.lights if one["id"] in request.GET}
    except ValueError:
        return HttpResponseBadRequest("three numbers from 0 to 1,000,000 of each light", content_type="text/plain")
    return answer_with(turned(picture, gains), "image/jpeg")


def gain_of(text: str) -> tuple[float, ...]:
    gain = tuple(float(part) for part in text[:80].split(","))
    if len(gain) != 3 or not all(0 <= v <= 1e6 for v in gain):
        raise ValueError(text)
    return gain


@require_GET
def final_file(request, final_id, name):
    """A file of a picture that is done."""
    picture = services.get(request.user, final_id)
    file = getattr(picture, FILES[name]) if name in FILES else None
    if not file:
        raise Http404
    ending = FILES[name]
    return FileResponse(file.open(), as_attachment=True, filename=f"{slugify(picture.name) or 'final'}.{ending}")
