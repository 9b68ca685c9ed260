"""A summer of calls across a marsh, kept in a spreadsheet: brought in as it is, and judged."""

import csv
from datetime import datetime

import numpy as np
import openpyxl
import pytest

from tallmast.figures.bench import frequency_span
from tallmast.notebook.records import Antenna, Cut, DisplayRun, DistanceNote, MeterReading, Place, Reading, Run

from . import day

LONG = """\
Calls across the marsh,,,,,
Kept by the warden,,,,,

Place,Distance,Antenna,Report,Weather,Remarks
Ford,800 m,Rope Dipole,59,dry,
,,Squat Halo,57,dry,
Mill,1.2 km,Squat Halo,"55, 56",dry,leaves wet
,,Rope Dipole,58,dry,
Gate,2 miles,Rope Dipole,56,dry,
,,Squat Halo,53,dry,
Chapel,5 km,Squat Halo,nothing,dry,
,,Rope Dipole,54,dry,
Quarry,7 km,Rope Dipole,51,dry,
,,Squat Halo,no copy,dry,
Chapel,,Rope Dipole,55,dry,
,,Squat Halo,nothing,dry,
Gate,,Squat Halo,53,dry,
,,Rope Dipole,57,dry,
Mill,,Rope Dipole,57,dry,
,,Squat Halo,55,dry,
Ford,,Squat Halo,57,dry,
,,Rope Dipole,59,dry,
"""


@pytest.fixture
def brought(hands, tmp_path):
    day.ask(hands, "Dipole or halo across the marsh?", "144-146 MHz", [])
    path = tmp_path / "marsh.csv"
    path.write_text(LONG)
    hands.drop(path)
    hands.sheet_opens()
    return hands


def test_from_the_spreadsheet_to_the_verdict(brought, tmp_path):
    note = brought.window.sheet.note.text()
    assert "18 reports in it" in note and "put there: Rope Dipole and Squat Halo" in note
    assert "New places: Ford, Mill, Gate, Chapel and Quarry" in note
    brought.keep()
    assert day.verdict(brought).startswith("Rope Dipole is better than Squat Halo by ")
    assert day.alarms(brought) == []
    assert "Rope Dipole is better than Squat Halo by " in day.report(brought, tmp_path)


def test_there_and_back_are_two_passes_and_attempts_are_kept(brought):
    brought.keep()
    evidence = brought.window.session.evidence
    assert [a.name for a in evidence.all(Antenna)] == ["Rope Dipole", "Squat Halo"]
    runs = evidence.all(Run)
    assert [(r.number, evidence.title(r.antenna_id), len(evidence.readings(r.id))) for r in runs] == [
        (1, "Rope Dipole", 5),
        (2, "Squat Halo", 6),
        (3, "Rope Dipole", 4),
        (4, "Squat Halo", 4),
    ]
    assert all(r.weather == "dry" and r.plan.startswith("each ") for r in runs)
    assert {p.name: p.distance_m for p in evidence.all(Place)} == {
        "Ford": 800.0,
        "Mill": 1200.0,
        "Gate": pytest.approx(3218.7, abs=0.1),
        "Chapel": 5000.0,
        "Quarry": 7000.0,
    }
    assert [r.note for r in evidence.all(Reading) if r.note] == ["leaves wet"] * 2, "both attempts of that line"


def test_one_act_takes_it_back(brought):
    brought.keep()
    brought.chord("z")
    brought.settle()
    evidence = brought.window.session.evidence
    assert not evidence.all(Run) and not evidence.all(Antenna) and not evidence.all(Place)


def test_a_column_for_each_antenna(hands, tmp_path):
    """Names of the shelf in any letters; a distance beside a fix is checked by it; a dash says what it is told to."""
    day.ask(hands, "Which whip?", "433-435 MHz", ["Stub", "Long Whip"])
    day.places(hands, {"Barn": "57.9, -11.2", "ford": "57.9072, -11.2"})
    path = tmp_path / "lane.csv"
    path.write_text(
        "spot;km;stub;LONG WHIP\nFord;0,9;4;5\nmill;1,2;3;5\ngate;1,9;barely;clear\nridge;2,6;-;with difficulty\n"
    )
    hands.drop(path)
    hands.sheet_opens()
    note = hands.window.sheet.note.text()
    assert "Not on the shelf" not in note and "New places: mill, gate and ridge" in note
    assert "One dash taken as not tried" in note
    hands.fill({"dash": "nothing was heard"})
    hands.keep()
    evidence = hands.window.session.evidence
    assert len(evidence.all(Run)) == 2 and len(evidence.all(Reading)) == 8
    assert [r.heard for r in evidence.readings(evidence.runs[0].id)] == [True, True, True, False]
    assert not any(r.plan for r in evidence.runs), "columns side by side were in no order"
    assert [n.distance_m for n in evidence.all(DistanceNote)] == [900.0]
    assert "ford: typed 900 m, fixes say 80" in " ".join(day.checks(hands))
    assert "Long Whip" in day.verdict(hands)


def test_what_can_t_be_read_is_named_with_its_line_and_the_sheet_stays(hands, tmp_path):
    day.ask(hands, "Which?", "144-146 MHz", ["Dipole"])
    path = tmp_path / "odd.csv"
    path.write_text("place,report\nford,59\nmill,57\ngate,so so\nlock,58\n")
    hands.drop(path)
    hands.sheet_opens()
    hands.window.sheet.keep()
    hands.settle()
    assert "Line 4, gate: " in hands.window.sheet.trouble.text() and "so so" in hands.window.sheet.trouble.text()
    assert not hands.window.session.evidence.all(Run)
    path.write_text(path.read_text().replace("so so", "53"))
    hands.window.sheet.leave()
    hands.settle()
    hands.drop(path)
    hands.sheet_opens()
    hands.keep()
    assert [r.as_typed for r in hands.window.session.evidence.all(Reading)]
    assert {r.antenna_id for r in hands.window.session.evidence.runs} == {hands.window.session.evidence.antennas[0].id}


def test_bare_numbers_are_what_their_column_says(hands, tmp_path):
    day.ask(hands, "Which board?", "2400-2480 MHz", [])
    path = tmp_path / "boards.csv"
    path.write_text(
        "where,antenna,throughput kbit/s,sent\n"
        + "".join(
            f"{place},{antenna},{rate},{power}\n"
            for antenna, rates, power in (("Trace", (900, 700, 300), "10 mW"), ("Chip", (800, 400, 100), "20 mW"))
            for place, rate in zip(("desk", "hall", "yard"), rates, strict=True)
        )
    )
    hands.drop(path)
    hands.sheet_opens()
    hands.fill({"heard": "throughput kbit/s"})
    hands.keep()
    evidence = hands.window.session.evidence
    assert [(r.shown, r.scale) for r in evidence.all(Reading)][:3] == [
        (0.9, "bit rate"),
        (0.7, "bit rate"),
        (0.3, "bit rate"),
    ]
    assert [r.power_w for r in evidence.runs] == [0.01, 0.02]


def test_the_spreadsheet_itself_is_dropped_and_each_sheet_is_asked_about(hands, tmp_path):
    day.ask(hands, "Dipole or halo across the marsh?", "144-146 MHz", [])
    book = openpyxl.Workbook()
    book.active.title = "Calls"
    for line in csv.reader(LONG.splitlines()):
        book.active.append(line)
    steps = book.create_sheet("Steps")
    for line in (("attenuation dB", "bars"), (0, 5), (10, 4), (20, 2), (30, 1)):
        steps.append(line)
    path = tmp_path / "marsh.xlsx"
    book.save(path)
    hands.drop(path)
    hands.sheet_opens()
    assert hands.window.sheet.form.title == "Bring in marsh (Calls).csv"
    hands.keep()
    hands.sheet_opens()
    assert hands.window.sheet.form.title == "Bring in marsh (Steps).csv"
    hands.fill({"receiver": "handset"})
    hands.keep()
    evidence = hands.window.session.evidence
    assert len(evidence.all(Reading)) == 19 and [d.source for d in evidence.all(DisplayRun)] == ["marsh (Steps).csv"]
    assert day.verdict(hands).startswith("Rope Dipole is better than Squat Halo by ")


def test_a_report_that_a_spreadsheet_made_a_date_of_is_asked_about(hands, tmp_path):
    day.ask(hands, "Which?", "144-146 MHz", ["Dipole"])
    book = openpyxl.Workbook()
    for line in (("place", "report"), ("ford", "59"), ("mill", datetime(2026, 9, 5)), ("gate", "57"), ("lock", "55")):
        book.active.append(line)
    book.save(tmp_path / "odd.xlsx")
    hands.drop(tmp_path / "odd.xlsx")
    hands.sheet_opens()
    hands.window.sheet.keep()
    hands.settle()
    assert "Line 3, mill: " in hands.window.sheet.trouble.text() and "Write 59" in hands.window.sheet.trouble.text()


def test_another_distance_than_the_one_that_was_typed_is_told(hands, tmp_path):
    day.ask(hands, "Which?", "144-146 MHz", ["Dipole"])
    day.places(hands, {"ford": "800 m", "mill": "1.2 km"})
    (tmp_path / "notes.csv").write_text("place,how far,report\nFord,1 km,59\nMill,1250 m,57\n")
    hands.drop(tmp_path / "notes.csv")
    hands.sheet_opens()
    hands.keep()
    evidence = hands.window.session.evidence
    assert {p.name: p.distance_m for p in evidence.places} == {"ford": 800.0, "mill": 1200.0}
    label = hands.window.session.notebook.tape[-1].label
    assert "ford stays at 800 m, though 1 km stands in them" in label and "mill" not in label


def test_both_ends_of_a_drive_with_one_antenna(hands, tmp_path):
    """No antenna is on the shelf and no column says one: it is written in the sheet."""
    day.ask(hands, "How far up the road?", "144-146 MHz", [])
    path = tmp_path / "drive.tsv"
    rows = (("bridge 2 km", "59", "57"), ("church 4 km", "57", "53"), ("hill 9 km", "5/3", "nothing"))
    path.write_text("Landmark\tHome heard\tCar heard\n" + "".join("\t".join(row) + "\n" for row in rows))
    hands.drop(path)
    hands.sheet_opens()
    hands.fill({"antenna only": "Roof Whip"})
    hands.keep()
    evidence = hands.window.session.evidence
    (run,) = evidence.runs
    assert evidence.title(run.antenna_id) == "Roof Whip"
    assert [(r.end, r.as_typed) for r in evidence.readings(run.id)][-2:] == [("home", "5/3"), ("away", "nothing")]
    assert [p.distance_m for p in evidence.places] == [2000.0, 4000.0, 9000.0]


def test_without_a_question_the_verdict_says_what_the_notes_do(hands, tmp_path):
    path = tmp_path / "marsh.csv"
    path.write_text(LONG)
    hands.drop(path)
    hands.sheet_opens()
    hands.keep()
    said = hands.window.session.climb.field.sentence
    assert said.startswith("Rope Dipole is better than Squat Halo by ")
    told = day.verdict(hands)
    assert told == said
    assert "Nobody has asked a question yet" in hands.window.views["verdict"].detail.text()


def test_what_the_meter_showed_on_two_antennas(hands, tmp_path):
    """A reading a row, of both powers: SWR 1.5 at most is asked for."""
    day.ask(hands, "Which one for the club?", "144-146 MHz", ["Stub"])
    path = tmp_path / "meter.csv"
    path.write_text(
        "Antenna;Freq (MHz);Forward W;Reflected W\n"
        + "".join(
            f"{antenna};{mhz};5;{back}\n"
            for antenna, powers in (("stub", ("0,08", "0,02", "0,06")), ("Whip", ("0,9", "0,4", "0,8")))
            for mhz, back in zip((144, 145, 146), powers, strict=True)
        )
    )
    hands.drop(path)
    hands.sheet_opens()
    assert "Six readings in it. Not on the shelf yet, and put there: Whip." in hands.window.sheet.note.text()
    hands.keep()
    evidence = hands.window.session.evidence
    assert [a.name for a in evidence.antennas] == ["Stub", "Whip"]
    first = evidence.all(MeterReading)[0]
    root = (0.08 / 5) ** 0.5
    assert first.swr == pytest.approx((1 + root) / (1 - root), abs=1e-3) and first.power_w == 5.0
    assert day.verdict(hands).startswith("Stub holds the SWR limit, Whip misses it")


def test_a_meter_that_sends_more_back_than_forth_is_asked_about(hands, tmp_path):
    day.ask(hands, "Which one?", "144-146 MHz", ["Stub"])
    path = tmp_path / "meter.csv"
    path.write_text("MHz,forward W,reflected W\n144,5,0.2\n145,0.2,5\n")
    hands.drop(path)
    hands.sheet_opens()
    hands.window.sheet.keep()
    hands.settle()
    assert "Line 3: more comes back than goes forward" in hands.window.sheet.trouble.text()


def test_two_antennas_turned_in_one_table(hands, tmp_path):
    """A panel and a dipole on one stick, levels as received: who sends more toward where it points, and by how much."""
    day.ask(hands, "Panel or dipole?", "433-435 MHz", ["Dipole"])
    angle = np.arange(0, 360, 15)
    panel = -52.0 - 16.0 * (1 - np.cos(np.radians(angle))) / 2
    rows = "".join(f"{a},{p:.1f},{-58.0 + (a % 30) / 30:.1f}\n" for a, p in zip(angle, panel, strict=True))
    path = tmp_path / "stick.csv"
    path.write_text(f"Angle,Panel dBm,dipole dBm\n{rows}")
    hands.drop(path)
    hands.sheet_opens()
    assert (
        "A cut each of Panel and dipole. Not on the shelf yet, and put there: Panel." in hands.window.sheet.note.text()
    )
    hands.fill({"absolute": "as received, all in one session"})
    hands.keep()
    evidence = hands.window.session.evidence
    assert [evidence.title(c.antenna_id) for c in evidence.all(Cut)] == ["Panel", "Dipole"]
    assert {c.session for c in evidence.all(Cut)} == {"stick"} and all(c.absolute for c in evidence.all(Cut))


def test_what_was_brought_in_is_looked_at(hands, tmp_path):
    """The readings stand in the picture, near the band, and no word asks for a file; the focus is on what came."""
    day.ask(hands, "Which one?", "144-146 MHz", ["Old Stub"])
    (tmp_path / "swr.csv").write_text("MHz,Stub,Whip\n144.0,1.8,2.1\n145.0,1.5,1.3\n146.0,1.9,1.6\n")
    hands.drop(tmp_path / "swr.csv")
    hands.sheet_opens()
    hands.keep()
    session = hands.window.session
    assert session.focus_antenna.name == "Stub"
    low, high = frequency_span(list(session.climb.bench.antennas), (144e6, 146e6))
    assert 141e6 <= low < 144e6 and 146e6 < high <= 149e6
    hands.press("2")
    assert hands.sentence.startswith("Stub misses SWR 1.5 in 144–146 MHz")
