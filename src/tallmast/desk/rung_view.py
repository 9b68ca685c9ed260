"""What every rung's view has: the finding's sentence, its checks, cards under them, and the next acts."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any, ParamSpec, Self, TypeVar, cast

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QPushButton, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from tallmast.figures.picture import Picture
from tallmast.findings.climb import Climb
from tallmast.findings.figure import Check, Figure, Finding, Mark, Working
from tallmast.notebook.records.base import Record

from .empty import EmptyCard
from .frame import keys
from .ledger import TableCard
from .next_steps import offered
from .parts import Card, Flow, Folded, Tag, button, label
from .picture_view import PictureView
from .sheets.key_panel import KeyPanel
from .tab_order import tab_in_order

if TYPE_CHECKING:
    from .frame.act import Act
    from .protocols import Frame


P = ParamSpec("P")
R = TypeVar("R")
GRAVEST: tuple[Mark, ...] = ("fails", "disagrees", "open", "holds")
"""In which order the marks of checks are looked at."""


class RungView(QScrollArea):
    """Base of the seven views. A view paints what the finding holds; it computes nothing."""

    rung = ""
    acts: Sequence[str] = ()
    """Names of the acts offered under the pictures, the first as the first button."""

    def __init__(self, frame: Frame) -> None:
        super().__init__()
        self.frame_, self.session, self.paper = frame, frame.session, frame.paper
        self.setObjectName(f"view-{self.rung}")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.stale = True
        self.shown: Climb | None = None
        """What stands here is of it: a view speaks of what it shows, though the session may know more by now."""
        self.page = QWidget()
        self.page.setObjectName("page")
        self.setWidget(self.page)
        self.page.installEventFilter(self)
        self.box = QVBoxLayout(self.page)
        self.box.setContentsMargins(16, 10, 16, 10)
        self.box.setSpacing(8)
        self.sentence = label("", "sentence", wrap=True)
        self.detail = label("", "detail", wrap=True)
        for part in (self.sentence, self.detail):
            part.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            part.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
            self.box.addWidget(part)
        self.sentence.setAccessibleName("The finding")
        self.tags = Folded(6, rows=2)
        self.tags.hide()
        self.box.addWidget(self.tags)
        self.build()
        self.act_row = Flow(8)
        self.box.addWidget(self.act_row)
        self.empty: EmptyCard | None = None
        """Made when the rung is first seen with nothing in it."""
        self.box.addStretch(0)
        self._offered: list[str] = []
        self.page.setVisible(False)  # nothing is better to look at than empty tables

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.lay_out()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.page and event.type() == QEvent.Type.LayoutRequest:
            self.lay_out()  # a table has found its height
        return super().eventFilter(watched, event)

    def lay_out(self) -> None:
        """The page as wide as the view, and as tall as it must be at that width: a resizable scroll area would ask
        wrapped labels for their height at some other width, and leave room that nothing fills."""
        width = self.viewport().width()
        self.box.activate()
        self.page.resize(width, max(self.viewport().height(), self.box.minimumHeightForWidth(width)))

    # For the rungs

    def build(self) -> None:
        """Make the rung's cards, once."""
        raise NotImplementedError

    def fill(self, climb: Climb) -> None:
        """Show the rung's part of a climb in them."""
        raise NotImplementedError

    def take_keyboard(self) -> bool:
        """Take the keyboard after a sheet was closed, if something on the rung wants it."""
        return False

    def open_panel(self, panel: KeyPanel[Any]) -> None:
        """Open a panel of keys: all of it in sight, where the window is tall enough."""
        panel.open()
        self.lay_out()
        tab_in_order(self.page)  # so that what takes the keyboard when it closes lies beside it
        self.verticalScrollBar().setValue(0)
        QTimer.singleShot(0, panel, lambda: self.ensureWidgetVisible(panel, 0, 8))  # once it has found its height

    @property
    def panel_keys(self) -> Sequence[tuple[str, str]]:
        """Keys of the panels that this rung can open, and what they do there."""
        return ()

    def carried(self) -> object | None:
        """What a view made anew in another look must go on with; None: nothing."""
        return None

    def carry_on(self, state: object) -> None:
        """Go on with what `carried` told."""

    def late(self, method: Callable[[Self], Callable[P, R]]) -> Callable[P, R]:
        """A method of this view, or of what it holds, as it is found when it is called: an open sheet outlives a change of look, and the
        view that opened it does not."""
        frame, rung = self.frame_, self.rung

        def call(*args: P.args, **more: P.kwargs) -> R:
            return method(cast("Self", frame.view_of(rung)))(*args, **more)

        return call

    def let_go(self) -> None:
        """The window closes: let go of whatever is held outside."""

    # Shared

    def picture(self, name: str) -> tuple[Card, PictureView]:
        """A card with a picture in it; picked figures go to the working."""
        card = Card()
        view = PictureView(self.paper, name)
        view.picked.connect(self.pick)
        card.box.addWidget(view, 1)
        return card, view

    def table(self, name: str, add: bool = True) -> TableCard:
        """A card with a table in it: picked figures go to the working, opened rows to their sheets."""
        card = TableCard(name, self.paper)
        card.ledger.picked.connect(self.pick)
        card.ledger.opened_row.connect(self.frame_.open_record)
        if add:
            self.box.addWidget(card)
        return card

    def act_button(self, name: str, first: bool = False) -> QPushButton:
        """A button for an act, with its key here."""
        act: Act = self.frame_.acts[name]
        letter = keys.key_of(name, self.rung) or act.key
        part = button(f"{act.words}  {letter}" if letter else act.words, act.run, first=first)
        part.setAccessibleName(act.words)
        return part

    def set_picture(self, card: Card, view: PictureView, picture: Picture) -> None:
        picture.focus_id = self.focus_id
        picture.hidden = frozenset(self.session.hidden)
        card.set_title(picture.title)
        view.show_picture(picture)

    @property
    def focus_id(self) -> str:
        antenna = self.session.focus_antenna
        return antenna.id if antenna else ""

    def pick(self, payload: Any) -> None:
        if isinstance(payload, Figure):
            self.session.pick(payload)
        elif isinstance(payload, Record):
            self.frame_.open_record(payload)

    def pick_check(self, check: Check) -> None:
        if check.figure is not None:
            self.session.pick(check.figure)
        elif check.why:
            self.session.pick(Figure(check.text, 0.0, 0.0, "", Working((), (), "", check.why), digits=0))

    def show_climb(self, climb: Climb) -> None:
        """Paint the rung anew."""
        self.shown = climb
        finding: Finding = climb.of(self.rung)
        self.sentence.setText(finding.sentence)
        self.detail.setText(finding.detail)
        self._show_checks(finding.checks)
        self.fill(climb)
        bare = finding.standing.mark == "nothing" and not self._shows_something()
        self._fill_actions(offered(self.rung, self.acts, climb)[: 1 if bare else None])
        self._show_empty(bare)
        self.page.setVisible(True)
        self.stale = False
        self.lay_out()

    def _shows_something(self) -> bool:
        """Whether any card of its own is there."""
        cards = (c for c in self.page.findChildren(Card) if c is not self.empty and not isinstance(c, KeyPanel))
        return any(c.isVisibleTo(self.page) for c in cards)

    def _show_empty(self, bare: bool) -> None:
        if bare and self.empty is None:
            self.empty = EmptyCard(self.rung, self.frame_, self.paper)
            self.box.insertWidget(self.box.count() - 1, self.empty, 1)
        if self.empty is not None:
            self.empty.setVisible(bare)

    def _show_checks(self, checks: Sequence[Check]) -> None:
        checks = sorted(checks, key=lambda check: GRAVEST.index(check.mark))
        there = [part for part in self.tags.parts if isinstance(part, Tag)]
        if [(t.check.mark, t.check.text, t.check.why) for t in there] == [(c.mark, c.text, c.why) for c in checks]:
            for tag, check in zip(there, checks, strict=True):
                tag.check = check  # its figure is new
            return
        self.tags.clear()
        for check in checks:
            self.tags.add(Tag(check, self.paper, self.pick_check))
        self.tags.setVisible(bool(checks))

    def _fill_actions(self, names: Sequence[str]) -> None:
        if names == self._offered:
            return
        self._offered = list(names)
        self.act_row.clear()
        for i, name in enumerate(names):
            self.act_row.add(self.act_button(name, first=i == 0))
