"""The margin over the ground, worked out on a worker and shown as it grows."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from tallmast.findings.link.cells import Coverage
from tallmast.findings.link.coverage import Cover
from tallmast.findings.link.over_another import OverAnother
from tallmast.frozen import Frozen
from tallmast.units import show

from ..session import Session


class MapState(Frozen):
    """A map as it stood."""

    cover: Cover | None
    over: OverAnother | None
    coverage: Coverage | None
    reach_m: float | None


class Covering(QObject):
    """Holds what was worked out last. What is wanted anew, or from another notebook, ends what is going on."""

    grown = Signal()
    _part = Signal(int, object)

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.cover: Cover | None = None
        """What it is worked out from."""
        self.over: OverAnother | None = None
        """Over whom it is laid; None: it is the margin."""
        self.coverage: Coverage | None = None
        self._reach_m: float | None = None
        """As a person asked; None: as far as is usual."""
        self._last = self._taken = 0
        """Numbers of the work begun last, and of that whose parts are taken; 0: none."""
        self._part.connect(self._take)
        session.stop_asked.connect(self.stop)
        session.opened.connect(self._forget)

    @property
    def going(self) -> bool:
        return self._taken > 0

    @property
    def stopped(self) -> bool:
        """Whether it was stopped before it was fine."""
        return self.cover is not None and not self.going and (self.coverage is None or self.coverage.done < 1.0)

    def want(self, cover: Cover, over: OverAnother | None = None) -> None:
        """The map of a finding, or of the wanted one over another, unless it is there or being made already."""
        if self.cover is not cover or self.over is not over:
            self.cover, self.over, self.coverage = cover, over, None
            self.begin()

    def reach(self, times: float) -> None:
        """So many times as far."""
        if self.cover is not None:
            self._reach_m = self.cover.within((self._reach_m or self.cover.usual_reach_m) * times)
            self.begin()

    def stop(self) -> None:
        """What is there stays, coarse where it is."""
        if self.going:
            self._taken = 0
            self.grown.emit()

    def begin(self) -> None:
        """Anew, from what is wanted now."""
        if self.cover is None:
            return
        self._last += 1
        self._taken = number = self._last
        cover, over, reach = self.cover, self.over, self._reach_m or self.cover.usual_reach_m

        def grow() -> None:
            for margin in cover.grow(reach):
                coverage = over.of(margin) if over is not None else margin
                _ = coverage.shares  # here, and not while it is painted
                if coverage.done == 1.0:
                    _ = coverage.lines
                if number != self._taken:
                    return
                self._part.emit(number, coverage)

        def ended(_: object, error: Exception | None) -> None:
            if number != self._taken:
                return  # it was stopped, or its window looks another way by now
            if error is not None:
                self.session.tell(f"The map could not be worked out ({error}). The notebook is safe.")
            self._taken = 0
            self.grown.emit()

        self.session.work(f"Working out the map to {show.distance(reach)}", grow, ended)

    def _take(self, number: int, coverage: Coverage) -> None:
        if number == self._taken:
            self.coverage = coverage
            self.grown.emit()

    def let_go(self) -> MapState:
        """End what goes on, and say what another one goes on with: a change of look makes view and map anew."""
        state = MapState(self.cover, self.over, self.coverage, self._reach_m)
        self._taken = 0
        return state

    def carry_on(self, state: MapState) -> None:
        """With what was there; on with what was not fine yet."""
        self.cover, self.over, self.coverage, self._reach_m = state.cover, state.over, state.coverage, state.reach_m
        if self.cover is not None and (self.coverage is None or self.coverage.done < 1.0):
            self.begin()

    def _forget(self) -> None:
        self._taken, self.cover, self.over, self.coverage, self._reach_m = 0, None, None, None, None
