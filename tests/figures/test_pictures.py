"""The pictures: painted from every kind of evidence without complaint, spots inside the sheet, names readable."""

import itertools

import numpy as np
import pytest
from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter

from tallmast.demo import campaign
from tallmast.figures import bench, field, ground, levels, link, pattern, shelf, verdict
from tallmast.figures.paper import PALETTES, Paper
from tallmast.figures.picture import render
from tallmast.figures.sheet import Axis, spread
from tallmast.findings.aims import Aims
from tallmast.findings.climb import Climb
from tests.findings.build import Book


def pictures(climb: Climb):
    antennas = tuple(climb.evidence.antennas)
    yield shelf.ShelfPicture(finding=climb.shelf)
    yield bench.SwrPicture(finding=climb.bench)
    yield bench.RibbonPicture(finding=climb.bench)
    yield levels.StaircasePicture(finding=climb.levels)
    yield pattern.PolarPicture(finding=climb.pattern)
    yield pattern.PolarPicture(finding=climb.pattern, plane="elevation")
    yield field.MapPicture(finding=climb.field)
    yield field.DistancePicture(finding=climb.field, antennas=antennas, sensitivity_dbm=-100.0)
    over = climb.field.ground
    if over is not None:
        yield ground.GroundPicture(ground=over, antennas=antennas)
    yield link.FanPicture(finding=climb.link, wanted="Rock")
    yield verdict.GainPicture(finding=climb.verdict)


def full() -> Climb:
    _, evidence = campaign.evidence()
    return Climb(evidence, Aims("antenna-shed-yagi"))


def bare() -> Climb:
    return Book().climb()


def one_meter_reading() -> Climb:
    book = Book()
    book.meter(book.antenna("A"), 1.3)
    return book.climb()


def one_place() -> Climb:
    book = Book()
    book.antenna("A")
    book.home(1000)
    return book.climb()


def nothing_heard() -> Climb:
    book = Book()
    book.home(1000)
    a = book.antenna("A")
    book.log(book.run(a, 1), np.array([100.0, 200.0]), np.array([np.nan, np.nan]))
    return book.climb()


def over_rating() -> Climb:
    book = Book()
    book.antenna("A")
    book.levels(power_w=50.0)
    return book.climb()


@pytest.mark.parametrize("evidence", [full, bare, one_meter_reading, one_place, nothing_heard, over_rating])
@pytest.mark.parametrize("size", [(520, 300), (760, 400), (1500, 800)])
def test_every_picture_of_any_evidence_paints_and_stays_on_its_sheet(qapp, evidence, size):
    climb = evidence()
    for picture in pictures(climb):
        picture.focus_id = climb.aims.focus_id
        image = render(picture, *size, Paper(), 1.0)
        assert not image.isNull()
        sheet = QRectF(0, 0, *size).adjusted(-40, -40, 40, 40)
        for spot in picture.spots:
            assert sheet.intersects(spot.rect), (type(picture).__name__, spot.label)
            assert spot.label
            assert "nan" not in spot.label.lower()


def ink(image: QImage) -> int:
    """Pixels that are not the sheet."""
    data = np.frombuffer(image.constBits(), dtype=np.uint8).reshape(image.height(), image.bytesPerLine())
    sheet = data[0, :3]
    return int(
        (
            np.abs(data[:, : image.width() * 4].reshape(image.height(), -1, 4)[:, :, :3].astype(int) - sheet).sum(
                axis=2
            )
            > 40
        ).sum()
    )


@pytest.mark.parametrize("look", list(PALETTES))
def test_the_demo_is_drawn_in_every_look(qapp, look):
    paper = Paper.of(look)
    for picture in pictures(full()):
        picture.focus_id = "antenna-shed-yagi"
        assert ink(render(picture, 760, 420, paper, 1.0)) > 2000, type(picture).__name__


def test_a_hidden_antenna_is_not_drawn(qapp):
    climb = full()
    shown, hidden = (
        bench.SwrPicture(finding=climb.bench),
        bench.SwrPicture(finding=climb.bench, hidden={"antenna-gull-collinear"}),
    )
    images = [render(p, 760, 400, Paper(), 1.0) for p in (shown, hidden)]
    assert ink(images[1]) < ink(images[0])
    assert any("Gull" in s.label for s in shown.spots)
    assert not any("Gull" in s.label for s in hidden.spots)


def test_a_drag_gives_the_frequency_under_the_pointer(qapp):
    picture = bench.SwrPicture(finding=full().bench)
    assert picture.drag(100, 100) is None
    image = QImage(760, 400, QImage.Format.Format_RGB32)
    painter = QPainter(image)
    picture.paint(painter, QRectF(0, 0, 760, 400), Paper())
    painter.end()
    left, right = picture.drag(38, 200), picture.drag(760 - 118, 200)
    assert left == pytest.approx(840e6, rel=1e-6)
    assert right == pytest.approx(900e6, rel=1e-6)


def test_axes_go_both_ways():
    for axis in (Axis(1, 1000, 50, 650, log=True), Axis(-20, 10, 400, 20)):
        for value in (axis.low, axis.high, axis.low + 0.3 * (axis.high - axis.low)):
            assert axis.back(axis(value)) == pytest.approx(value)
        assert all(axis.low <= t <= axis.high for t in axis.ticks())
        assert len(axis.ticks()) >= 4


def test_labels_are_spread_apart_in_their_order():
    at = spread([10, 12, 11, 200], 15, 0, 100)
    assert at[3] <= 100
    ordered = sorted(at)
    assert all(b - a >= 15 - 1e-9 for a, b in itertools.pairwise(ordered))
    assert at[0] < at[2] < at[1] < at[3]


@pytest.mark.parametrize(("value", "result"), [(1.0, 1), (1999, 1000), (2000, 2000), (4999, 2000), (0.7, 0.5)])
def test_round_distances(value, result):
    assert field.round_distance(value) == pytest.approx(result)


def test_a_wanted_direction_is_drawn_on_the_map(qapp):
    climb = full()
    plain, aimed = (
        field.MapPicture(finding=climb.field),
        field.MapPicture(finding=climb.field, wanted_bearing_deg=120.0),
    )
    one, other = (render(p, 500, 400, Paper(), 1.0) for p in (plain, aimed))
    assert one != other


def test_every_way_in_which_a_gain_was_measured_stands_on_the_verdict_s_axis(qapp):
    """A way of any name: nothing that was measured is told as none."""
    from tallmast.figures.paper import Paper
    from tallmast.figures.picture import render
    from tallmast.figures.verdict import GainPicture
    from tallmast.notebook.records import RangeGain
    from tallmast.notebook.records.lists import in_turn

    from ..findings.build import Book

    book = Book()
    a = book.antenna("A")
    book.antenna("R", known_gain_dbi=2.15)
    book.add(RangeGain(antenna_id="a", second_id="r", state_id=a.state.id, readings=in_turn("A -40; R -46; A -40")))
    picture = GainPicture(finding=book.climb(a).verdict)
    render(picture, 760, 260, Paper.of("Day"), 1.0)
    assert any("A, by substitution " in spot.label for spot in picture.spots)
