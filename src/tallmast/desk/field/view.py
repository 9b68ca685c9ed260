"""The Field's view."""

from __future__ import annotations

import math
from typing import Any, cast

from PySide6.QtWidgets import QHBoxLayout, QWidget

from tallmast.figures.calls import CallsPicture
from tallmast.figures.contrasts import DecisionPicture
from tallmast.figures.field import DistancePicture, MapPicture
from tallmast.figures.ground import GroundPicture
from tallmast.figures.traces import HowOftenPicture, TracesPicture
from tallmast.findings.climb import Climb
from tallmast.findings.field.decision import decision_of
from tallmast.findings.field.fixes import PlaceFix
from tallmast.findings.tables import field as tables
from tallmast.procedures.run_by_keys import RunByKeys, State

from ..rung_view import RungView
from ..sheets.key_panel import KeyPanel


class FieldView(RungView):
    rung = "field"
    acts = ("run", "calls", "reading", "live", "place", "bring in")

    def build(self) -> None:
        self.live = KeyPanel(RunByKeys(self.session), self.paper)
        self.live.hide()
        self.live.left.connect(self.stop_live)
        self.box.addWidget(self.live)
        self.decision_card, self.decision = self.picture("decisionPicture")
        self.box.addWidget(self.decision_card)
        self.pictures = QWidget()
        row = QHBoxLayout(self.pictures)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        self.map_card, self.map = self.picture("mapPicture")
        self.level_card, self.level = self.picture("distancePicture")
        self.calls_card, self.calls = self.picture("callsPicture")
        row.addWidget(self.map_card, 4)
        row.addWidget(self.level_card, 5)
        self.box.addWidget(self.calls_card)
        self.recorded = QWidget()
        both = QHBoxLayout(self.recorded)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(8)
        self.traces_card, self.traces = self.picture("tracesPicture")
        self.often_card, self.often = self.picture("oftenPicture")
        both.addWidget(self.traces_card, 6)
        both.addWidget(self.often_card, 4)
        self.box.addWidget(self.recorded)
        self.box.addWidget(self.pictures, 1)
        self.ground_card, self.ground = self.picture("groundPicture")
        self.box.addWidget(self.ground_card)
        self.contrasts = self.table("contrasts")
        self.stretches = self.table("stretches")
        self.runs = self.table("runs")
        self.reports = self.table("reports")
        self.picked_place = ""

    @property
    def panel_keys(self) -> list[tuple[str, str]]:
        return [(key, f"run on: {what}") for key, what in RunByKeys.key_words()]

    def carried(self) -> object | None:
        return None if self.live.isHidden() else self.live.procedure.state

    def carry_on(self, state: object) -> None:
        self.live.procedure.state = cast("State", state)
        self.live.open()

    def take_keyboard(self) -> bool:
        if not self.live.isHidden():
            self.live.take_keyboard()
        return not self.live.isHidden()

    def start_live(self) -> None:
        runs = self.session.evidence.runs
        if not runs:
            self.frame_.act("run")
            return
        self.live.procedure.start(runs[-1])
        self.open_panel(self.live)

    def stop_live(self) -> None:
        self.live.hide()
        # To what was just noted, where that is seen; the table of runs lies far below it.
        (self.calls if self.calls.isVisible() else self.runs.ledger).setFocus()

    def pick(self, payload: Any) -> None:
        if isinstance(payload, PlaceFix):
            self.picked_place = payload.place.id
            self.session.pick(payload.distance)
            if self.shown:
                self._pictures(self.shown)
        else:
            super().pick(payload)

    def _pictures(self, climb: Climb) -> None:
        finding, evidence = climb.field, climb.evidence
        far = evidence.far_end
        absolute = finding.main is not None and math.isfinite(finding.main.shared_u_db)
        self.set_picture(
            self.map_card,
            self.map,
            MapPicture(
                finding=finding,
                picked=self.picked_place,
                wanted_bearing_deg=evidence.question.wanted_bearing_deg if evidence.question else None,
                clear=climb.clear,
            ),
        )
        self.set_picture(
            self.level_card,
            self.level,
            DistancePicture(
                finding=finding,
                antennas=tuple(evidence.antennas),
                sensitivity_dbm=far.sensitivity_dbm if far and absolute else None,
                picked=self.picked_place,
            ),
        )

    def fill(self, climb: Climb) -> None:
        finding = climb.field
        self.pictures.setVisible(finding.home is not None or bool(finding.places))
        # Where nothing was heard at a known distance, the map has the room.
        noted = finding.samples or finding.reports or finding.traces or finding.contrasts
        self.level_card.setVisible(finding.along_the_way or not noted)
        decision = decision_of(finding)
        self.decision_card.setVisible(decision is not None)
        if decision is not None:
            picture = DecisionPicture(decision=decision, antennas=tuple(climb.evidence.antennas))
            self.set_picture(self.decision_card, self.decision, picture)
        self.calls_card.setVisible(finding.calls is not None)
        if finding.calls is not None:
            calls = CallsPicture(calls=finding.calls, antennas=tuple(climb.evidence.antennas))
            self.set_picture(self.calls_card, self.calls, calls)
        laid = finding.laid
        self.recorded.setVisible(laid is not None)
        if laid is not None:
            antennas = tuple(climb.evidence.antennas)
            self.set_picture(self.traces_card, self.traces, TracesPicture(aligned=laid, antennas=antennas))
            self.set_picture(self.often_card, self.often, HowOftenPicture(aligned=laid, antennas=antennas))
        ground = finding.ground
        shown = ground is not None and ground.shown(self.session.hidden)
        self.ground_card.setVisible(shown)
        if ground is not None and shown:
            picture_of = GroundPicture(ground=ground, antennas=tuple(climb.evidence.antennas))
            self.set_picture(self.ground_card, self.ground, picture_of)
        self.stretches.show_table(tables.stretches(finding))
        self.contrasts.show_table(tables.contrasts(finding))
        self.runs.show_table(tables.runs(finding))
        self.reports.show_table(tables.reports(finding))
        if finding.home is not None or finding.places:
            self._pictures(climb)
