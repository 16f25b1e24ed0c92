"""The entry point for web servers."""

from __future__ import annotations

import os

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

from workshop.memory.garbage import look_seldom

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "workshop.settings")

application = get_wsgi_application()

# All that requests need is loaded before the first of them.
get_resolver().url_patterns  # noqa: B018
look_seldom()
