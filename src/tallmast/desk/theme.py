"""The window's clothes: paper, ink, one rust accent. One style sheet from a palette."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from PySide6.QtCore import QByteArray, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QImage, QPainter, QPalette, QPixmap
from PySide6.QtWidgets import QApplication

from tallmast.figures.paper import MONO, SANS, Paper, load_fonts

ASSETS = Path(__file__).parent / "assets"


def style_sheet(paper: Paper) -> str:
    """The whole application's style, sizes scaled by the paper."""
    c = paper.palette

    def px(size: float) -> str:
        return f"{round(size * paper.scale)}px"

    return f"""
    * {{ font-family: "{SANS}"; font-size: {px(13)}; color: {c.ink}; }}
    QMainWindow, QWidget#centre, QWidget#ground, QScrollArea, QWidget#page {{ background: {c.ground}; border: none; }}
    QMenuBar {{ background: {c.rail}; padding: 1px 8px; }}
    QMenuBar::item {{ padding: 3px 9px; background: transparent; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {c.open_wash}; }}
    QMenu {{ background: {c.sheet}; border: 1px solid {c.hairline}; padding: 5px; }}
    QMenu::item {{ padding: 5px 26px 5px 14px; }}
    QMenu::item:disabled {{ color: {c.soft}; }}
    QMenu::separator {{ height: 1px; background: {c.hairline}; margin: 5px 8px; }}
    QToolTip {{ background: {c.sheet}; color: {c.ink}; border: 1px solid {c.line}; padding: 4px; }}
    QWidget#top {{ background: {c.sheet}; border-bottom: 1px solid {c.hairline}; }}
    QWidget#mast {{ background: {c.rail}; border-right: 1px solid {c.hairline}; }}
    QWidget#tape {{ background: {c.rail}; border-top: 1px solid {c.hairline}; }}
    QWidget#tape QLabel {{ font-size: {px(12)}; }}
    QFrame#side {{ background: {c.sheet}; border: none; border-left: 1px solid {c.hairline}; }}
    QFrame#side QScrollArea, QFrame#side QWidget#page {{ background: {c.sheet}; }}
    QFrame#card {{ background: {c.sheet}; border: 1px solid {c.hairline}; border-radius: 3px; }}
    QLabel#questionText {{ font-size: {px(15)}; font-weight: 600; }}
    QLabel#sentence {{ font-size: {px(18)}; font-weight: 600; }}
    QLabel#detail {{ color: {c.soft}; font-size: {px(13)}; }}
    QLabel#soft, QLabel#questionBand {{ color: {c.soft}; font-size: {px(12)}; }}
    QLabel#cardTitle, QLabel#sideTitle {{ color: {c.soft}; font-size: {px(12)}; font-weight: 600; }}
    QLabel#sideFigure {{ font-family: "{MONO}"; font-size: {px(18)}; font-weight: 600; }}
    QLabel#mono {{ font-family: "{MONO}"; font-size: {px(12)}; }}
    QLabel#safety {{ background: {c.open_wash}; border-top: 1px solid {c.line}; border-left: 3px solid {c.doubt}; padding: 7px 10px; font-size: {px(11)}; }}
    QLabel#caution {{ border: none; border-left: 3px solid {c.doubt}; padding-left: 9px; }}
    QLabel#trouble {{ color: {c.fails}; font-weight: 600; }}
    QLabel#echo {{ color: {c.soft}; font-size: {px(11)}; font-family: "{MONO}"; }}
    QLabel#echo[bad="true"] {{ color: {c.fails}; font-family: "{SANS}"; }}
    QLabel#key {{ border: 1px solid {c.line}; border-radius: 3px; padding: 0px 4px; font-family: "{MONO}"; font-size: {px(11)}; color: {c.soft}; }}
    QPushButton {{ background: {c.sheet}; border: 1px solid {c.ink}; border-radius: 4px; padding: 5px 12px; min-height: {px(20)}; }}
    QPushButton:hover {{ background: {c.open_wash}; }}
    QPushButton#first {{ background: {c.strong}; color: {c.on_strong}; font-weight: 600; }}
    QPushButton#plain, QToolButton {{ background: transparent; border: 1px solid transparent; padding: 3px 7px; color: {c.soft}; }}
    QPushButton#plain:checked, QToolButton:checked {{ background: {c.open_wash}; color: {c.ink}; font-weight: 600; border-radius: 3px; }}
    QPushButton#key {{ padding: 2px 9px; font-size: {px(12)}; }}
    QPushButton#bigKey {{ padding: 6px 12px; min-height: {px(30)}; }}
    QFrame#card:focus {{ border: 2px solid {c.accent}; }}
    QPushButton:disabled {{ color: {c.soft}; border-color: {c.hairline}; }}
    QPushButton:focus, QToolButton:focus, QLineEdit:focus, QComboBox:focus, QTableWidget:focus, QListWidget:focus, QTreeWidget:focus, QPlainTextEdit:focus {{
        border: 2px solid {c.accent}; }}
    QLineEdit, QComboBox, QPlainTextEdit {{ background: {c.ground}; border: 1px solid {c.line}; border-radius: 3px; padding: 4px 6px;
        selection-background-color: {c.accent}; selection-color: {c.sheet}; }}
    QPlainTextEdit#excerpt {{ background: {c.sheet}; border: none; border-left: 2px solid {c.line}; color: {c.soft};
        font-family: "{MONO}"; font-size: {px(11)}; }}
    QComboBox::drop-down {{ border: none; width: 20px; }}
    QComboBox::down-arrow {{ image: url({(ASSETS / "icons" / "chevron-down.svg").as_posix()}); width: 14px; height: 14px; }}
    QComboBox QAbstractItemView, QListWidget, QTreeWidget {{ background: {c.sheet}; border: 1px solid {c.line};
        selection-background-color: {c.open_wash}; selection-color: {c.ink}; outline: none; }}
    QListWidget::item, QTreeWidget::item {{ padding: 5px 8px; }}
    QTableWidget {{ background: transparent; border: 2px solid transparent; gridline-color: transparent; font-size: {px(12.5)};
        selection-background-color: {c.open_wash}; selection-color: {c.ink}; }}
    QTableWidget::item {{ border-bottom: 1px solid {c.hairline}; padding: 2px 7px; }}
    QHeaderView {{ background: transparent; border: none; }}
    QHeaderView::section {{ background: transparent; border: none; border-bottom: 1px solid {c.line}; color: {c.soft};
        font-size: {px(11.5)}; padding: 2px 7px; }}
    QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
    QScrollBar::handle {{ background: {c.line}; border-radius: 3px; min-height: 24px; min-width: 24px; margin: 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QDialog#help QScrollArea, QDialog#help QWidget#page {{ background: {c.sheet}; }}
    QDialog {{ background: {c.sheet}; border: 1px solid {c.line}; }}
    """


def dress(app: QApplication, paper: Paper) -> None:
    """Fonts, palette and style sheet on the application."""
    load_fonts()
    app.setFont(paper.font(13))
    palette = QPalette()
    for role, name in (
        (QPalette.ColorRole.Window, "ground"),
        (QPalette.ColorRole.Base, "sheet"),
        (QPalette.ColorRole.Text, "ink"),
        (QPalette.ColorRole.WindowText, "ink"),
        (QPalette.ColorRole.Button, "sheet"),
        (QPalette.ColorRole.ButtonText, "ink"),
        (QPalette.ColorRole.Highlight, "accent"),
        (QPalette.ColorRole.HighlightedText, "sheet"),
        (QPalette.ColorRole.PlaceholderText, "soft"),
        (QPalette.ColorRole.Link, "accent"),
    ):
        palette.setColor(role, paper.colour(name))
    app.setPalette(palette)
    sheet = style_sheet(paper)
    if app.styleSheet() != sheet:  # the same once more would be worked out anew for every part there is
        app.setStyleSheet(sheet)


@cache
def _svg(name: str) -> bytes:
    return (ASSETS / "icons" / f"{name}.svg").read_bytes()


def icon(name: str, colour: QColor, size: int = 16) -> QIcon:
    """A shipped line icon in the theme's ink."""
    from PySide6.QtSvg import QSvgRenderer

    renderer = QSvgRenderer(QByteArray(_svg(name).replace(b"currentColor", colour.name().encode())))
    image = QImage(QSize(size, size) * 2, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    renderer.render(painter, QRectF(0, 0, size * 2, size * 2))
    painter.end()
    image.setDevicePixelRatio(2)
    return QIcon(QPixmap.fromImage(image))


def app_icon() -> QIcon:
    return QIcon(str(ASSETS / "tallmast.svg"))
