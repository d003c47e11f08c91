"""Faults of the program itself: an exception in a slot, in painting or in a job reaches the user and the log.

The log holds where it happened, and no names, figures or paths of the user's: not even the exception's own words, which
may carry them. Those are in what the user can copy.
"""

from __future__ import annotations

import logging
import sys
import threading
import traceback
from collections.abc import Callable
from logging.handlers import RotatingFileHandler
from pathlib import Path
from time import monotonic
from types import TracebackType

import waxtwin
from waxtwin.library.faults import ServerAwayError
from waxtwin.ui.model.messages import Fault

LOG = "faults.log"
_SIZE, _KEPT = 200_000, 3
_AGAIN = 10.0  # s: the same fault is not told more often than that
_HOME = Path(waxtwin.__file__).parent
_KEPT_WORDS = "Everything up to the last change is kept; this step was not carried out."
Hook = Callable[[type[BaseException], BaseException, TracebackType | None], object]


def log_place() -> Path:
    """Where the log of faults lies."""
    from platformdirs import user_state_path

    return user_state_path("waxtwin") / LOG


class Faults:
    """While installed, every exception that nobody caught goes through here, and on to whoever listened before."""

    def __init__(self, tell: Callable[[str, str], None], away: Callable[[Fault], None]) -> None:
        """`tell(sentence, details)` is called on whatever thread the fault happened, and so is `away(fault)` where a
        team's server did not answer.
        """
        self._tell, self._away = tell, away
        self._before: Hook | None = None
        self._before_in_threads: Callable[[threading.ExceptHookArgs], object] | None = None
        self._told: dict[str, float] = {}

    def install(self) -> None:
        """Listen from now on."""
        self._before, sys.excepthook = sys.excepthook, self._caught
        self._before_in_threads, threading.excepthook = threading.excepthook, self._caught_in_thread

    def remove(self) -> None:
        """Listen no more, unless somebody else took over meanwhile."""
        if sys.excepthook == self._caught and self._before is not None:
            sys.excepthook = self._before
        if threading.excepthook == self._caught_in_thread and self._before_in_threads is not None:
            threading.excepthook = self._before_in_threads

    def take(self, fault: BaseException) -> None:
        """A fault that was caught elsewhere, such as in a job's thread: it goes the way of all others."""
        kind, trace = type(fault), fault.__traceback__
        if sys.excepthook == self._caught:
            self._caught(kind, fault, trace)
        else:
            self._report(kind, fault, trace)
            sys.excepthook(kind, fault, trace)

    def _caught(self, kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, ServerAwayError):
            self._away(Fault(fault))
            return
        if issubclass(kind, Exception):
            self._report(kind, fault, trace)
        if self._before is not None:
            self._before(kind, fault, trace)

    def _caught_in_thread(self, args: threading.ExceptHookArgs) -> None:
        if args.exc_value is not None:
            self._caught(args.exc_type, args.exc_value, args.exc_traceback)

    def _report(self, kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        where = _where(trace)
        key = f"{kind.__name__} {where}"
        if monotonic() - self._told.get(key, -_AGAIN) < _AGAIN:
            return
        self._told[key] = monotonic()
        write(kind, trace)
        details = "".join(traceback.format_exception(kind, fault, trace))
        self._tell(f"Something went wrong inside Wax Twin ({kind.__name__} in {where}). {_KEPT_WORDS}", details)


def _where(trace: TracebackType | None) -> str:
    """The last place of the program's own in a trace, as module:line."""
    frames = [frame for frame in traceback.extract_tb(trace) if _HOME in Path(frame.filename).parents]
    return f"{Path(frames[-1].filename).stem}:{frames[-1].lineno}" if frames else "a part of its libraries"


def write(kind: type[BaseException], trace: TracebackType | None) -> None:
    """Put a fault into the log; a log that cannot be written is not worth a second fault."""
    lines = []
    for frame in traceback.extract_tb(trace):
        path = Path(frame.filename)
        name = path.relative_to(_HOME).as_posix() if _HOME in path.parents else path.name
        lines.append(f"{name}:{frame.lineno} {frame.name}")
    _log().error("%s %s: %s", waxtwin.__version__, kind.__name__, " < ".join(reversed(lines)) or "no trace")


def _log() -> logging.Logger:
    logger = logging.getLogger(f"waxtwin.faults.{log_place()}")
    if not logger.handlers:
        try:
            log_place().parent.mkdir(parents=True, exist_ok=True)
            handler: logging.Handler = RotatingFileHandler(
                log_place(), maxBytes=_SIZE, backupCount=_KEPT, encoding="utf-8", delay=True
            )
        except OSError:
            handler = logging.NullHandler()
        handler.setFormatter(logging.Formatter("%(asctime)s %(message)s"))
        logger.addHandler(handler)
        logger.propagate = False
    return logger
