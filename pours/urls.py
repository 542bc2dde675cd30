"""Addresses of the pours app."""

from django.urls import path

from pours import views

app_name = "pours"
urlpatterns = [
    path("from-lot/<int:pk>", views.made_from, name="made_from"),
    path("", views.log, name="log"),
    path("learned", views.learned, name="learned"),
    path("<int:pk>/", views.pour, name="pour"),
    path("of/<int:batch_pk>", views.record, name="record"),
]
