"""Blanks: bodies before lettering, and the areas of their surface that may carry it."""
