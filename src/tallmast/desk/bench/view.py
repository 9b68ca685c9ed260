"""The Bench's view."""

from __future__ import annotations

from PySide6.QtCore import QTimer

from tallmast.figures.bench import RibbonPicture, SwrPicture
from tallmast.figures.paper import MARKS
from tallmast.findings.bench import AntennaBench
from tallmast.findings.climb import Climb
from tallmast.units import show

from ..parts import Card, Cell, Ledger, figure_cell
from ..rung_view import RungView


class BenchView(RungView):
    rung = "bench"
    acts = ("bring in", "meter reading", "new state")

    def build(self) -> None:
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

    def fill(self, climb: Climb) -> None:
        finding = climb.bench
        self.set_picture(self.card, self.view, SwrPicture(finding=finding))
        self.set_picture(self.ribbon_card, self.ribbon, RibbonPicture(finding=finding))
        self.card.setVisible(bool(finding.antennas))
        self.ribbon_card.setVisible(any(b.sweep for b in finding.antennas))
        focus = finding.focus
        if focus is None or (focus.sweep is None and not focus.meters):
            self.readings_card.hide()
            return
        self.readings_card.show()
        self.readings_card.set_title(
            f"{focus.antenna.name}: readings at {show.frequency(finding.at_hz)}, and by meter; drag along the curve to read elsewhere, Enter opens a row"
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
