"""All addresses of Calm Tin."""

from django.urls import include, path

from calmtin import views

urlpatterns = [
    path("", views.home, name="home"),
    path("due", views.due, name="due"),
    path("find", views.find_page, name="find"),
    path("formulas/", include("formulas.urls")),
    path("batches/", include("batches.urls")),
    path("close", views.close, name="close"),
    path("bench/", include("bench.urls")),
    path("pours/", include("pours.urls")),
    path("pours/", include("checks.urls")),
    path("pours/", include("learning.urls")),
    path("labels/", include("labels.urls")),
    path("labels/", include("pieces.urls")),
    path("pantry/", include("pantry.urls")),
    path("", include("devices.urls")),
    path("settings/instruments/", include("instruments.urls")),
    path("settings/", include("exchange.urls")),
    path("settings/", include("workshop.urls")),
]
handler400 = "calmtin.views.too_much"
handler404 = "calmtin.views.not_here"
handler500 = "calmtin.views.went_wrong"
