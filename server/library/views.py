import numpy as np
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET
from nineglass.network.pictures import picture_file
from nineglass.picture.display import encoded
from nineglass.spectra.srgb import encode

from library.kept_pictures import answer_with
from library.models import KeptFile

MOST_SIDE = 1024


@require_GET
def file_picture(request, sha256):
    """A picture that was put in, as screens show it, no larger than 1024 on a side."""
    file = get_object_or_404(KeptFile, owner=request.user, sha256=sha256, kind=KeptFile.Kind.TEXTURE)
    pixels = picture_file(file.sha256, "linear")
    step = -(-max(pixels.shape[:2]) // MOST_SIDE)
    shown = pixels[::step, ::step]
    shown = encode(shown) if file.facts.get("linear") else shown
    return answer_with(encoded((np.clip(shown, 0, 1) * 255 + 0.5).astype(np.uint8), "PNG"))
