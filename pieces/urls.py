"""Addresses of pieces; they stand among those of labels."""

from django.urls import path

from pieces import several, views
from pieces.market import views as market

app_name = "pieces"
urlpatterns = [
    path("", views.index, name="index"),
    path("stall", views.stall, name="stall"),
    path("several", several.several, name="several"),
    path("several.pdf", several.several_pdf, name="several_pdf"),
    path("market", market.market, name="market"),
    path("market/<int:pk>/", market.market_day, name="market_day"),
    path("market/<int:pk>/take-back", market.take_back, name="take_back_market"),
    path("<int:pk>/pieces", views.pieces, name="pieces"),
    path("pieces/<int:pk>/take-back", views.take_back, name="take_back"),
    path("people", views.people, name="people"),
    path("people/<int:pk>/", views.person, name="person"),
    path("people/<int:pk>/forget", views.forget, name="forget"),
    path("recall/lot/<int:pk>", views.recall_lot, name="recall_lot"),
    path("recall/batch/<int:pk>", views.recall_batch, name="recall_batch"),
]
