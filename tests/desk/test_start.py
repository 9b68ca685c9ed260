"""The first minute: what the start page offers, and that it does so by keys."""

from tallmast.desk.frame.start import SHOWN, pictures

from .hands import Hands


def test_a_number_opens_the_notebook_beside_it_and_its_verdict_stands_under_it(hands, qtbot, window, demo_copy):
    said = window.session.climb.verdict.sentence
    path = window.session.notebook.path
    window.session.close()
    window._show_frame()
    page = window.start
    assert window.stack.currentWidget() is page
    labels = [page.recent.itemAt(i).widget().text() for i in range(page.recent.count())]
    assert labels[:2] == [f"1   {path.stem}", said]
    hands.press("1")
    hands.settle()
    assert window.session.notebook.path == path


def test_a_notebook_without_a_verdict_says_so(window, tmp_path, qtbot):
    window._start_page().show_recent([tmp_path / "new.tallmast"], [""])
    page = window.start
    assert page.recent.itemAt(1).widget().text() == "no verdict yet"
    assert not page.take_key("2"), "there is no second one"
    assert not page.take_key("x")


def test_d_opens_the_demo(window, qtbot):
    hands = Hands(qtbot, window)
    hands.press("d")
    hands.settle()
    assert window.session.evidence.antennas


def test_three_pictures_of_the_demo_are_painted_on_a_worker_and_open_it_there(window, qtbot):
    page = window._start_page()
    with qtbot.waitSignal(page.painted, timeout=20_000):
        page.paint_soon()
    assert len(page.shown) == len(SHOWN)
    assert all(not part.icon().isNull() for part in page.shown)
    page.shown[2].click()
    Hands(qtbot, window).settle()
    assert window.rung == "field"


def test_the_pictures_show_something(window):
    for image in pictures(window.paper):
        inks = {image.pixelColor(x, y).rgb() for x in range(0, image.width(), 4) for y in range(0, image.height(), 4)}
        assert len(inks) > 10
