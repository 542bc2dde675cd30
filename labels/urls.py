"""Addresses of labels."""

from django.urls import path

from labels import views

app_name = "labels"
urlpatterns = [
    path("<int:pk>/", views.label, name="label"),
    path("<int:pk>/sheet.pdf", views.sheet_pdf, name="pdf"),
    path("<int:pk>/keep", views.keep, name="keep"),
]
