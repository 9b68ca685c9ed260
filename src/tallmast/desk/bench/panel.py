"""The analyzer's panel: the live curve over its keys."""

from __future__ import annotations

from tallmast.figures.live import LiveFrame
from tallmast.figures.paper import Paper
from tallmast.procedures.analyzer import Analyzer

from ..session import Session
from ..sheets.key_panel import KeyPanel
from .live_view import LiveView
from .sweeping import SweepLines


class AnalyzerPanel(KeyPanel[Analyzer]):
    def __init__(self, session: Session, paper: Paper) -> None:
        self.lines = SweepLines(session)
        super().__init__(Analyzer(session, self.lines), paper)
        self.lines.listener = self.procedure
        self.procedure.on_reading = self._arrived

    def build(self) -> None:
        self.said.setAccessibleName("Live reading")
        self.view = LiveView(self.procedure, self.paper)
        self.box.addWidget(self.view, 1)

    def _arrived(self) -> None:
        self.said.setText(self.procedure.said)
        self.view.update()

    def refresh(self) -> None:
        super().refresh()
        analyzer = self.procedure
        antenna = analyzer.place.focus_antenna
        self.view.show_frame(
            LiveFrame(
                analyzer.plan.start_hz,
                analyzer.plan.stop_hz,
                analyzer.place.question,
                antenna.slot if antenna else 0,
                antenna.name if antenna else "nothing",
            )
        )
