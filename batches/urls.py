"""Addresses of the batches app."""

from django.urls import path

from batches import views

app_name = "batches"
urlpatterns = [
    path("", views.listing, name="list"),
    path("plan", views.plan, name="plan"),
    path("ladder", views.ladder, name="ladder"),
    path("<int:pk>/", views.sheet, name="sheet"),
    path("<int:pk>/weigh", views.weigh, name="weigh"),
    path("<int:pk>/call-off", views.call_off, name="call_off"),
]
