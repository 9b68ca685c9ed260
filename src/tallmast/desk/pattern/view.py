"""The Pattern's view."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property, partial
from typing import TYPE_CHECKING, Any

from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from tallmast.figures.all_directions import AllDirectionsPicture
from tallmast.figures.by_elevation import ByElevationPicture
from tallmast.figures.ellipse import EllipsePicture
from tallmast.figures.own_turn import OwnTurnPicture
from tallmast.figures.pairs import PairsPicture, TurnedPicture
from tallmast.figures.pattern import PolarPicture
from tallmast.figures.picture import Picture
from tallmast.findings.climb import Climb
from tallmast.findings.pattern import PatternFinding
from tallmast.findings.tables import pattern as tables

from ..parts import LookRow
from ..picture_view import PictureView
from ..rung_view import RungView
from ..sheets.key_panel import KeyPanel

if TYPE_CHECKING:
    from tallmast.procedures.turn_by_keys import TurnByKeys

    from .panel import TurningPanel

BOTH_FROM = 1080
"""Pixels from which on two pictures stand side by side."""


def _cut(plane: str, field: bool, finding: PatternFinding) -> Picture | None:
    if not any(c.plane == plane for a in finding.antennas for c in a.cuts):
        return None
    return PolarPicture(finding=finding, plane=plane, field=field)


def _own(finding: PatternFinding) -> Picture | None:
    if finding.own is None:
        return None
    return OwnTurnPicture(turns=finding.own)


def _all_directions(finding: PatternFinding) -> Picture | None:
    return AllDirectionsPicture(maps=finding.direction_maps) if finding.direction_maps else None


def _own_directions(finding: PatternFinding) -> Picture | None:
    return AllDirectionsPicture(maps=finding.own_maps) if finding.own_maps else None


def _by_elevation(finding: PatternFinding) -> Picture | None:
    side = finding.side_of_focus
    return ByElevationPicture(side=side) if side is not None else None


def _polarization(finding: PatternFinding) -> Picture | None:
    read = finding.focus.polarized if finding.focus is not None else None
    return EllipsePicture(reading=read) if read is not None else None


def _pairs(finding: PatternFinding) -> Picture | None:
    return PairsPicture(pairs=finding.pairs) if finding.pairs is not None else None


def _turned(finding: PatternFinding) -> Picture | None:
    return TurnedPicture(pairs=finding.pairs) if finding.pairs is not None else None


LOOKS: dict[str, Callable[[PatternFinding], Picture | None]] = {
    "azimuth": partial(_cut, "azimuth", False),
    "elevation": partial(_cut, "elevation", False),
    "own scale": _own,
    "all directions": _all_directions,
    "all directions, own scale": _own_directions,
    "by elevation": _by_elevation,
    "polarization": _polarization,
    "pairs": _pairs,
    "bank and pitch": _turned,
    "azimuth, E/Emax": partial(_cut, "azimuth", True),
    "elevation, E/Emax": partial(_cut, "elevation", True),
}
"""Every way to look at the rung, in this order; each makes its picture, or none where there is nothing of that kind."""


class PatternView(RungView):
    rung = "pattern"
    acts = ("turn", "turn keys", "run", "turntable", "range gain", "craft", "bring in")

    def build(self) -> None:
        self.chosen: str | None = None
        """Chosen by a person; None: what is spoken of."""
        self._there: list[str] = []
        self._panel_at = self.box.count()
        self._held_deg: float | None = None
        """Where a hand took hold of all directions."""
        self.turned_deg = 0.0
        """So far all directions are turned."""
        self.card, self.view = self.picture("polarPicture")
        self.looks = LookRow(LOOKS)
        self.looks.chosen.connect(self._turn)
        self.card.box.insertWidget(1, self.looks)
        self.beside_card, self.beside = self.picture("besidePicture")
        """The next way to look, where the window is wide enough for both."""
        for view in (self.view, self.beside):
            view.dragged.connect(partial(self._hold, view))
            view.released.connect(self._let_loose)
            view.panned.connect(partial(self._pan, view))
        self.pictures = QWidget()
        both = QHBoxLayout(self.pictures)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(8)
        both.addWidget(self.card, 1)
        both.addWidget(self.beside_card, 1)
        self.box.addWidget(self.pictures, 1)
        self.cuts = self.table("cuts")
        self.towards = self.table("towards")
        self.polarized = self.table("polarized")
        self.range_gains = self.table("range gains")
        self.budget = self.table("budget")
        self.covered = self.table("covered")
        self.branches = self.table("branches")

    @cached_property
    def turning(self) -> TurningPanel:
        """Made when it is first wanted."""
        from tallmast.procedures.turning import Turning

        from .panel import TurningPanel

        made = TurningPanel(Turning(self.session), self.paper)
        made.hide()
        made.left.connect(self._leave_panel)
        made.asked.connect(self._sheet)
        self.box.insertWidget(self._panel_at, made, 2)
        return made

    @cached_property
    def keyed(self) -> KeyPanel[TurnByKeys]:
        """Made when it is first wanted."""
        from tallmast.procedures.turn_by_keys import TurnByKeys

        made = KeyPanel(TurnByKeys(self.session), self.paper)
        made.hide()
        made.left.connect(self._leave_panel)
        self.box.insertWidget(self._panel_at, made)
        return made

    @property
    def _panels(self) -> list[KeyPanel[Any]]:
        """Those that were made."""
        return [self.__dict__[name] for name in ("turning", "keyed") if name in self.__dict__]

    @property
    def panel_keys(self) -> list[tuple[str, str]]:
        from tallmast.procedures.turn_by_keys import TurnByKeys
        from tallmast.procedures.turning import Turning

        return [
            *((key, f"turntable: {what}") for key, what in Turning.key_words()),
            *((key, f"a turn: {what}") for key, what in TurnByKeys.key_words() if not key.isdigit()),
        ]

    def start_turning(self) -> None:
        self._start("turning")

    def start_keyed(self) -> None:
        self._start("keyed")

    def _start(self, name: str) -> None:
        if self.session.focus_antenna is None:
            self.frame_.act("add antenna")
            return
        for panel in self._panels:
            panel.hide()
        self.open_panel(getattr(self, name))

    def _hold(self, view: PictureView, at_deg: float) -> None:
        """All directions follow the hand."""
        if self._held_deg is not None:
            self._turn_by(view, self._held_deg - at_deg)
        self._held_deg = at_deg

    def _let_loose(self) -> None:
        self._held_deg = None

    def _pan(self, view: PictureView, pixels: float) -> None:
        picture = view.picture
        if isinstance(picture, AllDirectionsPicture):
            self._turn_by(view, -pixels / max(picture.scale, 1e-9))

    def _turn_by(self, view: PictureView, degrees: float) -> None:
        picture = view.picture
        if isinstance(picture, AllDirectionsPicture):
            self.turned_deg = (self.turned_deg + degrees) % 360.0
            picture.turned_deg = self.turned_deg
            view.repaint_picture()

    def _leave_panel(self) -> None:
        """Fold the panel away; what it has read stays in it."""
        for panel in self._panels:
            panel.hide()
        self.lay_out()
        self.frame_.stand()

    def _sheet(self, name: str) -> None:
        from ..levels.guided_forms import instruments_form

        turning = self.turning.procedure
        self.frame_.write(instruments_form(turning.range.addresses, self.late(lambda view: view.turning.procedure.use)))

    def take_keyboard(self) -> bool:
        front = next((panel for panel in self._panels if panel.isVisibleTo(self)), None)
        if front is not None:
            front.take_keyboard()
        return front is not None

    def let_go(self) -> None:
        for panel in self._panels:
            panel.let_go()

    def carried(self) -> object | None:
        return self.chosen

    def carry_on(self, state: object) -> None:
        self.chosen = str(state)

    def _show_beside(self) -> None:
        wide = self.viewport().width() >= BOTH_FROM * self.paper.scale
        self.beside_card.setVisible(len(self._there) > 1 and wide)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._show_beside()
        super().resizeEvent(event)

    def _turn(self, look: str) -> None:
        self.chosen = look
        if self.shown:
            self.show_climb(self.shown)

    def look_next(self) -> None:
        """The next picture there is."""
        if len(self._there) > 1:
            shown = self._shown()
            self._turn(self._there[(self._there.index(shown) + 1) % len(self._there)])

    def _shown(self) -> str:
        return self.chosen if self.chosen in self._there else self._there[0]

    def fill(self, climb: Climb) -> None:
        finding = climb.pattern
        made = {look: picture for look, make in LOOKS.items() if (picture := make(finding)) is not None}
        self._there = finding.looks_first(list(made))
        self.pictures.setVisible(bool(made))
        self.cuts.show_table(tables.cuts(finding))
        self.towards.show_table(tables.towards(finding), "")
        self.polarized.show_table(tables.polarized(finding))
        self.range_gains.show_table(tables.range_gains(finding))
        self.budget.show_table(tables.budget(finding), "")
        self.covered.show_table(tables.covered(finding), "")
        self.branches.show_table(tables.branches(finding))
        if not made:
            return
        for round_ in made.values():
            if isinstance(round_, AllDirectionsPicture):
                round_.turned_deg = self.turned_deg
        shown = self._shown()
        self.looks.offer(made, shown)
        self.set_picture(self.card, self.view, made[shown])
        others = [look for look in self._there if look != shown and "E/Emax" not in look]
        if others:
            self.set_picture(self.beside_card, self.beside, made[others[0]])
        self._show_beside()
