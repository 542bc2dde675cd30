"""Addresses of the pours app."""

from django.urls import path

from pours.views import checks, finding, learning, pours

app_name = "pours"
urlpatterns = [
    path("", finding.log, name="log"),
    path("list.<str:kind>", finding.export, name="export"),
    path("filters", finding.save_filter, name="save_filter"),
    path("filters/<int:pk>/forget", finding.forget_filter, name="forget_filter"),
    path("compare", finding.compare, name="compare"),
    path("from-lot/<int:pk>", finding.made_from, name="made_from"),
    path("of/<int:batch_pk>", pours.record, name="record"),
    path("<int:pk>/", pours.pour, name="pour"),
    path("<int:pk>/card", finding.card, name="card"),
    path("<int:pk>/check", checks.check, name="check"),
    path("<int:pk>/wear", checks.wear, name="wear"),
    path("<int:pk>/follow-up", checks.follow_up, name="follow_up"),
    path("checks/<int:pk>/aside", checks.exclude_check, name="exclude_check"),
    path("peak", checks.peak_now, name="peak"),
    path("peak/take", checks.take_peak, name="take_peak"),
    path("learned", learning.learned, name="learned"),
    path("by-tests", learning.by_tests, name="by_tests"),
    path("reactions", learning.reacted, name="reactions"),
    path("next/<int:pk>", learning.try_next, name="try_next"),
    path("ladder/of/<int:pk>", learning.begin_ladder, name="begin_ladder"),
    path("ladder/<int:pk>", learning.ladder, name="ladder"),
    path("ladder/<int:pk>/pick", learning.pick_share, name="pick_share"),
]
