"""Addresses of looking at pours; they stand among those of pours."""

from django.urls import path

from checks import views
from checks.notebook import views as notebook

app_name = "checks"
urlpatterns = [
    path("<int:pk>/check", views.check, name="check"),
    path("<int:pk>/wear", views.wear, name="wear"),
    path("<int:pk>/follow-up", views.follow_up, name="follow_up"),
    path("checks/<int:pk>/aside", views.exclude_check, name="exclude_check"),
    path("notebook", notebook.notebook, name="notebook"),
    path("notebook/example.<str:kind>", notebook.example, name="notebook_example"),
    path("peak", views.peak_now, name="peak"),
    path("peak/take", views.take_peak, name="take_peak"),
]
