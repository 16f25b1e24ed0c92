"""The way from a page to its chapter."""

from __future__ import annotations

from django import template
from django.urls import reverse

from workshop.guide.chapters import CHAPTER_OF

register = template.Library()


@register.filter
def chapter_of(view_name: str | None) -> str:
    """The address of the chapter about a page; of the guide where there is none."""
    name = view_name or ""
    slug = CHAPTER_OF.get(name) or CHAPTER_OF.get(name.partition(":")[0])
    return reverse("guide:chapter", args=[slug]) if slug else reverse("guide:guide")
