"""Worked examples to play with: nothing of them is kept until somebody says so."""
