"""The entry point for web servers."""

from __future__ import annotations

import gc
import os

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "workshop.settings")

application = get_wsgi_application()

# All that requests need is loaded before the first of them, and is never looked through for garbage again.
get_resolver().url_patterns  # noqa: B018
gc.collect()
gc.freeze()
# Pages and lists are made of many small things that go by themselves: looked for seldom, not at every page.
gc.set_threshold(20_000, 20, 20)
