"""A picture under the hand: picked by pointer and by keys, dragged, painted once, told to a screen reader."""

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QToolTip

from tallmast.desk.picture_view import PictureView
from tallmast.figures.paper import Paper
from tallmast.figures.picture import Picture
from tallmast.findings.figure import Figure


class Two(Picture):
    """Two spots, one inside the other, and the number of times it was painted."""

    title = "Two things"
    painted = 0

    def draw(self, sheet, rect):
        type(self).painted += 1
        sheet.spot(QRectF(20, 20, 100, 60), "outer", "the outer")
        sheet.spot(QRectF(40, 40, 20, 20), "inner", "the inner")

    def drag(self, x, y):
        return x * 2 if y > 100 else None


@pytest.fixture
def view(qtbot):
    Two.painted = 0
    made = PictureView(Paper(), "two")
    qtbot.addWidget(made)
    made.resize(300, 200)
    made.show_picture(Two())
    made.show()
    QApplication.processEvents()
    made.repaint()
    return made


def test_a_click_picks_the_smallest_thing_under_it(view):
    picked = []
    view.picked.connect(picked.append)
    for point in (QPoint(50, 50), QPoint(100, 70), QPoint(250, 50)):
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=point)
    assert picked == ["inner", "outer"]


def test_dragging_tells_the_value_only_where_there_is_one(view):
    told = []
    view.dragged.connect(told.append)
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=QPoint(30, 150))
    left = Qt.MouseButton.LeftButton
    for y in (150, 60):
        event = QMouseEvent(
            QEvent.Type.MouseMove, QPointF(70, y), QPointF(70, y), left, left, Qt.KeyboardModifier.NoModifier
        )
        QApplication.sendEvent(view, event)
    assert told == [60, 140]


def test_a_pointer_over_a_spot_says_what_it_is(view):
    none = Qt.MouseButton.NoButton
    event = QMouseEvent(
        QEvent.Type.MouseMove, QPointF(50, 50), QPointF(50, 50), none, none, Qt.KeyboardModifier.NoModifier
    )
    QApplication.sendEvent(view, event)
    assert QToolTip.text() == "the inner"
    assert view.cursor().shape() == Qt.CursorShape.PointingHandCursor


def test_arrow_keys_go_round_and_enter_picks_again(view):
    picked = []
    view.picked.connect(picked.append)
    view.setFocus()
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Left, Qt.Key.Key_Return):
        QTest.keyClick(view, key)
    assert picked == ["outer", "inner", "outer", "inner", "inner"]


def test_it_is_painted_once_for_each_size_and_picture(view):
    assert Two.painted == 1
    view.repaint()
    QTest.keyClick(view, Qt.Key.Key_Right)
    view.repaint()
    assert Two.painted == 1, "a repaint of the same picture must not draw it anew"
    view.resize(320, 200)
    view.repaint()
    assert Two.painted == 2
    view.show_picture(Two())
    view.repaint()
    assert Two.painted == 3


def test_what_is_painted_is_what_stands_there(view):
    """The kept pixels are those of a fresh painting."""
    before = view.grab().toImage()
    view.show_picture(Two())
    assert view.grab().toImage() == before


def test_a_screen_reader_hears_the_spots(view):
    assert view.accessibleName() == "Two things"
    assert view.accessibleDescription() == "the outer; the inner"


def test_a_picked_figure_of_the_real_window_has_its_working_shown(window, qtbot, demo_copy):
    window.open_notebook(demo_copy)
    window.session.settle()
    window.climb_to("bench")
    QApplication.processEvents()
    window.grab()
    picture = window.views["bench"].ribbon
    spot = next(s for s in picture.picture.spots if isinstance(s.payload, Figure))
    QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=spot.rect.center().toPoint())
    assert window.side.working.figure is spot.payload
