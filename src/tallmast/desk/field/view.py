"""The Field's view."""

from __future__ import annotations

from typing import Any, cast

from PySide6.QtWidgets import QHBoxLayout

from tallmast.figures.field import DistancePicture, MapPicture
from tallmast.figures.paper import MARKS
from tallmast.findings.climb import Climb
from tallmast.findings.field.runs import FACTORS, RunRow
from tallmast.findings.field.tell import PlaceFix
from tallmast.notebook.records import ListeningEnd, Run
from tallmast.units import show

from ..parts import Card, Cell, Ledger
from ..rung_view import RungView
from .live import LiveRun


class FieldView(RungView):
    rung = "field"
    acts = ("run", "reading", "live", "place", "bring in")

    def build(self) -> None:
        self.live = LiveRun(self.session, self.paper)
        self.live.hide()
        self.live.left.connect(self.stop_live)
        self.box.addWidget(self.live)
        row = QHBoxLayout()
        row.setSpacing(8)
        self.map_card, self.map = self.picture("mapPicture")
        self.level_card, self.level = self.picture("distancePicture")
        row.addWidget(self.map_card, 4)
        row.addWidget(self.level_card, 5)
        self.box.addLayout(row, 1)
        self.runs_card = Card("What changed between runs, against the baseline of each manner")
        self.runs = Ledger("runs", self.paper)
        self.runs.picked.connect(self.pick)
        self.runs.opened_row.connect(self.window_.open_record)
        self.runs_card.box.addWidget(self.runs)
        self.box.addWidget(self.runs_card)
        self.reports_card = Card("Reports from both ends: Enter opens one")
        self.reports = Ledger("reports", self.paper)
        self.reports.picked.connect(self.pick)
        self.reports.opened_row.connect(self.window_.open_record)
        self.reports_card.box.addWidget(self.reports)
        self.box.addWidget(self.reports_card)
        self.picked_place = ""

    def carried(self) -> object | None:
        return self.live.carried()

    def carry_on(self, state: object) -> None:
        self.live.carry_on(cast("tuple[Run, ListeningEnd, int, str]", state))

    def start_live(self) -> None:
        runs = self.session.evidence.runs
        if not runs:
            self.window_.act("run")
            return
        self.live.start(runs[-1])

    def stop_live(self) -> None:
        self.live.hide()
        self.runs.setFocus()

    def pick(self, payload: Any) -> None:
        if isinstance(payload, PlaceFix):
            self.picked_place = payload.place.id
            self.session.pick(payload.distance)
            if self.session.climb:
                self._pictures(self.session.climb)
        else:
            super().pick(payload)

    def _pictures(self, climb: Climb) -> None:
        finding, evidence = climb.field, climb.evidence
        far = evidence.far_end
        self.set_picture(
            self.map_card,
            self.map,
            MapPicture(
                finding=finding,
                picked=self.picked_place,
                wanted_bearing_deg=evidence.question.wanted_bearing_deg if evidence.question else None,
                clear=climb.levels.clear,
            ),
        )
        self.set_picture(
            self.level_card,
            self.level,
            DistancePicture(
                finding=finding,
                antennas=tuple(evidence.antennas),
                sensitivity_dbm=far.sensitivity_dbm if far else None,
                picked=self.picked_place,
            ),
        )

    def fill(self, climb: Climb) -> None:
        finding = climb.field
        self.map_card.setVisible(finding.home is not None)
        self.level_card.setVisible(finding.home is not None)
        self.runs_card.setVisible(bool(finding.rows))
        self.reports_card.setVisible(bool(finding.reports))
        if finding.home is None:
            return
        self._pictures(climb)
        # What is the same in every run needs no column: it is said once, in the title.
        values = {f: {row.factors[f] for row in finding.rows} for f in FACTORS}
        factors = [f for f in FACTORS if f == "antenna" or len(values[f]) > 1]
        same = [f"{f} {next(iter(values[f]))}" for f in FACTORS if f not in factors and values[f] - {""}]
        all_alike = f"; alike in all: {', '.join(same)}" if same and len(finding.rows) > 1 else ""
        self.runs_card.set_title(f"What changed between runs, against the baseline of each manner{all_alike}")
        reach = {r.row.run.id: r for r in finding.reaches}
        rows = [self._run_cells(row, factors, reach) for row in finding.rows]
        self.runs.fill(
            ["Run", "Manner", *(f.capitalize() for f in factors), "Can be compared", "Heard to"],
            rows,
            [row.run for row in finding.rows],
        )
        cells, records = [], []
        for report in finding.reports:
            ends = [report.away, report.home]
            cells.append(
                [
                    Cell(f"run {report.run.run.number}, {report.run.antenna}"),
                    Cell(report.place.name, next((p for p in finding.places if p.place.id == report.place.id), None)),
                    *(
                        Cell(e.as_typed or ("heard" if e.heard else "not heard"), mono=True)
                        if e
                        else Cell("–", ink="soft")
                        for e in ends
                    ),
                    Cell("; ".join(dict.fromkeys(e.note for e in ends if e and e.note)) or "–", ink="soft"),
                ]
            )
            records.append(report.away or report.home)
        self.reports.fill(["Run", "At", "Far end heard", "Home end heard", "Note"], cells, records)

    def _run_cells(self, row: RunRow, factors: list[str], reach: dict[str, Any]) -> list[Cell | str]:
        several = row.verdict == "several things"
        cells: list[Cell | str] = [Cell(str(row.run.number), mono=True), Cell(row.run.manner, ink="soft")]
        for factor in factors:
            changed = factor in row.changed
            wash = ("fails_wash" if several else "sea") if changed else ""
            cells.append(
                Cell(row.factors[factor] or "–", bold=changed, wash=wash, ink="" if row.factors[factor] else "soft")
            )
        mark = "fails" if several else "open" if row.verdict == "baseline" or not row.compared else "holds"
        words = f"{MARKS[mark]} {row.words}" if row.verdict != "baseline" else "baseline"
        cells.append(Cell(words, ink={"fails": "fails", "holds": "holds"}.get(mark, "soft"), bold=several))
        mine = reach.get(row.run.id)
        if mine:
            text = show.distance(mine.furthest.value)
            cells.append(Cell(f"at least {text}" if mine.furthest.bound else text, mine.furthest, mono=True))
        else:
            cells.append(Cell("–", ink="soft"))
        return cells
