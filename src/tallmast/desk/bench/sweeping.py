"""The thread that sweeps: it talks to the analyzer, mends what can be mended, and never keeps the window waiting."""

from __future__ import annotations

import contextlib
import threading
import time
from collections import deque
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QThread, Signal

from tallmast.instruments.driver import Analyzer, InstrumentError, Maker, RawSweep, SweepPlan

if TYPE_CHECKING:
    from tallmast.procedures import analyzer

PATIENCE = 3
"""Faults in a row after which the line is closed and opened again."""
LETS_GO_MS = 800
"""How long the window waits for an instrument to let go."""


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


class SweepLines(QObject):
    """The lines that were opened; the newest speaks to the listener, in the window's thread."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.listener: analyzer.Analyzer | None = None
        self._loop: SweepLoop | None = None
        self._leaving: list[SweepLoop] = []

    def open(self, maker: Maker, address: str, plan: SweepPlan) -> SweepLoop:
        self._loop = loop = SweepLoop(maker, address, plan)
        loop.arrived.connect(self._arrived)
        loop.connected.connect(self._connected)
        loop.fault.connect(self._fault)
        loop.recovered.connect(self._recovered)
        loop.start()
        loop.go()
        return loop

    def close(self) -> None:
        """Let go of the line in use; nothing of it is heard any more."""
        loop, self._loop = self._loop, None
        if loop is not None:
            for signal in (loop.arrived, loop.connected, loop.fault, loop.recovered):
                signal.disconnect()
            self._leaving = [left for left in self._leaving if left.isRunning()] + [loop]
            loop.stop()

    def end(self) -> None:
        """Wait for all that was let go of."""
        for loop in self._leaving:
            if not loop.wait(LETS_GO_MS):
                # A driver of another package that is deaf: a thread left running would take the program down at its end.
                loop.terminate()
                loop.wait(LETS_GO_MS)
        self._leaving = []

    def _arrived(self) -> None:
        if self.listener is not None:
            self.listener.arrived()

    def _connected(self, name: str) -> None:
        if self.listener is not None:
            self.listener.connected(name)

    def _fault(self, message: str) -> None:
        if self.listener is not None:
            self.listener.fault(message)

    def _recovered(self) -> None:
        if self.listener is not None:
            self.listener.recovered()
