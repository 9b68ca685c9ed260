"""The window on the screen that it has: the least room it needs, and what the system says of size and darkness."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QFontDatabase, QFontInfo, QGuiApplication, QKeyEvent
from PySide6.QtWidgets import QApplication, QFrame, QScrollArea, QWidget

from tallmast.figures.paper import Appearance

LEAST_WIDTH, LEAST_HEIGHT = 1024, 672
"""Points that all of it needs, beside the menus, at the usual size of letters; on less it scrolls."""
USUAL_FONT_PX = 13.3
"""10 points at 96 to the inch: letters of the window itself are made for it."""
ALIKE = 0.15
"""So much more or less a system's letters may be, and the window's stay as they are."""
LARGEST = 2.0


def appearance_of_system() -> Appearance:
    """What to wear where nobody chose yet."""
    dark = QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark
    return "Night" if dark else "Day"


def size_of_system() -> float:
    """By how much a person had all letters made larger, or smaller."""
    font = QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont)
    factor = QFontInfo(font).pixelSize() / USUAL_FONT_PX
    return 1.0 if abs(factor - 1.0) <= ALIKE else min(max(factor, 1.0 - ALIKE), LARGEST)


def room() -> tuple[int, int]:
    """(width, height) that a new window takes: 1280 × 800, or what the screen has; painted on none it has all of it."""
    if QGuiApplication.platformName() == "offscreen":
        return 1280, 800
    screen = QGuiApplication.primaryScreen().availableGeometry()
    return min(1280, screen.width()), min(800, screen.height())


class FrameArea(QScrollArea):
    """Holds the frame: as large as the window, and where that is too small it scrolls to whatever has the keyboard."""

    def __init__(self, frame: QWidget, size: float) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setWidgetResizable(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        frame.setMinimumSize(round(LEAST_WIDTH * size), round(LEAST_HEIGHT * size))
        self.setWidget(frame)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._follow)

    def _follow(self, _: QWidget | None, now: QWidget | None) -> None:
        frame = self.widget()
        if now is None or frame is None or not frame.isAncestorOf(now):
            return
        if QGuiApplication.mouseButtons() != Qt.MouseButton.NoButton:
            return  # what is pressed must not slip away from under the hand
        area: QWidget | None = now.parentWidget()
        while area is not None:
            if isinstance(area, QScrollArea):
                area.ensureWidgetVisible(now, 24, 24)
            area = area.parentWidget()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()  # keys are the window's
