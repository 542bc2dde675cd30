"""Addresses of pieces; they stand among those of labels."""

from django.urls import path

from pieces import views

app_name = "pieces"
urlpatterns = [
    path("", views.index, name="index"),
    path("stall", views.stall, name="stall"),
    path("<int:pk>/pieces", views.pieces, name="pieces"),
    path("pieces/<int:pk>/take-back", views.take_back, name="take_back"),
    path("people", views.people, name="people"),
    path("people/<int:pk>/", views.person, name="person"),
    path("people/<int:pk>/forget", views.forget, name="forget"),
    path("recall/lot/<int:pk>", views.recall_lot, name="recall_lot"),
    path("recall/batch/<int:pk>", views.recall_batch, name="recall_batch"),
]
