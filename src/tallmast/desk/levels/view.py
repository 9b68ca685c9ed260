"""The Levels' view."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Any, TypeVar

from msgspec.structs import replace

from tallmast.figures.levels import StaircasePicture, StepPick
from tallmast.figures.levels_display import DisplayPicture
from tallmast.figures.levels_noise import NoisePicture
from tallmast.figures.picture import Picture
from tallmast.findings.climb import Climb
from tallmast.findings.levels import LevelsFinding
from tallmast.findings.levels.staircase import Staircase, climb
from tallmast.findings.table import Table
from tallmast.findings.tables import levels as tables
from tallmast.frozen import Frozen

from ..ledger import Ledger
from ..parts import Switch, label
from ..rung_view import RungView
from ..sheets.key_panel import KeyPanel

if TYPE_CHECKING:
    from tallmast.procedures.substitution import Substitution

    from .panels import SteppedDisplayPanel

P = TypeVar("P", bound=KeyPanel[Any])

LOOKS = ("the way out", "the way back", "noise", "displays", "the drawer")


class Look(Frozen, eq=True):
    """What the card shows: a picture, a table under it, or words that say how to get there."""

    picture: Picture | None = None
    table: Table | None = None
    empty: str = ""


class LevelsView(RungView):
    rung = "levels"
    acts = ("power and pads", "far end", "find pads", "try steps", "display run", "noise")

    def build(self) -> None:
        self._panel_at = self.box.count()
        self.card, self.view = self.picture("staircasePicture")
        self.view.dragged.connect(self._drag)
        self.view.released.connect(self._let_go)
        self.view.nudged.connect(self._nudge)
        self.looks = Switch("Show", LOOKS, self._turned)
        self.card.box.insertWidget(1, self.looks)
        self.missing = label("", "soft", wrap=True)
        self.card.box.addWidget(self.missing)
        self.ledger = Ledger("levels rows", self.paper)
        self.ledger.picked.connect(self.pick)
        self.ledger.opened_row.connect(self.frame_.open_record)
        self.ledger.currentCellChanged.connect(lambda row, *_: self._show_display(row))
        self.card.box.addWidget(self.ledger)
        self.box.addWidget(self.card, 1)
        self.stands = self.table("stands for")
        self.clear = self.table("stand clear")
        self.clear_words = label("", "caution", wrap=True)
        self.clear.box.addWidget(self.clear_words)
        self.compared = self.table("compared")
        self.finding: LevelsFinding | None = None
        self.selected = ""
        self._held = ""
        """Key of the step that a hand holds."""
        self._tried: dict[str, float] = {}
        self._display = ""
        """Whose display is shown."""

    # The staircase

    @property
    def stairs(self) -> Staircase | None:
        """The one shown."""
        if self.finding is None:
            return None
        return self.finding.back if self.looks.chosen == "the way back" else self.finding.out

    def _drag(self, change_db: float) -> None:
        picture = self.view.picture
        if not isinstance(picture, StaircasePicture):
            return
        at = self.view.pointer
        if not self._held:
            self._held = picture.key_at(at.x()) or ""
        change = picture.change_for(self._held, at.y()) if self._held else None
        if change is not None and self._tried.get(self._held) != change:
            self._try(self._held, change)

    def _let_go(self) -> None:
        if self._held:
            self._held = ""
            self.session.aim(tried=tuple(self._tried.items()))

    def _nudge(self, up: int) -> None:
        """One grain up or down for the step that was picked."""
        stairs = self.stairs
        planned = next((p for p in stairs.plan.steps if p.key == self.selected), None) if stairs else None
        if planned is None or not planned.movable:
            self.session.trouble.emit("Pick a step that can be moved first, with ← →: those with a grip.")
            return
        now = self._tried.get(planned.key, planned.change_db)
        self._try(planned.key, planned.held(now + up * planned.grain_db))
        self.session.aim(tried=tuple(self._tried.items()))

    def _try(self, key: str, change_db: float) -> None:
        """Show the staircase with a step at another value, at once; the findings follow when the hand lets go."""
        stairs = self.stairs
        if stairs is None:
            return
        planned = next(p for p in stairs.plan.steps if p.key == key)
        if abs(change_db - planned.change_db) < 1e-9:
            self._tried.pop(key, None)
        else:
            self._tried[key] = change_db
        self.selected = key
        moved = climb(replace(stairs.plan, changed=dict(self._tried)))
        at = next(i for i, step in enumerate(moved.steps) if step.key == key)
        self.session.pick(moved.figure(at))
        self._show_stairs(moved)

    def _show_stairs(self, stairs: Staircase | None) -> None:
        assert self.finding is not None
        picture = StaircasePicture(finding=self.finding, stairs=stairs, selected=self.selected)
        before = self.view.picture
        if self._held and isinstance(before, StaircasePicture):
            # The scale stands still under the hand, and what it holds stays where it was.
            picture.spans, picture.treads = before.spans, before.treads
        self._set_stairs(picture)

    def _set_stairs(self, picture: StaircasePicture) -> None:
        self.set_picture(self.card, self.view, picture)
        self.card.set_title(f"{picture.title}: drag a step, or pick it and Shift ↑ ↓")

    def pick(self, payload: Any) -> None:
        if isinstance(payload, StepPick):
            self.selected = payload.key
            self.session.pick(payload.figure)
            if isinstance(self.view.picture, StaircasePicture) and self.view.picture.selected != payload.key:
                self.view.picture.selected = payload.key
                self.view.repaint_picture()
        else:
            super().pick(payload)

    # Procedures

    @cached_property
    def substitution(self) -> KeyPanel[Substitution]:
        from tallmast.procedures.substitution import Substitution

        return self._panel(KeyPanel(Substitution(self.session), self.paper))

    @cached_property
    def display_run(self) -> SteppedDisplayPanel:
        from tallmast.procedures.stepped_display import SteppedDisplay

        from .panels import SteppedDisplayPanel

        return self._panel(SteppedDisplayPanel(SteppedDisplay(self.session), self.paper))

    @property
    def panel_keys(self) -> list[tuple[str, str]]:
        from tallmast.procedures.stepped_display import SteppedDisplay
        from tallmast.procedures.substitution import Substitution

        return [
            *((key, f"measuring a pad: {what}") for key, what in Substitution.key_words()),
            *((key, f"stepping a display: {what}") for key, what in SteppedDisplay.key_words()),
        ]

    def _panel(self, made: P) -> P:
        made.hide()
        made.left.connect(self._leave_panel)
        made.asked.connect(self._sheet)
        self.box.insertWidget(self._panel_at, made, 2)
        return made

    @property
    def _panels(self) -> list[KeyPanel[Any]]:
        """Those that were made."""
        return [self.__dict__[name] for name in ("substitution", "display_run") if name in self.__dict__]

    @property
    def panel(self) -> KeyPanel[Any] | None:
        """The one in front."""
        return next((panel for panel in self._panels if panel.isVisibleTo(self)), None)

    def start_substitution(self) -> None:
        self._start(self.substitution)

    def start_display_run(self) -> None:
        self._start(self.display_run)

    def _start(self, panel: KeyPanel[Any]) -> None:
        now = self.panel
        if now is not None and now is not panel:
            now.hide()
        self.open_panel(panel)

    def _leave_panel(self) -> None:
        """Fold the panel away; what it has read stays in it."""
        panel = self.panel
        if panel is not None:
            panel.hide()
        self.lay_out()
        self.frame_.stand()

    def take_keyboard(self) -> bool:
        panel = self.panel
        if panel is not None:
            panel.take_keyboard()
        return panel is not None

    def let_go(self) -> None:
        for panel in self._panels:
            panel.let_go()

    def _sheet(self, name: str) -> None:
        from . import guided_forms

        if name == "display plan":
            form = guided_forms.display_plan_form(
                self.session, self.late(lambda view: view.display_run.procedure.step_through)
            )
        else:
            pad = self.substitution.procedure
            form = (
                guided_forms.frequency_form(
                    pad.frequency_hz, self.late(lambda view: view.substitution.procedure.measure_at)
                )
                if name == "frequency"
                else guided_forms.instruments_form(
                    pad.range.addresses, self.late(lambda view: view.substitution.procedure.use)
                )
            )
        self.frame_.write(form)

    # All of it

    def look_next(self) -> None:
        self.looks.next()

    def _turned(self, word: str) -> None:
        """Another picture was wanted: its main figure goes to the working."""
        self._look(word)
        finding = self.finding
        if finding is None:
            return
        figure = finding.headline
        if word == "noise" and finding.noise is not None:
            figure = finding.noise.remedies[0].improvement if finding.noise.remedies else finding.noise.floor
        elif word == "displays" and isinstance(self.view.picture, DisplayPicture):
            figure = self.view.picture.finding.middle.level
        elif word.startswith("the way") and self.stairs is not None:
            figure = self.stairs.end
        if figure is not None:
            self.session.pick(figure)

    def _look(self, word: str) -> None:
        finding = self.finding
        if finding is None:
            return
        shown = {"noise": self._noise_look, "displays": self._display_look, "the drawer": self._drawer_look}.get(
            word, self._stairs_look
        )(finding)
        self.view.setVisible(shown.picture is not None)
        self.ledger.setVisible(shown.table is not None)
        if shown.table is not None:
            self.ledger.show_table(shown.table)
        self.missing.setText(shown.empty)
        self.missing.setVisible(bool(shown.empty))
        if isinstance(shown.picture, StaircasePicture):
            self._set_stairs(shown.picture)
        elif shown.picture is not None:
            self.set_picture(self.card, self.view, shown.picture)
        else:
            self.card.set_title(
                f"{shown.table.title} · Enter opens a piece, F finds pads, Z measures one"
                if shown.table
                else "Nothing to show here yet"
            )
        self.lay_out()

    def _stairs_look(self, finding: LevelsFinding) -> Look:
        if self.stairs is None:
            return Look(
                empty="The way back needs the far end’s power and a place to reach: write them with E here and L on the Field."
            )
        return Look(StaircasePicture(finding=finding, stairs=self.stairs, selected=self.selected))

    def _noise_look(self, finding: LevelsFinding) -> Look:
        if finding.noise is None:
            return Look(empty="J notes what a receiver hears through here: a floor measured, or the surroundings.")
        return Look(NoisePicture(finding=finding.noise), tables.noise(finding))

    def _display_look(self, finding: LevelsFinding) -> Look:
        found = list(finding.displays.values())
        if not found:
            return Look(
                empty="X steps a known attenuation under a fixed link and notes what a display says: its readings are "
                "decibels from then on."
            )
        at = next((i for i, f in enumerate(found) if f.curve.run.receiver == self._display), len(found) - 1)
        return Look(DisplayPicture(finding=found[at]), tables.displays(finding))

    def _drawer_look(self, finding: LevelsFinding) -> Look:
        if not finding.drawer:
            return Look(empty="The drawer is empty: D puts a pad, a cable or a preamp into it.")
        return Look(None, tables.drawer(finding))

    def _show_display(self, row: int) -> None:
        """The display of the row that was picked."""
        if self.finding is None or self.looks.chosen != "displays":
            return
        names = list(self.finding.displays)
        if 0 <= row < len(names) and names[row] != self._display:
            self._display = names[row]
            self.set_picture(self.card, self.view, DisplayPicture(finding=self.finding.displays[names[row]]))

    def fill(self, climb: Climb) -> None:
        finding = climb.levels
        self.finding = finding
        self._tried = dict(climb.aims.tried)
        something = bool(finding.out or finding.displays or finding.noise or finding.drawer)
        self.card.setVisible(something)
        self.compared.show_table(tables.compared(finding))
        if something:
            if finding.out is None and self.looks.chosen == "the way out":
                self.looks.set("noise" if finding.noise else "displays" if finding.displays else "the drawer")
            self._look(self.looks.chosen)
        self.stands.show_table(tables.stands_for(finding), "")
        self.clear.show_table(tables.clear(finding), "")
        self.clear_words.setText(finding.clear_words)
