"""Handing a formula on: a file another workshop can read, and a card for a friend."""
