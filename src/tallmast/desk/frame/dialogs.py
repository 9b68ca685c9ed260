"""What is laid over the window: the finder, a page of help, the key card, about."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QWidget

from tallmast import __version__
from tallmast.notebook.records import Record

from . import keys

if TYPE_CHECKING:
    from ..protocols import Frame
    from .views import Views

ABOUT = (
    f"Version {__version__}. Which antenna, how sure, by how much, and does the claim hold.",
    "Every ± is a 90 % interval; every number shows its working. Cautions are guidance: your licence and local rules decide.",
    "Type: IBM Plex (SIL Open Font License). Icons: Tabler (MIT). Their licences are in the program’s folder.",
)


class Dialogs:
    """Each is loaded when it is first asked for."""

    def __init__(self, frame: Frame, views: Views, parent: QWidget) -> None:
        self._frame, self._views, self._window = frame, views, parent

    def find_anything(self) -> None:
        """Any act, record or page of help."""
        from . import index
        from .finder import Finder

        frame = self._frame
        known = [
            (act.name, act.words, act.menu, keys.where(act.name) or act.key)
            for act in frame.acts.values()
            if act.name != "find"
        ]
        things = [*index.acts(known), *index.records(frame.session.evidence), *index.help_pages()]
        finder = Finder(things, frame.paper, self._window)
        finder.chosen.connect(self._do_found)
        self._show(finder)
        finder.line.setFocus()

    def _do_found(self, found: object) -> None:
        from .index import HelpPage

        if isinstance(found, Record):
            self._frame.open_record(found)
        elif isinstance(found, HelpPage):
            self._frame.climb_to(found.rung)
            self.help()
        else:
            self._frame.act(str(found))

    def help(self) -> None:
        """What the rung in front answers."""
        from .finder import Page
        from .help import HELP

        rung, page = self._frame.rung, HELP[self._frame.rung]
        steps = [f"{number}   {step}" for number, step in enumerate(page.steps, 1)]
        paragraphs = [page.answers, *steps, *page.mind]
        self._show(Page(rung.capitalize(), paragraphs, self._window))

    def key_card(self) -> None:
        """Every key there is, the front rung's first."""
        from .finder import KeyCard

        acts, rung = self._frame.acts, self._frame.rung
        words = {name: act.plain for name, act in acts.items()}
        columns = keys.card(rung, words, keys.shared(acts.values()), self._views[rung].panel_keys)
        self._show(KeyCard(columns, self._window))

    def about(self) -> None:
        """Version, what ± means, and whose type and icons these are."""
        from .finder import Page

        self._show(Page("Tall Mast", ABOUT, self._window))

    def _show(self, dialog: QDialog) -> None:
        """Open it, gone once closed: in the middle, a little high."""
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        own = dialog.objectName() in ("finder", "keycard", "help")
        hint = dialog.sizeHint().expandedTo(dialog.size()) if own else dialog.sizeHint()
        window = self._window.geometry()
        at = window.center()
        dialog.move(at.x() - hint.width() // 2, max(window.top() + 60, at.y() - hint.height() // 2))
        dialog.open()
