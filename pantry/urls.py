"""Addresses of the pantry."""

from django.urls import path

from pantry import picking, views
from pantry.orders import views as orders

app_name = "pantry"
urlpatterns = [
    path("", views.stock, name="stock"),
    path("receive", views.receive, name="receive"),
    path("pick", picking.pick_page, name="pick"),
    path("count", views.count, name="count"),
    path("orders", orders.orders, name="orders"),
    path("orders/<int:pk>/call-off", orders.call_off, name="call_off_order"),
    path("list.<str:kind>", views.export, name="export"),
    path("lots-of/<str:key>", views.lots, name="lots"),
    path("lots/<int:pk>/", views.lot, name="lot"),
    path("ingredients", views.ingredients, name="ingredients"),
    path("ingredients/<str:key>", views.ingredient, name="ingredient"),
    path("ingredients/<str:key>/delete", views.delete_ingredient, name="delete_ingredient"),
    path("containers", views.containers, name="containers"),
    path("containers/<int:pk>/goes-with", views.goes_with, name="goes_with"),
    path("containers/<int:pk>/remove", views.remove, name="remove"),
    path("preparations", views.preparations, name="preparations"),
    path("preparations/<int:pk>/finish", views.finish, name="finish"),
]
