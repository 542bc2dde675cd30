"""Addresses of the workshop app."""

from django.urls import path

from workshop import views

app_name = "workshop"
urlpatterns = [
    path("", views.settings, name="settings"),
    path("month", views.month, name="month"),
    path("kinds", views.kinds, name="kinds"),
    path("kinds/<slug:key>", views.kind, name="kind"),
    path("kinds/<slug:key>/back", views.take_back_kind, name="take_back_kind"),
]
