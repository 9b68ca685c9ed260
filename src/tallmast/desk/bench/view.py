"""The Bench's view."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Any, cast

from PySide6.QtCore import QTimer

from tallmast.figures.bench import RibbonPicture, SwrPicture, frequency_span
from tallmast.figures.bench_cable import AlongPicture
from tallmast.figures.bench_ladder import LadderPicture
from tallmast.figures.bench_views import PlanePicture, QuantityPicture
from tallmast.figures.picture import Picture
from tallmast.findings.bench import BenchFinding, MatchProposal
from tallmast.findings.bench.live import newest_fixture
from tallmast.findings.climb import Climb
from tallmast.findings.tables import bench as tables
from tallmast.instruments.driver import SweepPlan
from tallmast.notebook.records import Fixture
from tallmast.procedures.practising import PRACTICE
from tallmast.units import show

from ..parts import Switch
from ..rung_view import RungView
from ..sheets.record_sheet import form as record_form
from . import analyzer_forms
from .sheets import cable_form

if TYPE_CHECKING:
    from .panel import AnalyzerPanel

LOOKS = ("SWR", "return loss", "power accepted", "impedance", "reflection plane", "trimming ladder")


class BenchView(RungView):
    rung = "bench"
    acts = ("analyzer", "bring in", "meter reading", "new state")

    def build(self) -> None:
        self._live_at = self.box.count()
        self.card, self.view = self.picture("swrPicture")
        self.view.dragged.connect(self._drag)
        self.view.zoomed.connect(self._zoom_at)
        self.view.panned.connect(self._pan)
        self.view.nudged.connect(self._nudge)
        self.looks = Switch("Show", LOOKS, self._look)
        self.card.box.insertWidget(1, self.looks)
        self.span: tuple[float, float] | None = None
        """What part of the sweeps is shown; None: all."""
        self.box.addWidget(self.card, 3)
        self.ribbon_card, self.ribbon = self.picture("ribbonPicture")
        self.box.addWidget(self.ribbon_card)
        self.bands = self.table("bands")
        self.match = self.table("ways to match")
        self.over: MatchProposal | None = None
        self.cables = self.table("cables")
        self.cables.ledger.currentCellChanged.connect(lambda row, *_: self._show_along(row))
        self.along_card, self.along = self.picture("alongPicture")
        self.box.addWidget(self.along_card)
        self.readings = self.table("readings")
        self._wanted_hz = 0.0
        self._after = QTimer(self)
        self._after.setSingleShot(True)
        self._after.setInterval(30)
        self._after.timeout.connect(lambda: self.session.aim(at_hz=self._wanted_hz))

    def _drag(self, frequency_hz: float) -> None:
        """Read off at another frequency; the findings follow when the hand rests for a moment."""
        self._wanted_hz = frequency_hz
        self._after.start()

    def _nudge(self, up: int) -> None:
        """The same by keys, a hundredth of what is shown at a time."""
        whole, question = self._whole(), self.session.question
        if whole is None or question is None:
            return
        low, high = self.span or whole
        at = self._wanted_hz or self.session.aims.at_hz or question.centre_hz
        self._drag(min(max(at + up * (high - low) / 100.0, low), high))

    @cached_property
    def live(self) -> AnalyzerPanel:
        """The analyzer's panel, made when first wanted: it brings the instruments with it."""
        from .panel import AnalyzerPanel

        made = AnalyzerPanel(self.session, self.paper)
        made.hide()
        made.left.connect(self.stop_live)
        made.asked.connect(self._sheet)
        self.box.insertWidget(self._live_at, made, 2)
        return made

    @property
    def panel_keys(self) -> list[tuple[str, str]]:
        from tallmast.procedures.analyzer import Analyzer

        return [(key, f"sweeping: {what}") for key, what in Analyzer.key_words()]

    @property
    def sweeping(self) -> bool:
        """Whether the panel is open."""
        return "live" in self.__dict__ and self.live.isVisible()

    def start_live(self) -> None:
        self.open_panel(self.live)

    def stop_live(self) -> None:
        """Fold the panel away."""
        self.live.hide()
        self.lay_out()
        self.frame_.stand()

    def take_keyboard(self) -> bool:
        if self.sweeping:
            self.live.take_keyboard()
            return True
        return False

    def _sheet(self, name: str) -> None:
        live, session = self.live.procedure, self.session
        if name == "plan":
            form = analyzer_forms.plan_form(live.plan, self.late(lambda view: view.live.procedure.set_plan))
        elif name == "standards":
            assert live.calibration is not None
            form = analyzer_forms.standards_form(
                live.calibration.standards, self.late(lambda view: view.live.procedure.calibrating.set_standards)
            )
        elif name == "fixture":
            form = record_form(session, Fixture, newest_fixture(session.evidence))
        elif name == "cable":
            form = cable_form(session, self.late(lambda view: view.live.procedure.keep_cable))
        elif name == "cut":
            advice = self.shown.bench.focus.advice if self.shown and self.shown.bench.focus else ""
            form = analyzer_forms.cut_off_form(
                f"{show.upper_first(advice)}." if advice else "", self.late(lambda view: view.live.procedure.cut_off)
            )
        else:
            self._ask_for_analyzer()
            return
        self.frame_.write(form)

    def _connect(self, address: str, driver: str) -> None:
        """Take an analyzer, and remember where it is for the next time."""
        if address != PRACTICE:
            self.frame_.settings.analyzer = address
        self.live.procedure.connect_to(address, driver)

    def _ask_for_analyzer(self) -> None:
        """Looking for instruments takes a while on some machines, so it goes on a worker."""

        def asked(found: tuple[list[str], tuple[list[str], list[str]]] | None, error: Exception | None) -> None:
            addresses, (drivers, broken) = found or ([], (["SCPI"], []))
            last = self.frame_.settings.analyzer
            self.frame_.write(
                analyzer_forms.connect_form(addresses, drivers, last, self.late(lambda view: view._connect), broken)
            )

        from tallmast.instruments import drivers as there
        from tallmast.instruments.scpi import resources

        def look() -> tuple[list[str], tuple[list[str], list[str]]]:
            made, broken = there.found()
            return resources(), (list(made), broken)

        self.session.work("Looking for instruments", look, asked)

    def carried(self) -> object | None:
        if "live" not in self.__dict__ or self.live.isHidden():
            return None
        analyzer = self.live.procedure
        return (PRACTICE if analyzer.practising else analyzer.address, analyzer.driver, analyzer.plan)

    def carry_on(self, state: object) -> None:
        address, driver, plan = cast("tuple[str, str, SweepPlan]", state)
        self.live.show()
        self.live.procedure.connect_to(address, driver)
        self.live.procedure.set_plan(plan)
        self.lay_out()

    def let_go(self) -> None:
        if "live" in self.__dict__:
            self.live.let_go()

    def pick(self, payload: Any) -> None:
        if isinstance(payload, MatchProposal):
            # Drawn over the curve, with its working.
            self.over = payload
            self.session.pick(payload.worst)
            self._look(self.looks.chosen)
        else:
            super().pick(payload)

    def _fill_cables(self, finding: BenchFinding) -> None:
        self.cables.show_table(tables.cables(finding))
        at, last = self.cables.ledger.currentRow(), len(finding.cables) - 1
        self._show_along(at if 0 <= at <= last else last)

    def _show_along(self, row: int) -> None:
        """What comes back from where along the cable in a row."""
        cables = self.shown.bench.cables if self.shown else ()
        self.along_card.setVisible(0 <= row < len(cables))
        if 0 <= row < len(cables):
            self.set_picture(self.along_card, self.along, AlongPicture(cable=cables[row]))
            self.lay_out()

    def _look(self, look: str) -> None:
        if self.shown:
            self._picture(self.shown.bench)
            self.lay_out()

    def look_next(self) -> None:
        """The next way to look at the sweeps."""
        self.looks.next()

    def _picture(self, finding: BenchFinding) -> None:
        look, picture = self.looks.chosen, Picture()
        if look == "SWR":
            picture = SwrPicture(finding=finding, span_hz=self.span, over=self.over)
        elif look == "trimming ladder":
            picture = LadderPicture(finding=finding)
        elif look == "reflection plane":
            picture = PlanePicture(finding=finding)
        else:
            picture = QuantityPicture(finding=finding, quantity=look, span_hz=self.span)
        self.set_picture(self.card, self.view, picture)

    def _whole(self) -> tuple[float, float] | None:
        finding = self.shown.bench if self.shown else None
        if finding is None or not any(b.sweep for b in finding.antennas):
            return None
        hidden = self.session.hidden
        return frequency_span([b for b in finding.antennas if b.antenna.id not in hidden], finding.band_hz)

    def zoom(self, factor: float, about_hz: float | None = None) -> None:
        """Show less (factor over 1) or more of the sweeps, about a frequency; 0: all of it."""
        whole = self._whole()
        if whole is None:
            return
        if factor <= 0:
            self.span = None
        else:
            low, high = self.span or whole
            about = about_hz if about_hz is not None else (self.session.aims.at_hz or (low + high) / 2)
            about = min(max(about, low), high)
            low, high = about - (about - low) / factor, about + (high - about) / factor
            self._set_span(low, high, whole)
        self._look(self.looks.chosen)

    def _set_span(self, low: float, high: float, whole: tuple[float, float]) -> None:
        width = min(max(high - low, 1e-5 * high), whole[1] - whole[0])
        low = min(max(low, whole[0]), whole[1] - width)
        self.span = None if width >= whole[1] - whole[0] else (low, low + width)

    def _hz_at(self, x: float) -> float | None:
        return self.view.picture.drag(x, 0.0) if self.view.picture else None

    def _zoom_at(self, factor: float, x: float) -> None:
        self.zoom(factor, self._hz_at(x))

    def _pan(self, pixels: float) -> None:
        whole, here, there = self._whole(), self._hz_at(0.0), self._hz_at(pixels)
        if whole is None or here is None or there is None or self.span is None:
            return
        self._set_span(self.span[0] - (there - here), self.span[1] - (there - here), whole)
        self._look(self.looks.chosen)

    def fill(self, climb: Climb) -> None:
        finding = climb.bench
        if self.sweeping:
            self.live.procedure.refresh()
        self.over = next((m for m in finding.matches if self.over and m.title == self.over.title), None)
        self._picture(finding)
        self.bands.show_table(tables.bands(climb.bands), "; looks at the next band" if climb.bands else "")
        self.match.show_table(tables.matches(finding), "Enter draws one over the curve")
        self._fill_cables(finding)
        self.set_picture(self.ribbon_card, self.ribbon, RibbonPicture(finding=finding))
        self.card.setVisible(any(b.sweep or b.meters for b in finding.antennas))
        self.ribbon_card.setVisible(any(b.sweep for b in finding.antennas))
        focus = finding.focus
        if focus is None or (focus.sweep is None and not focus.meters):
            self.readings.hide()
            return
        hint = "drag along the curve, or Shift ↑ ↓, to read elsewhere" if focus.sweep is not None else ""
        self.readings.show_table(tables.readings(finding, focus), hint)
