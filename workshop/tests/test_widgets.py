"""Fields as our own templates draw them, against Django's."""

from django import forms
from django.forms.renderers import DjangoTemplates
from django.test import SimpleTestCase

from workshop.forms import Renderer

CHOICES = [("", "–"), ("Waxes", [("a", "Bee's & <other>"), (2, "Two")]), ("c", "Three")]


class WidgetTests(SimpleTestCase):
    def test_fields_are_drawn_as_django_draws_them(self) -> None:
        """The same elements and attributes, escaped, with the same choice: whatever stands in them."""
        some = {"class": "wide", "required": True, "disabled": False, "data-of": 'a "b" <c>'}
        for widget, values in (
            (forms.TextInput(some), (None, "", '1,5 "oz" <b>', 0)),
            (forms.NumberInput(), (1.5,)),
            (forms.HiddenInput(), ("&",)),
            (forms.CheckboxInput(), (True, False)),
            (forms.Select(some, CHOICES), (None, "a", 2, "gone")),
            (forms.SelectMultiple(None, CHOICES), (["a", "c"],)),
            (forms.RadioSelect(some, [("", "none"), ("a", "Bee's & <other>"), (2, "Two")]), (None, "a", 2)),
        ):
            for value in values:
                for attrs in ({}, {"id": "id_it", "aria-describedby": "help"}):
                    ours, theirs = (widget.render("it", value, attrs, to()) for to in (Renderer, DjangoTemplates))
                    with self.subTest(type(widget).__name__, value=value, attrs=attrs):
                        self.assertHTMLEqual(ours, theirs)
                        self.assertNotIn("<other>", ours)
