"""The entry point for web servers."""

from __future__ import annotations

import os

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

from kizami.lettering.shipped import shipped_typeface, shipped_typeface_codes
from workshop.memory.garbage import look_seldom

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "workshop.settings")

application = get_wsgi_application()

# All that requests need is loaded before the first of them.
get_resolver().url_patterns  # noqa: B018
# A search for what cures a piece looks into every typeface: opened here once, all processes share them.
for _code in shipped_typeface_codes():
    shipped_typeface(_code)
look_seldom()
