"""The seven views: each made when first wanted, made ready while nothing else goes on, so that climbing is only showing."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QStackedWidget

from tallmast.findings.climb import RUNGS, Climb

from ..rung_view import RungView

if TYPE_CHECKING:
    from ..protocols import Frame


class Views(dict[str, RungView]):
    """By rung. Asked for one that is not there yet, it makes it: start-up pays only for the rung it opens on."""

    def __init__(self, frame: Frame, stack: QStackedWidget) -> None:
        super().__init__()
        self._frame, self._stack = frame, stack
        self._unpainted: list[str] = []

    def __missing__(self, rung: str) -> RungView:
        room = import_module(f"tallmast.desk.{rung}.view")
        made: type[RungView] = getattr(room, f"{rung.capitalize()}View")
        view = self[rung] = made(self._frame)
        self._stack.addWidget(view)
        return view

    def outdate(self, but: Climb | None = None) -> None:
        """What they show is no longer so; but where it is of this climb."""
        for view in self.values():
            view.stale = but is None or view.shown is not but
        self._unpainted = []

    def put_in_front(self, rung: str, climb: Climb) -> None:
        """Show a rung as the climb has it."""
        view = self[rung]
        if view.stale:
            view.show_climb(climb)
        self._stack.setCurrentWidget(view)

    def load_one(self) -> bool:
        """Load and make one more rung, before any notebook is open; whether there was one to make."""
        missing = next((rung for rung in RUNGS if rung not in self), None)
        if missing is None:
            return False
        _ = self[missing]
        if missing != "verdict":
            import_module(f"tallmast.desk.{missing}.sheets")
        return True

    def ready_one(self, climb: Climb) -> bool:
        """Fill, or paint, one more rung; whether there was one."""
        for rung in RUNGS:
            view = self[rung]
            if view.stale:
                view.resize(self._stack.size())
                view.show_climb(climb)
                self._unpainted.append(rung)
                return True
        if self._unpainted:
            view = self[self._unpainted.pop(0)]
            if not view.isVisible():
                view.grab()  # lays it out in the clothes it will wear, and paints its pictures for keeps
            return True
        return False

    def let_go(self) -> dict[str, object]:
        """Let go of what is held outside; what views made anew go on with."""
        carried = {rung: view.carried() for rung, view in self.items()}
        for view in self.values():
            view.let_go()
        return {rung: state for rung, state in carried.items() if state is not None}

    def carry_on(self, carried: dict[str, object]) -> None:
        for rung, state in carried.items():
            self[rung].carry_on(state)
