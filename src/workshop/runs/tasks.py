"""Runs in the background."""

from __future__ import annotations

from procrastinate.contrib.django import app

__all__ = ["gather_runs_task", "release_run_task"]


@app.task(name="gather_runs", queue="making")
def gather_runs_task(gathering_pk: int) -> None:
    """Propose runs for all that is ready; may be killed and run again."""
    from workshop.runs.gathering import gather_runs

    gather_runs(gathering_pk)


@app.task(name="release_run", queue="making")
def release_run_task(run_pk: int) -> None:
    """Write a run's files and prove them; may be killed and run again."""
    from workshop.runs.releasing import release_run

    release_run(run_pk)
