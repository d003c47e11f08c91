"""A film as long work of the window: its process begun, followed, and ended with nothing left half-written."""

from __future__ import annotations

import pickle
import subprocess
import sys
import tempfile
from pathlib import Path

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps
from waxtwin.report.film import part_of
from waxtwin.ui.rooms.talk.film_worker import DONE, FAULT, FilmJob


def film(job: FilmJob) -> Steps[Path]:
    """Make a film; yields the share done. Raises WaxTwinError; then, and when it is stopped, the old file stays."""
    with tempfile.TemporaryDirectory(prefix="waxtwin-") as folder:
        place = Path(folder) / "job"
        place.write_bytes(pickle.dumps(job))
        worker = subprocess.Popen(
            [sys.executable, "-m", "waxtwin.ui.rooms.talk.film_worker", str(place)], stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
        )  # fmt: skip
        try:
            said = yield from _followed(worker)
        finally:
            worker.kill()
            worker.wait()
            if worker.stdout is not None:
                worker.stdout.close()
            part_of(job.path).unlink(missing_ok=True)
    if said != DONE:
        raise WaxTwinError(said or f"{job.path.name}: the film was not finished, and nothing was written")
    return job.path


def _followed(worker: subprocess.Popen[str]) -> Steps[str]:
    """What it said at the end: DONE, or its fault; "" where it went without a word."""
    assert worker.stdout is not None
    for line in worker.stdout:
        word, _, rest = line.strip().partition(" ")
        if word == DONE:
            return DONE
        if word == FAULT:
            return rest
        try:
            share = float(word)
        except ValueError:
            continue
        yield share
    return ""
