"""Addresses of the formulas app."""

from django.urls import path

from formulas import views
from formulas.examples import views as examples
from formulas.recipes import views as recipes
from formulas.sharing import views as sharing

app_name = "formulas"
urlpatterns = [
    path("", views.formula_list, name="list"),
    path("list.<str:kind>", views.export, name="export"),
    path("new", views.begin, name="begin"),
    path("from-pantry", views.from_pantry, name="from_pantry"),
    path("example", examples.studio, name="example"),
    path("example/try", examples.studio_update, name="example_update"),
    path("example/keep", examples.keep, name="keep_example"),
    path("read", recipes.read_recipe, name="read_recipe"),
    path("read-file", sharing.read, name="read_file"),
    path("<int:pk>/v<int:number>.json", sharing.formula_file, name="file"),
    path("<int:pk>/v<int:number>.<str:kind>", sharing.formula_sheet, name="sheet"),
    path("<int:pk>/v<int:number>/card", sharing.card, name="card"),
    path("<int:pk>/v<int:number>/card.pdf", sharing.card_pdf, name="card_pdf"),
    path("<int:pk>/", views.studio, name="studio"),
    path("<int:pk>/try", views.studio_update, name="studio_update"),
    path("<int:pk>/recipe", recipes.recipe, name="recipe"),
    path("<int:pk>/window", views.window, name="window"),
    path("<int:pk>/save", views.save, name="save"),
    path("<int:pk>/versions", views.versions, name="versions"),
    path("<int:pk>/compare", views.compare, name="compare"),
    path("<int:pk>/versions/<int:number>/branch", views.branch, name="branch"),
    path("<int:pk>/versions/<int:number>/restore", views.restore, name="restore"),
]
