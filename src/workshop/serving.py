"""How the processes of the web server begin: gunicorn's own settings, beside those on its command line."""

from __future__ import annotations

import threading
from typing import Any

__all__ = ["limit_request_line", "post_worker_init", "preload_app"]

#: Loaded once and shared: all are there at once, in little more than the memory of one.
preload_app = True

#: As much as the server can: a product's page tries all its values in one address, further areas among them.
limit_request_line = 8190


def post_worker_init(worker: Any) -> None:
    """Read the catalogue while nobody asks for it yet: a supplied shape alone may take seconds."""
    threading.Thread(target=_read_catalogue, name="catalogue", daemon=True).start()


def _read_catalogue() -> None:
    from django.db import DatabaseError, connection

    from kizami.errors import KizamiError
    from workshop.catalogue.models import Product

    try:
        Product.objects.catalogue()
    except (DatabaseError, KizamiError):
        # Whoever asks next is told what is wrong.
        pass
    finally:
        connection.close()
