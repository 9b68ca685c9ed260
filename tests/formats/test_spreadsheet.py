"""Spreadsheets as they are saved: what is in their cells, sheet by sheet, as a CSV would have it."""

import csv
import io
import random
import zipfile
from datetime import date, datetime, time, timedelta

import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tallmast.formats import field_notes, spreadsheet
from tallmast.formats.arrived import load_all
from tallmast.formats.errors import FormatError

NAMESPACES = " ".join(
    f'xmlns:{short}="urn:oasis:names:tc:opendocument:xmlns:{short}:1.0"' for short in ("office", "table", "text")
)


def xlsx(**sheets) -> bytes:
    book = openpyxl.Workbook()
    book.remove(book.active)
    for name, rows in sheets.items():
        sheet = book.create_sheet(name)
        for row in rows:
            sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def ods(*tables: str, mimetype: bytes = spreadsheet.OPEN_DOCUMENT, head: str = "") -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", mimetype)
        body = "".join(tables)
        content = f"<office:document-content {NAMESPACES}><office:body><office:spreadsheet>{body}"
        content += "</office:spreadsheet></office:body></office:document-content>"
        archive.writestr("content.xml", f'<?xml version="1.0"?>{head}{content}')
    return out.getvalue()


def cell(text: str = "", more: str = "") -> str:
    return f"<table:table-cell {more}>{f'<text:p>{text}</text:p>' if text else ''}</table:table-cell>"


def row(*cells: str, more: str = "") -> str:
    return f"<table:table-row {more}>{''.join(cells)}</table:table-row>"


def sheet(*rows: str, name: str = "Calls") -> str:
    return f'<table:table table:name="{name}">{"".join(rows)}</table:table>'


def rows_of(data: bytes, name: str = "x.xlsx") -> dict[str, list[list[str]]]:
    return {title: list(csv.reader(io.StringIO(text.decode()))) for title, text in spreadsheet.sheets(data, name)}


class TestOfficeOpen:
    def test_each_sheet_that_holds_anything_with_lines_where_they_were(self):
        data = xlsx(Calls=[["place", "report"], [], ["ford", 59], ["mill", -97.5]], Empty=[], Other=[["a"]])
        assert spreadsheet.is_spreadsheet(data)
        assert rows_of(data) == {
            "Calls": [["place", "report"], [], ["ford", "59"], ["mill", "-97.5"]],
            "Other": [["a"]],
        }

    def test_dates_times_shares_and_words(self):
        book = openpyxl.Workbook()
        values = (datetime(2026, 5, 9), datetime(2026, 5, 9, 8, 30), time(8, 30), timedelta(hours=1, minutes=5), True)
        for i, value in enumerate((*values, date(2026, 9, 5), "two\nlines", 0.1 + 0.2, None), 1):
            book.active.cell(1, i, value)
        book.active.cell(1, 10, 0.64).number_format = "0%"
        book.active.cell(1, 11, 64).number_format = '0" %"'
        out = io.BytesIO()
        book.save(out)
        (found,) = rows_of(out.getvalue()).values()
        assert found == [
            [
                "2026-05-09",
                "2026-05-09 08:30:00",
                "08:30:00",
                "01:05:00",
                "yes",
                "2026-09-05",
                "two lines",
                "0.3",
                "",
                "64 %",
                "64",
            ]
        ]

    @settings(max_examples=25)
    @given(st.lists(st.lists(st.text("ab,;\"' 59-é", max_size=5), min_size=2, max_size=4), min_size=1, max_size=5))
    def test_words_come_back(self, rows):
        flat = [[" ".join(cell.split()) for cell in row] for row in rows]
        if not any(any(row) for row in flat):
            with pytest.raises(FormatError, match="no sheet of it holds anything"):
                spreadsheet.sheets(xlsx(A=rows), "x.xlsx")
            return
        (found,) = rows_of(xlsx(A=rows)).values()
        written = [[cell for cell in row if cell] for row in flat]
        while written and not written[-1]:
            written.pop()
        assert [[cell for cell in row if cell] for row in found] == written


class TestOpenDocument:
    def test_values_by_their_kind_and_repeats(self):
        kinds = row(
            cell("0,59", 'office:value-type="float" office:value="0.59"'),
            cell("64 %", 'office:value-type="percentage" office:value="0.64"'),
            cell("09.05.", 'office:value-type="date" office:date-value="2026-05-09T08:30:00"'),
            cell("08:30", 'office:value-type="time" office:time-value="PT08H30M00S"'),
            cell("WAHR", 'office:value-type="boolean" office:boolean-value="true"'),
            cell("the <text:span>ford</text:span>"),
        )
        blank = row(cell(more='table:number-columns-repeated="16384"'), more='table:number-rows-repeated="1048570"')
        twice = row(cell("59", 'table:number-columns-repeated="2"'), more='table:number-rows-repeated="2"')
        gap = row(cell(), more='table:number-rows-repeated="2"')
        data = ods(sheet(kinds, gap, twice, blank), sheet(blank, name="Empty"))
        assert spreadsheet.is_spreadsheet(data)
        assert rows_of(data) == {
            "Calls": [
                ["0.59", "64 %", "2026-05-09 08:30:00", "08:30:00", "yes", "the ford"],
                [],
                [],
                ["59", "59"],
                ["59", "59"],
            ]
        }

    def test_merged_cells_are_the_row_above_for_the_notes(self):
        merged = cell("ford", 'table:number-rows-spanned="2"')
        covered = "<table:covered-table-cell/>"
        data = ods(
            sheet(
                row(cell("place"), cell("antenna"), cell("report")),
                row(merged, cell("A"), cell("59")),
                row(covered, cell("B"), cell("57")),
                row(cell("mill"), cell("A"), cell("55")),
            )
        )
        ((_, text),) = spreadsheet.sheets(data, "x.ods")
        assert [(n.place, n.antenna, n.heard) for n in field_notes.read(text, "x.csv").rows] == [
            ("ford", "A", "59"),
            ("ford", "B", "57"),
            ("mill", "A", "55"),
        ]

    def test_what_is_none_or_means_harm_is_told(self):
        assert not spreadsheet.is_spreadsheet(ods(sheet(), mimetype=b"application/vnd.oasis.opendocument.text"))
        assert not spreadsheet.is_spreadsheet(b"PK\x03\x04 no archive") and not spreadsheet.is_spreadsheet(
            b"a,b\n1,2\n"
        )
        bomb = ods(
            sheet(row(cell("59", 'table:number-columns-repeated="4000000"'), more='table:number-rows-repeated="9"'))
        )
        with pytest.raises(FormatError, match="more than five million cells"):
            spreadsheet.sheets(bomb, "x.ods")
        entities = ods(sheet(row(cell("&a;"))), head='<!DOCTYPE a [<!ENTITY a "aaaa">]>')
        for broken in (entities, ods("<table:table>")):
            with pytest.raises(FormatError, match="the spreadsheet is broken"):
                spreadsheet.sheets(broken, "x.ods")


def test_a_sheet_may_be_called_what_no_file_may(tmp_path):
    path = tmp_path / "day.ods"
    path.write_bytes(
        ods(
            sheet(
                row(cell("place"), cell("report")),
                row(cell("ford"), cell("59")),
                row(cell("mill"), cell("57")),
                name="5/9",
            )
        )
    )
    (arrived,) = load_all(path)
    assert arrived.path.name == "day (5-9).csv" and arrived.kind == "field notes"


def test_bent_ones_are_read_or_told():
    seeds = (xlsx(Calls=[["place", "report"], ["ford", 59]]), ods(sheet(row(cell("place"), cell("report")))))
    chance = random.Random(7)
    for k in range(150):
        data = bytearray(seeds[k % 2])
        for _ in range(chance.choice((1, 3, 30))):
            data[chance.randrange(4, len(data))] = chance.randrange(256)
        if spreadsheet.is_spreadsheet(bytes(data)):
            try:
                spreadsheet.sheets(bytes(data), "x.xlsx")
            except FormatError as error:
                assert len(str(error)) < 400
