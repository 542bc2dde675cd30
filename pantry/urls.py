"""Addresses of the pantry."""

from django.urls import path

from pantry import views

app_name = "pantry"
urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("containers/<int:pk>/remove", views.remove, name="remove"),
]
