"""Addresses of the instruments, below the settings."""

from django.urls import path

from instruments import views

app_name = "instruments"
urlpatterns = [
    path("", views.settings_page, name="settings"),
    path("heard", views.heard, name="heard"),
]
