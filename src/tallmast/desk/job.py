"""A piece of work for a worker's thread."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QRunnable


class Job(QRunnable):
    """Runs a function on a worker and hands the outcome to a signal; the signal's owner may be gone by then."""

    def __init__(self, work: Callable[[], Any], done: Callable[[Any, Exception | None], None]) -> None:
        super().__init__()
        self._work, self._done = work, done

    def run(self) -> None:
        try:
            result, error = self._work(), None
        except Exception as caught:
            result, error = None, caught
        try:
            self._done(result, error)
        except RuntimeError:
            return  # the window was closed while we worked
