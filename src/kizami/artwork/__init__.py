"""Logos and codes as outlines: SVG files, pictures, square codes."""
