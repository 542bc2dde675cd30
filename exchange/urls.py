"""Addresses of the copies of the workshop, and of everything in one file."""

from django.urls import path

from exchange import views

app_name = "exchange"
urlpatterns = [
    path("backups/", views.copy_list, name="copies"),
    path("everything.zip", views.take_everything, name="take"),
    path("everything", views.bring_everything, name="bring"),
    path("backups/<str:name>", views.restore, name="restore"),
    path("backups/<str:name>/delete", views.delete, name="delete"),
    path("backups/<str:name>/file", views.download, name="download"),
]
