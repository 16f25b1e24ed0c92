"""A database of its own for measuring the web application, with people and the demo's products."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from launch.cluster import Cluster
from launch.state import REPOSITORY, Role, open_state

__all__ = ["shop_database"]


@contextmanager
def shop_database() -> Iterator[None]:
    """A running cluster with an open shop; Django is set up on it. Once in a process."""
    # Under the system's own folder the server's user reaches it, wherever the repository lies.
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        state = open_state(Path(folder) / "state")
        cluster = Cluster.of(state, durable=False)
        cluster.start()
        try:
            os.environ.update(cluster.environment(Role.OWNER), KIZAMI_STATE_DIR=str(state.folder))
            os.environ["DJANGO_SETTINGS_MODULE"] = "workshop.settings"
            import django

            django.setup()
            from django.core.management import call_command

            call_command("open_shop", "--empty", "--products", str(REPOSITORY / "demo" / "products.toml"))
            yield
        finally:
            cluster.stop()
