"""Addresses of the pours app."""

from django.urls import path

from pours.views import finding, pours

app_name = "pours"
urlpatterns = [
    path("", finding.log, name="log"),
    path("list.<str:kind>", finding.export, name="export"),
    path("filters", finding.save_filter, name="save_filter"),
    path("filters/<int:pk>/forget", finding.forget_filter, name="forget_filter"),
    path("year/<int:pk>", finding.year, name="year"),
    path("compare", finding.compare, name="compare"),
    path("from-lot/<int:pk>", finding.made_from, name="made_from"),
    path("of/<int:batch_pk>", pours.record, name="record"),
    path("<int:pk>/", pours.pour, name="pour"),
    path("<int:pk>/shown", pours.shown, name="shown"),
    path("<int:pk>/card", finding.card, name="card"),
]
