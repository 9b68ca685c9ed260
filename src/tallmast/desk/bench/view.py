"""The Bench's view."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer

from tallmast.figures.bench import RibbonPicture, SwrPicture
from tallmast.figures.paper import MARKS
from tallmast.findings.bench import AntennaBench
from tallmast.findings.bench.live import newest_fixture
from tallmast.findings.climb import Climb
from tallmast.instruments.driver import makers
from tallmast.instruments.scpi import resources
from tallmast.units import show

from ..parts import Card, Cell, Ledger, figure_cell
from ..rung_view import RungView
from . import forms
from .live import LiveBench


class BenchView(RungView):
    rung = "bench"
    acts = ("analyzer", "bring in", "meter reading", "new state")

    def build(self) -> None:
        self.live = LiveBench(self.session, self.paper)
        self.live.hide()
        self.live.left.connect(self.stop_live)
        self.live.sheet_asked.connect(self._sheet)
        self.box.addWidget(self.live, 2)
        self.card, self.view = self.picture("swrPicture")
        self.view.dragged.connect(self._drag)
        self.box.addWidget(self.card, 3)
        self.ribbon_card, self.ribbon = self.picture("ribbonPicture")
        self.box.addWidget(self.ribbon_card)
        self.readings_card = Card()
        self.readings = Ledger("readings", self.paper)
        self.readings.picked.connect(self.pick)
        self.readings.opened_row.connect(self.window_.open_record)
        self.readings_card.box.addWidget(self.readings)
        self.box.addWidget(self.readings_card)
        self._wanted_hz = 0.0
        self._after = QTimer(self)
        self._after.setSingleShot(True)
        self._after.setInterval(30)
        self._after.timeout.connect(lambda: self.session.aim(at_hz=self._wanted_hz))

    def _drag(self, frequency_hz: float) -> None:
        """Read off at another frequency; the findings follow when the hand rests for a moment."""
        self._wanted_hz = frequency_hz
        self._after.start()

    def start_live(self) -> None:
        self.live.open()
        self.lay_out()
        self.verticalScrollBar().setValue(0)

    def stop_live(self) -> None:
        """Fold the panel away; the line stays open, and nothing is swept meanwhile."""
        if self.live.loop is not None:
            self.live.loop.pause()
        self.live.hide()
        self.lay_out()
        self.window_.stand()

    def take_keyboard(self) -> bool:
        if self.live.isVisible():
            self.live.setFocus(Qt.FocusReason.OtherFocusReason)
            return True
        return False

    def _sheet(self, name: str) -> None:
        live, session = self.live, self.session
        if name == "plan":
            form = forms.plan_form(live.plan, live.set_plan)
        elif name == "fixture":
            form = forms.fixture_form(session, newest_fixture(session.evidence))
        elif name == "cut":
            advice = session.climb.bench.focus.advice if session.climb and session.climb.bench.focus else ""
            form = forms.cut_off_form(f"{show.upper_first(advice)}." if advice else "", live.cut_off)
        else:
            self._ask_for_analyzer()
            return
        self.window_.write(form)

    def _ask_for_analyzer(self) -> None:
        """Looking for instruments takes a while on some machines, so it goes on a worker."""

        def asked(found: tuple[list[str], list[str]] | None, error: Exception | None) -> None:
            addresses, drivers = found or ([], ["SCPI"])
            self.window_.write(forms.connect_form(addresses, drivers, self.live.address, self.live.connect_to))

        self.session.work("Looking for instruments", lambda: (resources(), list(makers())), asked)

    def let_go(self) -> None:
        self.live.close_all()

    def fill(self, climb: Climb) -> None:
        finding = climb.bench
        if self.live.isVisible():
            self.live.refresh()
        self.set_picture(self.card, self.view, SwrPicture(finding=finding))
        self.set_picture(self.ribbon_card, self.ribbon, RibbonPicture(finding=finding))
        self.card.setVisible(bool(finding.antennas))
        self.ribbon_card.setVisible(any(b.sweep for b in finding.antennas))
        focus = finding.focus
        if focus is None or (focus.sweep is None and not focus.meters):
            self.readings_card.hide()
            return
        self.readings_card.show()
        more = f"; {show.count(focus.unread, 'older sweep')} of the same states besides" if focus.unread else ""
        self.readings_card.set_title(
            f"{focus.antenna.name}: readings at {show.frequency(finding.at_hz)}, and by meter; drag along the curve to read elsewhere, Enter opens a row{more}"
        )
        rows, records = _rows(focus)
        self.readings.fill(["Source", "State", "SWR", "Return loss", "Impedance", "Fixture", ""], rows, records)


def _rows(focus: AntennaBench) -> tuple[list[list[Cell | str]], list[object]]:
    rows: list[list[Cell | str]] = []
    records: list[object] = []
    readings = [r for r in (focus.sweep, *reversed(focus.earlier)) if r is not None]
    for r in readings:
        z = r.impedance_ohm
        impedance = f"{z.real:.0f} {'+' if z.imag >= 0 else '−'} j{abs(z.imag):.0f} Ω"
        resonance = (
            f"resonates at {show.frequency(r.resonance_hz, 1)}" if r.resonance_hz else "resonance outside the sweep"
        )
        rows.append(
            [
                Cell(r.sweep.source, r.at),
                r.state,
                figure_cell(r.at),
                Cell(f"{r.return_loss_db:.1f} dB", r.at, mono=True),
                Cell(impedance, r.at, mono=True),
                Cell(r.sweep.fixture or "–", ink="soft"),
                Cell(resonance, ink="soft"),
            ]
        )
        records.append(r.sweep)
    for m in focus.meters:
        reading = m.reading
        rows.append(
            [
                Cell(f"meter at {show.frequency(reading.frequency_hz)}", m.figure),
                focus.antenna.state_name(reading.state_id),
                figure_cell(m.figure),
                "–",
                "–",
                Cell(reading.fixture or "–", ink="soft"),
                Cell(
                    f"{MARKS[m.mark]} {m.words.removeprefix('meter ')}",
                    m.analyzer,
                    ink={"holds": "holds", "disagrees": "doubt"}.get(m.mark, "soft"),
                ),
            ]
        )
        records.append(reading)
    return rows, records
