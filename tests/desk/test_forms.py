"""Entry sheets: what was kept comes back the same, corrections change only what was changed, nonsense is refused."""

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel

from tallmast.desk.field.reports import meant, report_of, reports_of
from tallmast.desk.field.sheets import place_at
from tallmast.desk.sheets.entry import EntrySheet
from tallmast.desk.sheets.fields import FieldError
from tallmast.desk.sheets.record_sheet import form
from tallmast.notebook.entry import Entry
from tallmast.notebook.records import (
    KINDS,
    Antenna,
    Cable,
    CableSweep,
    Claim,
    FarEnd,
    Fixture,
    HomeEnd,
    MeterReading,
    Question,
    Reading,
    Run,
    Sweep,
)
from tallmast.notebook.records.lists import pads, pads_text
from tallmast.units.read import UnitError


def test_opening_and_keeping_a_record_unchanged_writes_nothing(hands, qtbot):
    """What a sheet shows of a record is read back as the same record: no rounding creeps in."""
    session = hands.window.session
    for model in (m for m in KINDS.values() if m.rung):
        for record in session.evidence.all(model):
            before = session.notebook.head
            sheet = EntrySheet(form(session, model, record))
            sheet.build()
            qtbot.addWidget(sheet)
            assert sheet.keep(), (record, sheet.trouble.text())
            assert session.notebook.head == before, record
            assert session.evidence.get(model, record.id) == record


def test_a_correction_changes_what_was_written_and_nothing_else(hands):
    """What a sheet has no field for, and what it shows in few digits, stays to the last bit."""
    session = hands.window.session
    reading = session.evidence.all(MeterReading)[0]
    exact = reading.revised(taken_at="2026-05-02T10:00:00Z", swr=1.23456789, power_w=0.123456789)
    session.write(Entry("exact", [exact]))
    sheet = EntrySheet(form(session, MeterReading, exact))
    sheet.build()
    sheet.fields["fixture"].line.setText("Plate B")
    assert sheet.keep()
    assert session.evidence.get(MeterReading, exact.id) == exact.revised(fixture="Plate B")


@pytest.mark.parametrize("model", [Question, HomeEnd, FarEnd])
def test_single_records_too(hands, qtbot, model):
    session = hands.window.session
    before = [session.evidence.question, session.evidence.home_end, session.evidence.far_end]
    sheet = EntrySheet(form(session, model))
    sheet.build()
    qtbot.addWidget(sheet)
    assert sheet.keep(), sheet.trouble.text()
    after = [session.evidence.question, session.evidence.home_end, session.evidence.far_end]
    assert after == before


def test_the_far_ends_axial_ratio_is_written_and_stays(hands):
    window = hands.window
    window.act("far end")
    assert not window.sheet.fields["axial_ratio"].isVisible(), "a vertical antenna has none to note"
    hands.fill({"polarization": "right circular"})
    hands.fill({"axial_ratio": "1.26"})
    hands.keep()
    noted = window.session.evidence.far_end.axial_ratio_db
    assert noted == pytest.approx(2.0, abs=0.01)
    window.act("far end")
    hands.fill({"name": "gauge two"})
    hands.keep()
    assert window.session.evidence.far_end.axial_ratio_db == noted


def test_a_record_is_taken_out_and_comes_back(hands):
    window = hands.window
    claim = window.session.evidence.all(Claim)[0]
    window.open_record(claim)
    window.sheet._remove()
    hands.settle()
    assert window.session.evidence.get(Claim, claim.id) is None
    hands.chord("z")
    hands.settle()
    assert window.session.evidence.get(Claim, claim.id) == claim


def test_a_name_is_used_once(hands):
    hands.press("a")
    hands.fill({"name": "shed yagi"})
    hands.window.sheet.keep()
    assert "on the shelf already" in hands.window.sheet.trouble.text()


def test_a_new_antenna_gets_a_colour_of_its_own_and_the_focus(hands):
    hands.write("a", {"name": "Sixth"})
    session = hands.window.session
    slots = [a.slot for a in session.evidence.antennas]
    assert len(set(slots)) == len(slots)
    assert session.focus_antenna.name == "Sixth"


def test_a_state_is_noted_and_measurements_belong_to_it(hands):
    hands.write("s", {"name": "bent in the gale"})
    yagi = hands.window.session.evidence.get(Antenna, "antenna-shed-yagi")
    assert [s.name for s in yagi.states] == ["as built", "trimmed 0.7 mm", "trimmed 1.4 mm", "bent in the gale"]
    hands.write("m", {"swr": "2.0"})
    assert hands.window.session.climb.bench.focus.meters[-1].reading.state_id == yagi.state.id


def test_a_run_carries_everything_over_but_the_antenna(hands):
    hands.write("r", {"antenna": "Flat Panel"}, "run")
    session = hands.window.session
    *_, before, new = session.evidence.all(Run)
    assert new.number == before.number + 1
    for key in ("power_w", "pad_db", "rate", "channel_hz", "place_id", "path", "height_m", "manner"):
        assert getattr(new, key) == getattr(before, key), key


def test_forward_and_reflected_power_make_an_swr(hands):
    hands.write("m", {"forward": "16 W", "reflected": "1 W"})
    assert hands.window.session.climb.bench.focus.meters[-1].reading.swr == pytest.approx(5 / 3, abs=1e-3)


@pytest.mark.parametrize(
    ("values", "words"),
    [({"forward": "1 W", "reflected": "2 W"}, "swapped"), ({}, "Give the SWR"), ({"swr": "0.5"}, "Expected an SWR")],
)
def test_meter_nonsense(hands, values, words):
    hands.press_on("bench", "m")
    hands.fill(values)
    assert not hands.window.sheet.keep()
    assert words in hands.window.sheet.trouble.text()


def test_echoes_stand_under_the_field_at_once(hands):
    hands.press_on("field", "l")
    field = hands.window.sheet.fields["position"]
    field.line.setText("57°54.3'N 11 12 08 W")
    assert field.echo.text() == "57.90500° N 11.20222° W"
    field.line.setText("somewhere")
    assert field.echo.text().startswith("Expected coordinates, a distance")
    assert field.echo.property("bad") == "true"


@pytest.mark.parametrize(
    ("text", "values"),
    [
        ("10 dB 2 W + 6 dB", [(10, 2.0, 0.3), (6, 0.5, 0.3)]),
        ("3", [(3, 0.5, 0.3)]),
        ("20 dB ±0.5 1W", [(20, 1.0, 0.5)]),
        ("10 dB; 10 dB", [(10, 0.5, 0.3)] * 2),
    ],
)
def test_pads_as_people_write_them(text, values):
    made = pads(text)
    assert [(p.attenuation_db, p.rating_w, p.tolerance_db) for p in made] == values
    assert [(p.attenuation_db, p.rating_w) for p in pads(pads_text(made))] == [v[:2] for v in values]


@pytest.mark.parametrize("text", ["ten", "-3 dB", "10 dB loud", "+"])
def test_pad_nonsense(text):
    with pytest.raises(UnitError):
        pads(text)


@pytest.mark.parametrize(
    ("text", "heard", "level", "grade"),
    [
        ("h", True, None, None),
        ("not heard", False, None, None),
        ("4 of 5", True, None, 4),
        ("3/5", True, None, 3),
        ("R2", True, None, 2),
        ("-97 dBm", True, -97.0, None),
        ("S7", True, -105.0, None),
        ("59", True, -93.0, 5),
        ("5 by 7", True, -105.0, 5),
        ("R4 S7", True, -105.0, 4),
        ("59+10", True, -83.0, 5),
        ("barely", True, None, 2),
        ("Clear.", True, None, 5),
        ("nothing", False, None, None),
    ],
)
def test_reports_as_people_say_them(text, heard, level, grade):
    found = report_of(text, 869e6)
    assert (found["heard"], found["level_dbm"], found["readability"]) == (heard, level, grade)


@pytest.mark.parametrize("text", ["97", "+36.5", "61"])
def test_a_bare_number_that_no_report_has_is_asked_about(text):
    with pytest.raises(UnitError, match="a unit"):
        meant(report_of(text, 869e6), None)


@pytest.mark.parametrize(
    ("text", "read_on", "kept"),
    [
        ("36", "bit rate", ("bit rate", 36.0, True, None)),
        ("0", "bit rate", ("bit rate", 0.0, False, None)),
        ("12", "delay", ("delay", 12.0, True, None)),
        ("0", "dropouts", ("dropouts", 0.0, True, None)),
        ("4", "picture grade", ("picture grade", 4.0, True, None)),
        ("4", "readability", ("", None, True, 4)),
        ("31 Mbit/s", "bars", ("bit rate", 31.0, True, None)),
        ("3 in 40 s", "", ("dropouts", 4.5, True, None)),
        ("snow", "", ("picture grade", 2.0, True, None)),
        ("gone", "picture grade", ("", None, False, None)),
        ("59", "", ("", None, True, 5)),
    ],
)
def test_what_a_number_means_is_the_runs(text, read_on, kept):
    run = Run(number=1, antenna_id="a", power_w=1.0, read_on=read_on)
    found = meant(report_of(text, 869e6), run)
    assert (found["scale"], found["shown"], found["heard"], found["readability"]) == kept


def test_a_display_shows_no_more_than_it_can():
    with pytest.raises(UnitError, match="picture grade from 0 to 5"):
        meant(report_of("7", 869e6), Run(number=1, antenna_id="a", power_w=1.0, read_on="picture grade"))


def test_a_bare_number_is_read_on_what_the_run_says_and_stands_over_the_field(hands):
    hands.write("r", {"read_on": "Mbit/s"}, "run")
    session = hands.window.session
    hands.go_for("n", "reading")
    hands.press("n")
    assert "a bare number is Mbit/s" in " ".join(label.text() for label in hands.window.sheet.findChildren(QLabel))
    hands.press(Qt.Key.Key_Escape)
    before = len(session.evidence.all(Reading))
    hands.write("n", {"what": "21, 27, 24"}, "reading")
    kept = session.evidence.all(Reading)[before:]
    assert [(r.as_typed, r.scale, r.shown) for r in kept] == [
        ("21 Mbit/s", "bit rate", 21.0),
        ("27 Mbit/s", "bit rate", 27.0),
        ("24 Mbit/s", "bit rate", 24.0),
    ]


def test_a_spoken_report_stands_as_it_was_said(hands):
    hands.write("n", {"what": "5/9"}, "reading")
    kept = hands.window.session.evidence.all(Reading)[-1]
    assert (kept.as_typed, kept.readability, kept.level_dbm) == ("5/9", 5, -93.0)
    hands.window.open_record(kept)
    sheet = hands.window.sheet
    assert sheet.fields["what"].line.text() == "5/9" and "readability 5" in sheet.fields["what"].echo.text()
    before = len(hands.window.session.notebook.tape)
    hands.keep()
    assert len(hands.window.session.notebook.tape) == before


@pytest.mark.parametrize(
    ("text", "north_m", "east_m"),
    [
        ("60 m east of the barn", 0, 60),
        ("1.5 miles N", 2414, 0),
        ("800 m at 180°", -800, 0),
        ("2 km south-west of Barn", -1414, -1414),
    ],
)
def test_a_place_so_far_from_another(text, north_m, east_m):
    latitude, longitude, _ = place_at(text, {"barn": (57.9, -11.2), "quay": (57.9, -11.2)}, "quay")
    # A degree of latitude at 57.9° is 111.36 km, one of longitude 59.34 km (WGS 84).
    assert (latitude - 57.9) * 111_360 == pytest.approx(north_m, abs=3)
    assert (longitude + 11.2) * 59_340 == pytest.approx(east_m, abs=3)


@pytest.mark.parametrize("text", ["60", "60 m over there", "60 m east of the mill", "0 m east", "1e9 km N", "east"])
def test_a_place_nowhere(text):
    with pytest.raises(UnitError):
        place_at(text, {"barn": (57.9, -11.2)}, "barn")


@pytest.mark.parametrize(("text", "metres"), [("1.5 miles", 2414.0), ("800 m", 800.0), ("2 miles NE", 3219.0)])
def test_a_place_known_by_its_distance_alone(text, metres):
    """Of a direction from a home that nobody placed on the map, the distance is left."""
    latitude, longitude, distance = place_at(text, {}, "")
    assert (latitude, longitude) == (None, None) and distance == pytest.approx(metres, abs=1)


def test_a_place_is_written_by_its_distance_and_direction(hands):
    hands.write("l", {"name": "Slip", "position": "300 m north of the Quay"}, "place")
    evidence = hands.window.session.evidence
    place = next(p for p in evidence.places if p.name == "Slip")
    assert place.longitude_deg == pytest.approx(evidence.home.longitude_deg, abs=1e-9)
    fix = next(f for f in hands.window.session.climb.field.places if f.place.id == place.id)
    assert fix.distance.value == pytest.approx(300.0, abs=0.01) and fix.bearing_deg % 360 == pytest.approx(0, abs=0.01)


def test_many_attempts_in_one_line_are_each_a_reading_and_none_hides_another(hands):
    before = hands.window.session.evidence.all(Reading)
    hands.write("n", {"what": "59, 57; nothing"}, "reading")
    kept = hands.window.session.evidence.all(Reading)[len(before) :]
    assert [(r.as_typed, r.heard, r.readability) for r in kept] == [
        ("59", True, 5),
        ("57", True, 5),
        ("nothing", False, None),
    ]
    assert len({r.id for r in kept}) == 3 and len({(r.run_id, r.place_id, r.end) for r in kept}) == 1
    report = next(
        p
        for p in hands.window.session.climb.field.reports
        if p.run.run.id == kept[0].run_id and p.place.id == kept[0].place_id
    )
    assert [r.as_typed for r in getattr(report, kept[0].end)][-3:] == ["59", "57", "nothing"]
    assert hands.window.session.notebook.tape[-1].label.endswith("59 and 2 more")
    hands.chord("z")
    hands.settle()
    assert hands.window.session.evidence.all(Reading) == before, "one act, taken back as one"
    hands.window.open_record(before[-1])
    hands.fill({"what": "59, 57"})
    hands.press(Qt.Key.Key_Return)
    assert "one reading" in hands.window.sheet.trouble.text()


def test_a_decimal_comma_parts_nothing():
    assert [r["level_dbm"] for r in reports_of("-97,5 dBm", 869e6)] == [-97.5]
    assert [r["level_dbm"] for r in reports_of("-97,5 dBm, -99", 869e6)] == [-97.5, -99.0]


def test_attempts_in_a_row_and_so_many_of_so_many():
    assert [r["heard"] for r in reports_of("h h n h", 145e6)] == [True, True, False, True]
    assert [r["level_dbm"] for r in reports_of("-97 -99 -95", 145e6)] == [-97.0, -99.0, -95.0]
    assert [r["heard"] for r in reports_of("3 of 4 heard", 145e6)] == [True, True, True, False]
    assert [r["heard"] for r in reports_of("heard 0 of 2 times", 145e6)] == [False, False]
    assert reports_of("4 of 5", 145e6)[0]["readability"] == 4, "a readability, not four of five calls"
    assert [r["readability"] for r in reports_of("59 57 -", 50e6)] == [5, 5, None]
    for text in ("5 of 4 heard", "1 of 900 calls", "h purple", "heard well", "weak clear"):
        with pytest.raises(UnitError):
            reports_of(text, 145e6)


@pytest.mark.parametrize("frequency_hz", [50e6, 70e6])
def test_a_spoken_report_counts_where_nobody_knows_what_level_its_s_units_are(frequency_hz):
    told = report_of("59", frequency_hz)
    assert told["heard"] and told["readability"] == 5 and told["level_dbm"] is None


def test_report_nonsense():
    with pytest.raises(UnitError, match="heard, not heard"):
        report_of("purple", 869e6)


def test_what_is_typed_for_an_antenna_that_there_is_not_is_refused(window, tmp_path, qtbot):
    """With nothing on the shelf there is nothing to choose, so anything could be typed."""
    assert window.files.new_notebook(tmp_path / "n.tallmast")
    for model, values in ((Claim, {"value": "8 dBi"}), (Run, {"power": "10 mW"}), (MeterReading, {"swr": "1.2"})):
        sheet = EntrySheet(form(window.session, model))
        sheet.build()
        qtbot.addWidget(sheet)
        sheet.fields["antenna"].line.setText("Yagi")
        if "frequency" in sheet.fields:
            sheet.fields["frequency"].line.setText("869 MHz")
        for key, text in values.items():
            sheet.fields[key].line.setText(text)
        assert not sheet.keep()
        assert sheet.trouble.text() == "Put the antenna on the shelf first."
    assert not window.session.notebook.tape


def test_field_errors_name_their_field():
    assert FieldError("swr", "no").key == "swr"


NEW_KINDS = [
    Fixture(
        name="Plate A", body="steel, 350 mm", cable=Cable(loss_db=0.4321, length_m=1.2345), limit=1.15, lasts_s=12345.0
    ),
    CableSweep(name="blue", far_end="open", series_id="none", velocity_factor=0.6789, length_m=3.001),
]


@pytest.mark.parametrize("record", NEW_KINDS, ids=lambda r: r.kind)
def test_records_of_the_bench_are_opened_and_kept_unchanged_and_corrected(hands, record):
    session = hands.window.session
    columns = {"none": {"frequency_hz": np.arange(3.0), "re": np.zeros(3), "im": np.zeros(3)}}
    session.write(Entry("new", [record], series=columns if hasattr(record, "series_id") else {}))
    head = session.notebook.head
    hands.window.open_record(record)
    assert hands.window.sheet.keep()
    assert session.notebook.head == head
    hands.window.open_record(record)
    hands.window.sheet.fields["name"].line.setText("another name")
    hands.window.sheet.fields["reason"].line.setText("two alike")
    assert hands.window.sheet.keep()
    assert session.evidence.get(type(record), record.id) == record.revised(name="another name")
    assert session.notebook.tape[-1].reason == "two alike"


@pytest.mark.parametrize(
    ("field", "typed", "words"),
    [("limit", "1", "can’t be met"), ("lasts", "0", "above zero"), ("loss", "lots", "Expected")],
)
def test_a_fixture_that_makes_no_sense(hands, field, typed, words):
    hands.window.write(form(hands.window.session, Fixture))
    sheet = hands.window.sheet
    sheet.fields["name"].line.setText("Plate A")
    sheet.fields[field].line.setText(typed)
    assert not sheet.keep()
    assert words in sheet.trouble.text()


def test_a_chain_of_connectors_is_written_by_names_and_checked_end_to_end(hands):
    session = hands.window.session
    hands.press("1")
    hands.write(
        "d", {"name": "odd lead", "first_family": "SMA", "second_family": "BNC", "loss": "0.4 dB", "rating": "5 W"}
    )
    panel = next(a for a in session.evidence.antennas if a.name == "Corkscrew")
    hands.window.open_record(panel)
    hands.sheet_opens()
    hands.fill({"through": "elbow, blue"})
    hands.press(Qt.Key.Key_Return)
    assert "There is no blue in the drawer. There is elbow, 10 dB pad," in hands.window.sheet.trouble.text()
    hands.fill({"through": "elbow, odd lead"})
    hands.keep()
    assert any("Corkscrew: N and SMA don't mate" in tag.text() for tag in hands.window.views["shelf"].tags.parts)
    assert hands.window.views["shelf"].pieces.ledger.rowCount() == 3


def test_a_delay_settles_the_length_of_a_cable_and_an_untouched_loss_keeps_its_curve(hands):
    session = hands.window.session
    session.write(Entry("plate", [Fixture(id="p", name="P", cable=Cable(loss_db=0.5, length_m=1.0, root_db=0.016))]))
    sheet = EntrySheet(form(session, Fixture, session.evidence.get(Fixture, "p")))
    sheet.build()
    sheet.fields["delay"].line.setText("10 ns")
    assert sheet.keep()
    cable = session.evidence.get(Fixture, "p").cable
    assert cable.length_m == pytest.approx(10e-9 * 0.66 * 299_792_458)  # 1.979 m
    assert cable.root_db == 0.016
    sheet = EntrySheet(form(session, Fixture, session.evidence.get(Fixture, "p")))
    sheet.build()
    sheet.fields["loss"].line.setText("0.7 dB")
    assert sheet.keep()
    assert session.evidence.get(Fixture, "p").cable.root_db is None


def test_a_bandwidth_claim_takes_its_swr_with_it(hands):
    hands.write("c", {"antenna": "Gull", "quantity": "bandwidth", "value": "30 MHz at SWR 1.5"})
    claim = hands.window.session.evidence.all(Claim)[-1]
    assert (claim.value, claim.second_value) == (30e6, 1.5)
    hands.write("c", {"antenna": "Gull", "quantity": "resonance", "value": "869 MHz"})
    assert hands.window.session.evidence.all(Claim)[-1].value == 869e6


def test_sweeps_on_another_connection_are_compared_where_a_reason_is_given(hands):
    session = hands.window.session
    sweep = session.evidence.all(Sweep)[0]
    sheet = EntrySheet(form(session, Sweep, sweep))
    sheet.build()
    sheet.fields["taken_in_reason"].line.setText("the plate was bolted down")
    assert sheet.keep()
    assert session.evidence.get(Sweep, sweep.id).taken_in_reason == "the plate was bolted down"


def test_a_long_sheet_shows_what_the_kind_needs_and_the_rest_under_one_key(hands):
    hands.press_on("shelf", "a")
    sheet = hands.window.sheet

    def shown() -> set[str]:
        return {key for key, part in sheet.fields.items() if not part.isHidden()}

    assert shown() == {"name", "type", "made", "polarization", "length"}
    assert sheet.more.text() == "17 more fields  Ctrl+M" and "Mass" in sheet.more.accessibleName()
    hands.fill({"type": "helix", "polarization": "right circular"})
    assert shown() >= {"diameter", "turns", "turn_spacing", "axial_ratio"}
    assert not shown() & {"elements", "face_width", "mass"}
    hands.chord("m")
    assert shown() == set(sheet.fields) and sheet.more.isHidden()
    assert hands.window.focusWidget().objectName() == "field-face_width", "the first that was folded away"
    hands.fill({"name": "Coil", "mass": "410 g"})
    hands.keep()
    antenna = next(a for a in hands.window.session.evidence.antennas if a.name == "Coil")
    hands.window.open_record(antenna)
    sheet = hands.window.sheet
    assert {"mass", "turns"} <= shown() and "price" not in shown(), "what was written is in sight"
    hands.fill({"name": "Coil B"})
    hands.keep()
    assert hands.window.session.evidence.get(type(antenna), antenna.id).mass_kg == antenna.mass_kg
    hands.press_on("shelf", "a")
    sheet = hands.window.sheet
    hands.fill({"name": "Odd", "price": "-3"})
    hands.press(Qt.Key.Key_Return)
    assert not sheet.fields["price"].isHidden() and "0 or more" in sheet.trouble.text().replace("zero", "0")


@pytest.mark.parametrize(
    ("quantity", "typed", "value"),
    [
        ("swr", "< 1.5", 1.5),
        ("swr", "≤1.5", 1.5),
        ("swr", "max. 2", 2.0),
        ("axial ratio", ">= 0.9", 0.915),
        ("axial ratio", "better than 3 dB", 3.0),
        ("gain", ">8 dBi", 8.0),
        ("gain", "up to 9 dBi", 9.0),
        ("gain", "4x", 6.02),
        ("beamwidth", "about 60° x 40°", 60.0),
        ("range", "up to 15 km", 15_000.0),
    ],
)
def test_what_makers_write_before_a_number_is_read(quantity, typed, value):
    from tallmast.desk.shelf.sheets import _claim_value

    assert _claim_value(quantity, typed)[0] == pytest.approx(value, rel=2e-3)
