"""Addresses of what pours teach; they stand among those of pours."""

from django.urls import path

from learning import views

app_name = "learning"
urlpatterns = [
    path("learned", views.learned, name="learned"),
    path("by-tests", views.by_tests, name="by_tests"),
    path("supply", views.supply_answer, name="supply"),
    path("reactions", views.reacted, name="reactions"),
    path("next/<int:pk>", views.try_next, name="try_next"),
    path("ladder/of/<int:pk>", views.begin_ladder, name="begin_ladder"),
    path("ladder/<int:pk>", views.ladder, name="ladder"),
    path("ladder/<int:pk>/pick", views.pick_share, name="pick_share"),
]
