"""The way from a page to its chapter."""

from __future__ import annotations

from django import template
from django.urls import reverse

from workshop.guide.chapters import PLACES

register = template.Library()


@register.filter
def chapter_of(place: str) -> str:
    """The address of the chapter about a place of the shop; of the guide where there is none."""
    slug = PLACES.get(place)
    return reverse("guide:chapter", args=[slug]) if slug else reverse("guide:guide")
