"""What guided runs on instruments have in common: one thing to do at a time, one key for it, nothing lost by leaving."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent

from tallmast.figures.paper import Paper

from ..bench.practising import PRACTICE
from ..parts import Card, Flow, button, label
from ..session import Session

if TYPE_CHECKING:
    from tallmast.instruments.practice.server import PracticeServer


@dataclass(frozen=True)
class Addresses:
    """Where the instruments are. Source and meter are both of the practice bench, or neither."""

    source: str = PRACTICE
    attenuator: str = PRACTICE
    meter: str = PRACTICE

    @property
    def practising(self) -> bool:
        return self.source == PRACTICE


class Range:
    """Source, step attenuator and power meter on their lines, opened when first wanted. Used from the worker only."""

    def __init__(self, addresses: Addresses) -> None:
        self.addresses = addresses
        self.practice: PracticeServer | None = None
        self._open: dict[str, Any] = {}

    @property
    def practising(self) -> bool:
        return self.addresses.practising

    def get(self, which: str) -> Any:
        """One of 'source', 'attenuator', 'meter', 'hands', 'receiver'. Raises InstrumentError."""
        from tallmast.instruments.scpi import ScpiInstrument
        from tallmast.instruments.scpi_levels import ScpiDisplay, ScpiLevelSource, ScpiPowerMeter, ScpiStepAttenuator

        if which not in self._open:
            if self.practice is None and (self.practising or which in ("hands", "receiver")):
                from tallmast.instruments.practice.server import PracticeServer

                self.practice = PracticeServer()
            drivers = {
                "source": (ScpiLevelSource, self.addresses.source, "source"),
                "attenuator": (ScpiStepAttenuator, self.addresses.attenuator, "attenuator"),
                "meter": (ScpiPowerMeter, self.addresses.meter, "power_meter"),
                "hands": (ScpiInstrument, PRACTICE, "range_hands"),
                "receiver": (ScpiDisplay, PRACTICE, "receiver"),
            }
            driver, address, practice = drivers[which]
            if address == PRACTICE:
                assert self.practice is not None
                address = getattr(self.practice, practice).address
            self._open[which] = driver.at(address)
        return self._open[which]

    def close(self) -> None:
        """Switch the source off and let go of everything; never raises."""
        from tallmast.instruments.driver import InstrumentError

        source = self._open.get("source")
        if source is not None:
            with suppress(InstrumentError):  # it does not answer any more; there is nothing else to be done
                source.switch(False)
        for made in self._open.values():
            made.close()
        self._open = {}
        if self.practice is not None:
            self.practice.stop()
            self.practice = None


class GuidedPanel(Card):
    """Base of the guided runs: what is so, what to do next, the keys."""

    left = Signal()
    sheet_asked = Signal(str)
    title = ""
    KEYS: tuple[tuple[str, str, str], ...] = ()

    def __init__(self, session: Session, paper: Paper) -> None:
        super().__init__(self.title)
        self.session, self.paper = session, paper
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(
            f"{self.title}: " + ", ".join(f"{k} {words}" for k, words, _ in self.KEYS) + ", Escape leaves"
        )
        self.said = label("", "sentence", wrap=True)
        self.said.setAccessibleName("Now")
        self.todo = label("", "detail", wrap=True)
        self.todo.setAccessibleName("What to do")
        self.box.addWidget(self.said)
        self.box.addWidget(self.todo)
        self.build()
        row = Flow(5)
        self._acts: dict[str, Callable[[], object]] = {}
        for key, words, name in self.KEYS:
            act: Callable[[], object] = getattr(self, name)
            self._acts[key] = act
            part = button(f"{words}  {key}", act, name="key")
            part.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            part.setAccessibleName(words)
            row.add(part)
        self.box.addWidget(row)
        self.range = Range(Addresses())
        self.busy = False

    def build(self) -> None:
        """More parts between the words and the keys."""

    def tell(self, said: str, todo: str) -> None:
        self.said.setText(said)
        self.todo.setText(todo)

    def do(self, what: str, job: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Something on the instruments, on a worker; a fault is told, and the run stands where it stood."""
        if self.busy:
            return
        self.busy = True

        def finished(result: Any, error: Exception | None) -> None:
            self.busy = False
            if error is not None:
                self.session.trouble.emit(f"{error} What was read is still here; try again.")
            else:
                self.session.trouble.emit("")
                done(result)

        self.session.work(what, job, finished)

    def use(self, addresses: Addresses) -> None:
        """Other instruments."""
        old, self.range = self.range, Range(addresses)
        self.session.work("Changing instruments", old.close, lambda result, error: None)

    def leave(self) -> None:
        self.left.emit()

    def close_all(self) -> None:
        self.range.close()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        names = {
            Qt.Key.Key_Space: "Space",
            Qt.Key.Key_Return: "Enter",
            Qt.Key.Key_Enter: "Enter",
            Qt.Key.Key_Backspace: "Backspace",
        }
        key = names.get(Qt.Key(event.key()), event.text().upper())
        act = self._acts.get(key)
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
        elif act is not None and not event.modifiers() & ~(
            Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier
        ):
            act()
        else:
            super().keyPressEvent(event)
