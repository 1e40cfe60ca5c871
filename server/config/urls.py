from accounts.views import SignIn, bench, enter
from devices.views import scan_file
from django.contrib import admin
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LogoutView
from django.urls import path
from django.views.generic import RedirectView
from handovers.views import handed_file, measured_picture, view_table
from library.views import file_picture
from materials.views import material_picture, proof_picture
from people.views import join
from pictures.views import (
    final_file,
    final_finished,
    final_finished_light,
    final_preview,
    final_turned,
    final_video,
    frame_files,
    frame_preview,
)
from stages.views import stage_picture
from trials.views import trial_picture, trial_table

from config.api import api

PLACES = ("bench", "stage", "library", "trials", "pictures")

urlpatterns = [
    path("", bench),
    *(path(f"{place}/{which}", bench) for place in PLACES for which in ("", "<uuid:material_id>/")),
    path("enter/<str:token>/", enter),
    path("join/<str:token>/", join),
    path("admin/login/", login_not_required(RedirectView.as_view(pattern_name="sign-in", query_string=True))),
    path("admin/", admin.site.urls),
    path("sign-in/", SignIn.as_view(), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("files/<str:sha256>/picture.png", file_picture),
    path("materials/<uuid:material_id>/picture.jpg", material_picture),
    path("stages/<uuid:stage_id>/picture.jpg", stage_picture),
    path("proofs/<uuid:proof_id>/picture.png", proof_picture),
    path("trials/<uuid:trial_id>/sheet.png", trial_picture),
    path("trials/<uuid:trial_id>/table.csv", trial_table),
    path("pictures/<uuid:final_id>/preview.jpg", final_preview),
    path("pictures/<uuid:final_id>/turned.jpg", final_turned),
    path("pictures/<uuid:final_id>/finished.jpg", final_finished),
    path("pictures/<uuid:final_id>/finished.exr", final_finished_light),
    path("pictures/<uuid:final_id>/motion.webm", final_video),
    path("pictures/<uuid:final_id>/frames/<int:number>.jpg", frame_preview),
    path("pictures/<uuid:final_id>/frames-<str:ending>.zip", frame_files),
    path("pictures/<uuid:final_id>/<str:name>", final_file),
    path("handovers/<uuid:handed_id>/file", handed_file),
    path("handovers/views/<str:view>.cube", view_table),
    path("handovers/<uuid:handed_id>/<int:number>.png", measured_picture),
    path("devices/scans/<uuid:scan_id>.<str:ending>", scan_file),
    path("api/", api.urls),
]
