"""Addresses of the bench; a rehearsal has the same below an address of its own."""

from django.urls import path

from bench import views

REAL, REHEARSAL = {"is_rehearsal": False}, {"is_rehearsal": True}

app_name = "bench"
urlpatterns = [
    path("<int:pk>/", views.bench, REAL, name="bench"),
    path("<int:pk>/do", views.do, REAL, name="do"),
    path("<int:pk>/live", views.live, REAL, name="live"),
    path("<int:pk>/rescue", views.rescue, REAL, name="rescue"),
    path("<int:pk>/zero", views.zero, REAL, name="zero"),
    path("<int:pk>/weigh", views.weigh, name="weigh"),
    path("<int:pk>/correct", views.correct, name="correct"),
    path("<int:pk>/call-off", views.call_off, name="call_off"),
    path("<int:pk>/rehearse", views.rehearse, name="rehearse"),
    path("example", views.example, name="example"),
    path("photo/<str:name>", views.photo, name="photo"),
    path("rehearsal/<int:pk>/", views.bench, REHEARSAL, name="rehearsal"),
    path("rehearsal/<int:pk>/do", views.do, REHEARSAL, name="rehearsal_do"),
    path("rehearsal/<int:pk>/live", views.live, REHEARSAL, name="rehearsal_live"),
    path("rehearsal/<int:pk>/rescue", views.rescue, REHEARSAL, name="rehearsal_rescue"),
    path("rehearsal/<int:pk>/zero", views.zero, REHEARSAL, name="rehearsal_zero"),
    path("rehearsal/<int:pk>/act", views.act, name="act"),
    path("rehearsal/<int:pk>/end", views.end, name="end"),
]
