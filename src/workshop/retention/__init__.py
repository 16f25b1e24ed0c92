"""Letting go of what the shop need not keep: a customer's name, words and files."""
