"""Addresses of the formulas app."""

from django.urls import path

from formulas import views

app_name = "formulas"
urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("new", views.begin, name="begin"),
    path("pick", views.pick, name="pick"),
    path("read", views.recipe, name="read"),
    path("ingredients/<str:key>", views.ingredient, name="ingredient"),
    path("ingredients/<str:key>/forget", views.forget, name="forget"),
    path("<int:pk>/", views.bench, name="studio"),
    path("<int:pk>/try", views.attempt, name="try"),
    path("<int:pk>/save", views.save, name="save"),
    path("<int:pk>/versions", views.versions, name="versions"),
    path("<int:pk>/compare", views.compare, name="compare"),
    path("<int:pk>/versions/<int:number>/branch", views.branch, name="branch"),
    path("<int:pk>/versions/<int:number>/restore", views.restore, name="restore"),
]
