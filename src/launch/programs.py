"""The command lines of the programs that make up a running Kizami."""

from __future__ import annotations

import sys

__all__ = ["feed_command", "web_command", "worker_command"]


def web_command(port: int) -> list[str]:
    """The web server on a loopback port."""
    return [
        sys.executable, "-m", "gunicorn", "workshop.wsgi:application",
        "--bind", f"127.0.0.1:{port}", "--workers", "2", "--threads", "4", "--timeout", "60",
        "--config", "python:workshop.serving",
        # Addresses without what was typed into them: logs hold nobody's words.
        "--access-logfile", "-", "--access-logformat", "%(t)s %(m)s %(U)s %(s)s %(B)s %(M)sms",
        "--max-requests", "5000", "--max-requests-jitter", "500",
    ]  # fmt: skip


def worker_command() -> list[str]:
    """A worker: it does one job at a time."""
    return [sys.executable, "-m", "django", "procrastinate", "worker", "--concurrency", "1"]


def feed_command(port: int) -> list[str]:
    """The demo's shop feed on a loopback port."""
    return [sys.executable, "-m", "shopfeed.server", "--port", str(port)]
