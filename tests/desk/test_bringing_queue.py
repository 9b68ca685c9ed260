"""The queue of files: nothing is lost behind a wrong answer, another sheet or another notebook; what came in can be mended."""

import shutil
import threading

import numpy as np
import pytest
from PySide6.QtCore import Qt

from tallmast.desk.frame.finder import Finder
from tallmast.formats.arrived import Whole
from tallmast.formats.text import LARGE_BYTES
from tallmast.notebook.records import Cut, GainTable, Log, Place


def titled(hands, title):
    hands.qtbot.waitUntil(
        lambda: hands.window.sheet is not None and hands.window.sheet.form.title == title, timeout=10_000
    )


def newest(hands, model):
    return hands.window.session.evidence.all(model)[-1]


def a_log(path, last="1"):
    rows = "\n".join(f"{i},57.9{i:03d},-11.1{i:03d},{-70 - i * 0.1:.1f},{last}" for i in range(100, 160))
    path.write_text(f"t,lat,lon,rssi,other\n{rows}\n")
    return path


def a_cut(path):
    path.write_text("angle,dB\n" + "\n".join(f"{a},{-abs(a - 180) / 20:.2f}" for a in range(0, 360, 10)))
    return path


def test_after_a_wrong_column_the_sheet_is_there_still_and_the_files_behind_it_come(hands, tmp_path):
    hands.drop(a_log(tmp_path / "l.csv", last="400"), a_cut(tmp_path / "c.csv"))
    titled(hands, "Bring in l.csv")
    hands.fill({"run": "2:", "latitude_deg": "other"})
    hands.press(Qt.Key.Key_Return)
    sheet = hands.window.sheet
    hands.qtbot.waitUntil(sheet.trouble.isVisible, timeout=10_000)
    assert "400 is no latitude" in sheet.trouble.text()
    assert hands.window.sheet is sheet
    assert sheet.texts()["run"] == sheet.form.fields[0].choices[1][0], "what was chosen stays"
    hands.fill({"latitude_deg": "lat", "time_s": "none"})
    hands.keep()
    log = newest(hands, Log)
    assert log.source == "l.csv"
    assert "time_s" not in hands.window.session.evidence.series(log.series_id), "no time was chosen"
    titled(hands, "Bring in c.csv")
    hands.keep()
    assert newest(hands, Cut).source == "c.csv"


def test_a_sheet_that_another_one_replaced_comes_back_as_it_was(hands, tmp_path):
    hands.drop(a_cut(tmp_path / "c.csv"))
    titled(hands, "Bring in c.csv")
    hands.fill({"session": "the far field", "plane": "elevation"})
    hands.window.act("ask question")
    assert hands.window.sheet.form.title != "Bring in c.csv"
    hands.press(Qt.Key.Key_Escape)
    titled(hands, "Bring in c.csv")
    hands.keep()
    cut = newest(hands, Cut)
    assert (cut.session, cut.plane) == ("the far field", "elevation")


def test_files_wait_for_a_sheet_that_is_being_written(hands, tmp_path):
    hands.window.act("add antenna")
    sheet = hands.window.sheet
    hands.fill({"name": "Half written"})
    hands.drop(a_cut(tmp_path / "c.csv"))
    hands.settle()
    assert hands.window.sheet is sheet
    assert "c.csv waits until the sheet at the side is kept" in hands.trouble
    assert sheet.texts()["name"] == "Half written"
    hands.press(Qt.Key.Key_Escape)
    titled(hands, "Bring in c.csv")


def test_another_notebook_takes_nothing_that_was_meant_for_the_one_before(hands, demo_file, tmp_path):
    other = tmp_path / "other.tallmast"
    shutil.copy(demo_file, other)
    hands.drop(a_cut(tmp_path / "c.csv"), a_log(tmp_path / "l.csv"))
    titled(hands, "Bring in c.csv")
    hands.window.open_notebook(other)
    hands.settle()
    assert hands.window.sheet is None
    assert "Two files still waiting for the notebook before were not brought in." in hands.trouble


@pytest.mark.parametrize("name", ["other", "other.db", "other.csv"])
def test_a_notebook_is_one_whatever_its_name_ends_in(hands, demo_file, tmp_path, name):
    other = tmp_path / name
    shutil.copy(demo_file, other)
    hands.drop(a_cut(tmp_path / "c.csv"), other)
    hands.settle()
    assert hands.window.session.notebook.path.name == name
    assert "The one other file with it was left" in hands.trouble


def test_a_log_that_came_in_is_read_anew_moved_and_taken_out(hands, tmp_path):
    hands.drop(a_log(tmp_path / "l.csv", last="-111"))
    hands.sheet_opens()
    hands.keep()
    log = newest(hands, Log)
    session = hands.window.session
    hands.window.open_record(log)
    assert "60 points" in hands.window.sheet.note.text()
    hands.fill({"level_dbm": "other", "reason": "the other radio"})
    hands.keep()
    again = newest(hands, Log)
    assert (again.id, again.raw_sha256) == (log.id, log.raw_sha256)
    assert set(session.evidence.series(again.series_id)["level_dbm"]) == {-111.0}
    assert session.notebook.tape[-1].reason == "the other radio"
    hands.window.open_record(again)
    hands.fill({"run": "1:"})
    hands.keep()
    assert session.evidence.get(Log, log.id).run_id == session.evidence.runs[0].id
    assert session.evidence.get(Log, log.id).series_id == again.series_id
    hands.window.open_record(newest(hands, Log))
    hands.window.sheet._remove()
    hands.settle()
    assert session.evidence.get(Log, log.id) is None
    hands.chord("z")
    hands.settle()
    assert session.evidence.get(Log, log.id) is not None


def test_a_column_that_can_t_be_read_leaves_the_kept_log_as_it_was(hands, tmp_path):
    hands.drop(a_log(tmp_path / "l.csv", last="400"))
    hands.sheet_opens()
    hands.keep()
    log = newest(hands, Log)
    hands.window.open_record(log)
    hands.fill({"latitude_deg": "other"})
    hands.press(Qt.Key.Key_Return)
    hands.qtbot.waitUntil(hands.window.sheet.trouble.isVisible, timeout=10_000)
    assert newest(hands, Log) == log


def test_a_track_of_a_gpx_file_has_a_sheet_without_columns(hands, tmp_path):
    points = "".join(f'<trkpt lat="{57.9 + i * 1e-4}" lon="-11.2"><cmt>{-70 - i} dBm</cmt></trkpt>' for i in range(9))
    (tmp_path / "t.gpx").write_text(f"<gpx><trk><trkseg>{points}</trkseg></trk></gpx>")
    hands.drop(tmp_path / "t.gpx")
    hands.sheet_opens()
    hands.keep()
    hands.window.open_record(newest(hands, Log))
    assert set(hands.window.sheet.fields) == {"run", "reason", "heights", "fix_u", "behind", "lost"}


def test_a_gain_table_that_came_in_is_moved_and_taken_out(hands, tmp_path):
    (tmp_path / "g.csv").write_text("MHz,gain dBi,u dB\n860,2.0,0.4\n870,2.15,0.4\n880,2.2,0.4\n")
    hands.drop(tmp_path / "g.csv")
    hands.sheet_opens()
    hands.keep()
    session = hands.window.session
    table = newest(hands, GainTable)
    np.testing.assert_allclose(session.evidence.series(table.series_id)["gain_dbi"], [2.0, 2.15, 2.2])
    hands.window.open_record(table)
    assert "Three frequencies from 860 MHz to 880 MHz; 2.0 to 2.2 dBi." in hands.window.sheet.note.text()
    hands.fill({"antenna": "Flat Panel", "reason": "wrong one"})
    hands.keep()
    assert session.evidence.antenna(newest(hands, GainTable).antenna_id).name == "Flat Panel"
    hands.window.open_record(newest(hands, GainTable))
    hands.window.sheet._remove()
    hands.settle()
    assert session.evidence.get(GainTable, table.id) is None


def test_what_was_brought_in_is_found_by_its_name(hands, tmp_path):
    hands.drop(a_log(tmp_path / "evening walk.csv"))
    hands.sheet_opens()
    hands.keep()
    hands.chord("k")
    found = hands.window.findChild(Finder)
    found.line.setText("evening walk")
    row = found.list.topLevelItem(0)
    assert row.text(0) == "log evening walk.csv"
    assert row.text(1).endswith("Field"), "and where it belongs"
    found.reject()


def test_waypoints_alone_need_no_sheet_and_are_told_when_they_are_places_already(hands, tmp_path):
    (tmp_path / "w.gpx").write_text('<gpx><wpt lat="57.93" lon="-11.19"><name>Gannet Ledge</name></wpt></gpx>')
    before = len(hands.window.session.evidence.places)
    hands.drop(tmp_path / "w.gpx")
    hands.qtbot.waitUntil(lambda: len(hands.window.session.evidence.places) == before + 1, timeout=10_000)
    assert newest(hands, Place).name == "Gannet Ledge"
    hands.settle()
    hands.drop(tmp_path / "w.gpx")
    hands.qtbot.waitUntil(lambda: "places already" in hands.trouble, timeout=10_000)
    assert hands.window.sheet is None


def test_what_is_read_again_for_one_notebook_is_not_kept_in_another(hands, demo_file, tmp_path):
    other = tmp_path / "other.tallmast"
    shutil.copy(demo_file, other)
    hands.drop(a_log(tmp_path / "l.csv", last="-111"))
    titled(hands, "Bring in l.csv")
    hands.fill({"level_dbm": "other"})
    hands.window.sheet.keep()
    hands.window.open_notebook(other)
    hands.settle()
    hands.qtbot.waitUntil(lambda: "another notebook was opened meanwhile" in hands.trouble, timeout=10_000)
    assert all(log.source != "l.csv" for log in hands.window.session.evidence.all(Log))


class TestLongLog:
    """Its sheet is there by its first rows; the rest is read meanwhile."""

    ROWS = 20_000

    @pytest.fixture
    def gate(self, monkeypatch):
        """The rest is not read before the test lets it."""
        opened, whole = threading.Event(), Whole.__call__

        def behind(self):
            assert opened.wait(10)
            return whole(self)

        monkeypatch.setattr(Whole, "__call__", behind)
        yield opened
        opened.set()

    def written(self, path, **odd):
        rows = [f"{i},57.9{i:05d},-11.1{i:05d},{-70 - i % 40:.1f},{i % 7}" for i in range(self.ROWS)]
        for row, text in odd.values():
            rows[row] = text
        path.write_text("t,lat,lon,rssi,other\n" + "\n".join(rows) + "\n")
        assert path.stat().st_size > LARGE_BYTES
        return path

    def test_what_was_odd_further_down_is_told_once_it_is_read(self, hands, tmp_path, gate):
        hands.drop(self.written(tmp_path / "long.csv", lost=(15_000, "15000,57.915,-11.115,,1")))
        titled(hands, "Bring in long.csv")
        sheet = hands.window.sheet
        assert "without a level" not in sheet.note.text()
        gate.set()
        hands.qtbot.waitUntil(lambda: "One row without a level" in sheet.note.text(), timeout=10_000)
        assert sheet is hands.window.sheet

    def test_kept_before_it_is_read_all_of_it_is_kept(self, hands, tmp_path, gate):
        before = len(hands.window.session.evidence.all(Log))
        hands.drop(self.written(tmp_path / "long.csv"))
        titled(hands, "Bring in long.csv")
        hands.press(Qt.Key.Key_Return)
        assert len(hands.window.session.evidence.all(Log)) == before, "nothing is shown as kept that is not"
        gate.set()
        hands.qtbot.waitUntil(lambda: hands.window.sheet is None, timeout=10_000)
        log = newest(hands, Log)
        assert len(hands.window.session.evidence.series(log.series_id)["level_dbm"]) == self.ROWS
        assert hands.window.session.notebook.raw(log.raw_sha256).data == (tmp_path / "long.csv").read_bytes()

    def test_what_is_wrong_further_down_is_told_before_anybody_keeps_it_and_other_columns_mend_it(
        self, hands, tmp_path, gate
    ):
        hands.drop(self.written(tmp_path / "long.csv", beyond=(15_000, "15000,99.0,-11.115,-80,1")))
        titled(hands, "Bring in long.csv")
        sheet, before = hands.window.sheet, len(hands.window.session.evidence.all(Log))
        gate.set()
        hands.qtbot.waitUntil(sheet.trouble.isVisible, timeout=10_000)
        assert "line 15002" in sheet.trouble.text() and "99 is no latitude" in sheet.trouble.text()
        hands.press(Qt.Key.Key_Return)
        hands.window.session.settle()
        assert hands.window.sheet is sheet and len(hands.window.session.evidence.all(Log)) == before
        hands.fill({"latitude_deg": "other"})
        hands.keep()
        assert newest(hands, Log).mapping["latitude_deg"] == "other"
