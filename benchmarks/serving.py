"""A web server as `./start` runs it, for as long as something is measured on it."""

from __future__ import annotations

import subprocess
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager

from launch.cluster import free_port
from launch.programs import web_command

__all__ = ["web_server"]


@contextmanager
def web_server() -> Iterator[tuple[str, int]]:
    """Its address once it answers, and the number of its process."""
    port = free_port()
    server = subprocess.Popen(web_command(port), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        while True:
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/alive/", timeout=2).close()
                break
            except OSError:
                time.sleep(0.2)
        yield f"http://127.0.0.1:{port}", server.pid
    finally:
        server.terminate()
        server.wait()
