"""Addresses of the labels app."""

from django.urls import path

from labels.views import giving, maker

app_name = "labels"
urlpatterns = [
    path("", giving.index, name="index"),
    path("stall", giving.stall, name="stall"),
    path("<int:pk>/", maker.label, name="label"),
    path("<int:pk>/sheet.pdf", maker.sheet_pdf, name="pdf"),
    path("<int:pk>/keep", maker.keep, name="keep"),
    path("<int:pk>/pieces", giving.pieces, name="pieces"),
    path("pieces/<int:pk>/take-back", giving.take_back, name="take_back"),
    path("people", giving.people, name="people"),
    path("people/<int:pk>/", giving.person, name="person"),
    path("people/<int:pk>/forget", giving.forget, name="forget"),
    path("recall/lot/<int:pk>", giving.recall_lot, name="recall_lot"),
    path("recall/batch/<int:pk>", giving.recall_batch, name="recall_batch"),
]
