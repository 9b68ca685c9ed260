"""The menu bar: every act by its menu, and the notebooks opened last."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu

from . import keys
from .act import Act

ENDS_A_GROUP = ("demo", "bundle", "redo", "previous antenna", "tape", "sun")


class Menus:
    """Fills a window's menu bar anew; the chords of acts work from it."""

    def __init__(self, window: QMainWindow, acts: Mapping[str, Act], do: Callable[[str], None]) -> None:
        self._bar = window.menuBar()
        self._bar.clear()
        for old in window.actions():
            window.removeAction(old)
        self.by_title: dict[str, QMenu] = {}
        for act in acts.values():
            menu = self.by_title.get(act.menu)
            if menu is None:
                menu = self.by_title[act.menu] = self._bar.addMenu(act.menu)
            # A single key would steal letters from fields as a shortcut; the window's keyPressEvent serves those.
            single = len(act.key) == 1
            shown = act.key if single else keys.where(act.name) if not act.key else ""
            action = QAction(f"{act.words}\t{shown}" if shown else act.words, window)
            if act.key and not single:
                action.setShortcut(QKeySequence(act.key))
            action.triggered.connect(lambda _=False, name=act.name: do(name))
            menu.addAction(action)
            if act.name in ENDS_A_GROUP:
                menu.addSeparator()
            if act.name == "open":
                self.recent = menu.addMenu("Opened last")

    def show_recent(self, paths: Sequence[Path], open_: Callable[[Path], object]) -> None:
        self.recent.clear()
        for path in paths:
            action = self.recent.addAction(path.stem)
            action.setToolTip(str(path))
            action.triggered.connect(lambda _=False, p=path: open_(p))
        self.recent.setEnabled(bool(paths))

    def take_away(self) -> list[QMenu]:
        """The menus, no longer in the bar."""
        self._bar.clear()
        return list(self.by_title.values())
