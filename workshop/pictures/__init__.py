"""Geometry of the pictures: numbers in, places on an SVG canvas out; templates only draw them."""
