"""Addresses of the devices: their settings, and the door that a phone stands before."""

from django.urls import path

from devices import views

app_name = "devices"
urlpatterns = [
    path("settings/phones", views.phones, name="phones"),
    path("settings/phones/share", views.share, name="share"),
    path("settings/phones/link", views.link, name="link"),
    path("settings/phones/passphrase", views.passphrase, name="passphrase"),
    path("settings/phones/<int:pk>/revoke", views.revoke, name="revoke"),
    path("door", views.door, name="door"),
    path("door/pair", views.pair, name="pair"),
]
