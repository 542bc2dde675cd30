"""Addresses of the pantry."""

from django.urls import path

from pantry import views

app_name = "pantry"
urlpatterns = [
    path("", views.stock, name="stock"),
    path("count", views.count, name="count"),
    path("list.<str:kind>", views.export, name="export"),
    path("lots-of/<str:key>", views.lots, name="lots"),
    path("lots/<int:pk>/", views.lot, name="lot"),
    path("ingredients", views.ingredients, name="ingredients"),
    path("ingredients/<str:key>", views.ingredient, name="ingredient"),
    path("ingredients/<str:key>/delete", views.delete_ingredient, name="delete_ingredient"),
    path("containers", views.containers, name="containers"),
    path("containers/<int:pk>/remove", views.remove, name="remove"),
    path("preparations", views.preparations, name="preparations"),
    path("preparations/<int:pk>/finish", views.finish, name="finish"),
]
