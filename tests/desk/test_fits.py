"""No text is cut: every rung, every sheet and every page of help, at four sizes of window and letters."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QDialog, QLabel, QLineEdit, QWidget

from tallmast.desk.frame import fitting
from tallmast.desk.parts import Tag
from tallmast.findings.climb import RUNGS
from tallmast.notebook.records import KINDS

SIZES = [(1280, 800, 1.0), (1024, 700, 1.0), (960, 540, 1.0), (1600, 1000, 1.4)]
"""Width and height of the window, size of the system's letters."""


def cut(part: QWidget) -> str:
    """What of a part's words is not seen; empty: all are."""
    metrics, wide = part.fontMetrics(), part.width()
    if isinstance(part, QLabel):
        if part.pixmap() is not None and not part.pixmap().isNull():
            return ""
        if part.wordWrap():
            return part.text() if part.heightForWidth(wide) > part.height() + 1 else ""
        hint = part.sizeHint()
        return part.text() if hint.width() > wide + 1 or hint.height() > part.height() + 1 else ""
    if isinstance(part, QLineEdit):
        words = part.placeholderText()
        return words if metrics.horizontalAdvance(words) > part.contentsRect().width() - 8 else ""
    if isinstance(part, QComboBox):
        every = [part.itemText(i) for i in range(part.count())]
        return "; ".join(words for words in every if metrics.horizontalAdvance(words) > wide - 26)
    if isinstance(part, Tag):
        return ""  # it wraps by itself
    return part.text() if part.text() and part.sizeHint().width() > wide + 1 else ""


def all_cut(root: QWidget) -> list[str]:
    kinds = (QLabel, QLineEdit, QComboBox, QAbstractButton)
    parts = [p for kind in kinds for p in root.findChildren(kind) if p.isVisible() and p.parent() is not None]
    own = [p for p in parts if not isinstance(p.parent(), QComboBox)]
    return [f"{type(p).__name__} “{words}”" for p in own if (words := cut(p))]


@pytest.fixture
def sized(hands, monkeypatch, request):
    width, height, letters = request.param
    monkeypatch.setattr("tallmast.desk.frame.window.size_of_system", lambda: letters)
    window = hands.window
    window.dress_as("Sun")  # built anew, with the letters of the system
    window.dress_as("Day")
    window.resize(width, height)
    window.show()
    hands.settle()
    return hands


@pytest.mark.parametrize("sized", SIZES, indirect=True, ids=str)
def test_on_every_rung(sized):
    found = {}
    for number, rung in enumerate(RUNGS, 1):
        sized.press(str(number))
        sized.settle()
        QApplication.processEvents()
        found[rung] = all_cut(sized.window.centralWidget())
    assert not any(found.values()), found


@pytest.mark.parametrize("sized", SIZES, indirect=True, ids=str)
def test_in_every_sheet(sized):
    found = {}
    for kind, model in KINDS.items():
        if not model.rung or not any(True for _ in model.__struct_fields__):
            continue
        sized.window.climb_to(model.rung)
        try:
            sized.window.write_record(model)
        except KeyError:
            continue  # it has no sheet of its own: it comes in with a file
        sheet = sized.window.sheet
        sheet.unfold()
        QApplication.processEvents()
        found[kind] = all_cut(sheet)
        sheet.leave()
        QApplication.processEvents()
    assert len(found) > 15 and not any(found.values()), {k: v for k, v in found.items() if v}


@pytest.mark.parametrize("sized", SIZES, indirect=True, ids=str)
def test_on_every_page_of_help(sized):
    found = {}
    for number, rung in enumerate(RUNGS, 1):
        sized.press(str(number))
        sized.window.act("help")
        (page,) = [d for d in sized.window.findChildren(QDialog) if d.objectName() == "help"]
        QApplication.processEvents()
        assert page.height() <= sized.window.height() and page.width() <= sized.window.width()
        found[rung] = all_cut(page)
        page.close()
        QApplication.sendPostedEvents(None, 52)
    assert not any(found.values()), found


def test_a_system_with_large_letters_or_dark_is_followed_until_somebody_chooses(monkeypatch, hands):
    class Info:
        def __init__(self, font):
            pass

        def pixelSize(self):
            return 24

    monkeypatch.setattr(fitting, "QFontInfo", Info)
    assert fitting.size_of_system() == pytest.approx(24 / 13.3)
    hints = type("Hints", (), {"colorScheme": lambda self: Qt.ColorScheme.Dark})()
    monkeypatch.setattr(fitting.QGuiApplication, "styleHints", lambda: hints)
    assert fitting.appearance_of_system() == "Night"
    assert hands.window.settings.appearance is None
    hands.window.dress_as("Sun")
    assert hands.window.settings.appearance == "Sun"


def test_in_a_window_that_is_too_small_the_keyboard_scrolls_to_where_it_goes(hands):
    window = hands.window
    window.resize(700, 420)
    hands.settle()
    window.climb_to("verdict")
    hands.settle()
    for _ in range(60):
        hands._key(hands.focus, Qt.Key.Key_Tab)
        QApplication.processEvents()
        now = hands.focus
        if window.centralWidget().widget().isAncestorOf(now):
            middle = now.mapTo(window.centralWidget(), now.rect().center())
            seen = (
                window.centralWidget()
                .viewport()
                .rect()
                .adjusted(-now.width() // 2, -now.height() // 2, now.width() // 2, now.height() // 2)
            )
            assert seen.contains(middle), now.objectName()
