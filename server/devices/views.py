from django.http import Http404, HttpResponse
from django.views.decorators.http import require_GET
from nineglass.describe import Refused
from nineglass.matter.curve_files import csv_of, spdx_of

from devices import services

QUANTITY = "transmittance"
KINDS = {"csv": "text/csv; charset=utf-8", "spdx": "application/xml"}


@require_GET
def scan_file(request, scan_id, ending):
    """What a scan has read as a file: CSV, or SPDX (IES TM-27)."""
    scan = services.get(request.user, scan_id)
    try:
        points = services.curve_of(scan)
    except Refused:
        raise Http404 from None
    sample, length = scan.dials["sample"], services.of(scan).length_cm
    if ending not in KINDS:
        raise Http404
    text = csv_of(points, QUANTITY) if ending == "csv" else spdx_of(points, QUANTITY, f"{sample}, {length * 10:g} mm")
    response = HttpResponse(text, content_type=KINDS[ending])
    response["Content-Disposition"] = f'attachment; filename="{sample.replace(" ", "_")}.{ending}"'
    return response
