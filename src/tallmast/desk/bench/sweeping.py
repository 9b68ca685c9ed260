"""The thread that sweeps: it talks to the analyzer, mends what can be mended, and never keeps the window waiting."""

from __future__ import annotations

import contextlib
import threading
import time
from collections import deque

from PySide6.QtCore import QThread, Signal

from tallmast.instruments.driver import Analyzer, InstrumentError, Maker, RawSweep, SweepPlan

PATIENCE = 3
"""Faults in a row after which the line is closed and opened again."""


class SweepLoop(QThread):
    """Sweeps over and over; `arrived` says that a newer one can be taken; the next is swept when it was."""

    arrived = Signal()
    connected = Signal(str)
    fault = Signal(str)
    recovered = Signal()

    def __init__(self, maker: Maker, address: str, plan: SweepPlan) -> None:
        super().__init__()
        self._maker, self._address = maker, address
        self._lock = threading.Lock()
        self._plan, self._changed = plan, True
        self._newest: tuple[RawSweep, float] | None = None
        self._room = threading.Event()
        """Set while the window can take another sweep: sweeping ahead of it would only take the interpreter from it."""
        self._room.set()
        self._end = threading.Event()
        self._once = False
        self._wanted = threading.Event()
        self._times: deque[float] = deque(maxlen=60)
        self._analyzer: Analyzer | None = None

    # From the window's thread

    def plan(self, plan: SweepPlan) -> None:
        with self._lock:
            self._plan, self._changed = plan, True
            self._newest = None

    def go(self, once: bool = False) -> None:
        self._once = once
        self._wanted.set()

    def pause(self) -> None:
        self._wanted.clear()

    @property
    def going(self) -> bool:
        return self._wanted.is_set()

    def take(self) -> tuple[RawSweep, float] | None:
        """The newest sweep, and when it began (by `time.monotonic`)."""
        self._room.set()
        with self._lock:
            return self._newest

    @property
    def rate(self) -> float:
        """Sweeps a second, lately."""
        times = list(self._times)
        return (len(times) - 1) / (times[-1] - times[0]) if len(times) > 2 and times[-1] > times[0] else 0.0

    def stop(self) -> None:
        """End now, whatever the instrument does; `finished` tells when. The window does not wait for it."""
        self._end.set()
        self._wanted.set()
        # A read that is under way ends with its line.
        analyzer = self._analyzer
        if analyzer is not None and self.isRunning():
            with contextlib.suppress(Exception):
                analyzer.close()

    # On the thread

    def run(self) -> None:
        analyzer: Analyzer | None = None
        self._analyzer = None
        faults, troubled = 0, False
        while not self._end.is_set():
            if not self._wanted.wait(0.2) or not self._room.wait(0.2):
                continue
            if self._end.is_set():
                break
            try:
                if analyzer is None:
                    analyzer = self._analyzer = self._maker(self._address)
                    self._changed = True
                    self.connected.emit(analyzer.identify())
                self._sweep(analyzer)
            except InstrumentError as error:
                if self._end.is_set():
                    break
                faults += 1
                if not troubled:
                    self.fault.emit(str(error))
                troubled = True
                if faults >= PATIENCE and analyzer is not None:
                    analyzer.close()
                    analyzer = self._analyzer = None
                self._end.wait(min(0.1 * faults, 1.0))
            except Exception as error:  # another package's driver may raise anything
                if self._end.is_set():
                    break
                self.fault.emit(
                    f"The driver failed ({type(error).__name__}: {str(error)[:120]}). Connect again, or take another."
                )
                troubled = True
                self._wanted.clear()
            else:
                faults = 0
                if troubled:
                    troubled = False
                    self.recovered.emit()
                if self._once:
                    self._once = False
                    self._wanted.clear()
        if analyzer is not None:
            analyzer.close()

    def _sweep(self, analyzer: Analyzer) -> None:
        with self._lock:
            plan, changed = self._plan, self._changed
            self._changed = False
        if changed:
            try:
                analyzer.configure(plan)
            except InstrumentError:
                with self._lock:
                    self._changed = True
                raise
            self._times.clear()
        began = time.monotonic()
        raw = analyzer.sweep()
        self._times.append(time.monotonic())
        with self._lock:
            if self._changed:
                return  # of a plan that is no longer wanted
            self._newest = raw, began
        self._room.clear()
        self.arrived.emit()
