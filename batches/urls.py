"""Addresses of the batches app."""

from django.urls import path

from batches import views
from batches.clock.views import day

app_name = "batches"
urlpatterns = [
    path("<int:pk>/know", views.know, name="know"),
    path("", views.batch_list, name="list"),
    path("list.<str:kind>", views.export, name="export"),
    path("plan", views.plan, name="plan"),
    path("ladder", views.ladder, name="ladder"),
    path("<int:pk>/", views.sheet, name="sheet"),
    path("day", day, name="day"),
    path("shopping", views.shopping_list, name="shopping"),
    path("calendar.ics", views.calendar_file, name="calendar_all"),
    path("<int:pk>/method", views.method, name="method"),
    path("<int:pk>/calendar.ics", views.calendar_file, name="calendar"),
]
