"""Checks above a rung: what fails first, two rows at most, the rest behind one press."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tallmast.desk.parts import Tag
from tallmast.desk.rung_view import GRAVEST


def shown(view) -> list[Tag]:
    return [tag for tag in view.tags.parts if tag.isVisible()]


@pytest.mark.parametrize("rung", "1234567")
def test_never_more_than_two_rows_and_the_gravest_first(hands, rung):
    hands.press(rung)
    view = hands.window.views[hands.window.rung]
    assert len({tag.y() for tag in shown(view)}) <= 2
    marks = [GRAVEST.index(tag.check.mark) for tag in view.tags.parts]
    assert marks == sorted(marks)


def test_the_rest_is_behind_one_press_and_folds_again(hands):
    window = hands.window
    window.resize(1024, 700)
    hands.press("3")
    tags = window.views["levels"].tags
    few = len(shown(window.views["levels"]))
    assert 0 < few < len(tags.parts)
    assert tags.more.text() == f"+ {len(tags.parts) - few} more"
    tags.more.setFocus()
    QTest.keyClick(tags.more, Qt.Key.Key_Space)
    assert len(shown(window.views["levels"])) == len(tags.parts)
    assert tags.more.text() == "fewer"
    QTest.keyClick(tags.more, Qt.Key.Key_Space)
    assert len(shown(window.views["levels"])) == few
