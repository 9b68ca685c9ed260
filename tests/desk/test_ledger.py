"""A table on paper, and the grid of calls, where there is more than anybody scrolls through."""

from tallmast.desk.ledger import MOST_ROWS, TableCard
from tallmast.figures.calls import MOST_PLACES, CallsPicture
from tallmast.figures.paper import Paper
from tallmast.findings.field.calls import Calls, Column
from tallmast.findings.table import Cell, Row, Table
from tallmast.notebook.records import Place


def test_a_table_longer_than_a_page_says_what_it_leaves_to_the_bundle(qtbot):
    card = TableCard("long", Paper("Day"))
    qtbot.addWidget(card)
    rows = tuple(Row((Cell(str(i)),)) for i in range(1000))
    card.show_table(Table("long", "Readings", ("N",), rows))
    assert card.ledger.rowCount() == MOST_ROWS
    assert f"the first {MOST_ROWS} of 1 000, the bundle has all" in card.heading.text()
    whose = tuple(Row((Cell(str(i)),), antenna_id="ab"[i % 2]) for i in range(1000))
    card.show_table(Table("long", "Readings", ("N",), whose), hidden={"a"})
    assert card.ledger.rowCount() == MOST_ROWS and "first" not in card.heading.text()
    card.show_table(Table("long", "Readings", ("N",), rows[:3]))
    assert card.ledger.rowCount() == 3 and "first" not in card.heading.text()


def test_a_grid_of_thousands_of_places_shows_the_nearest_and_says_so():
    places = tuple((Place(name=str(i)), f"{i} m") for i in range(2000))
    picture = CallsPicture(calls=Calls("readability", places, (Column(("a", "s"), "A", ""),), {}))
    assert picture.title.startswith("What was noted at the nearest 100 of 2 000 places")
    assert picture.height_for(800, Paper("Day")) < 3000 and MOST_PLACES == 100
