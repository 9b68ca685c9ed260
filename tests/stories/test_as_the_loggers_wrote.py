"""Two collars for grazing sheep, walked round a hill by four people with four loggers, each of which writes in its own way."""

import numpy as np
import pytest

from . import day

BETTER_DB = 5.0
RUNS = ("Stiff", "Loop", "Loop", "Stiff")
START = 8 * 3600 + 59 * 60 + 30


class Hill:
    """What the receiver at the hut heads of a collar along the way, once a second: shadows stay, each walk has its own mood."""

    def __init__(self) -> None:
        self.random = np.random.default_rng(31)
        n = 240
        self.along = np.linspace(0.0, 1.0, n)
        self.latitude = 57.9 + 0.004 * np.sin(2 * np.pi * self.along) + 0.006 * self.along
        self.longitude = -11.2 + 0.012 * self.along
        steps = self.random.normal(0, 1.0, n // 8 + 1)
        self.shadow = 4.0 * np.interp(np.arange(n) / 8.0, np.arange(len(steps)), steps)
        north, east = (self.latitude - 57.9) * 111_300.0, (self.longitude + 11.2) * 59_300.0
        self.distance = np.hypot(north, east) + 30.0

    def level(self, collar: str) -> np.ndarray:
        better = BETTER_DB if collar == "Loop" else 0.0
        mood = self.random.normal(0, 0.5)
        return better + mood + self.shadow - 20.0 - 26.0 * np.log10(self.distance) + self.random.normal(0, 1.5, 240)


def clock(i: int, style: str) -> str:
    s = START + i
    hour, minute, second = s // 3600, s // 60 % 60, s % 60
    return {
        "iso": f"2026-05-09T{hour:02d}:{minute:02d}:{second:02d}.0Z",
        "am": f"9/5/2026 {hour}:{minute:02d}:{second:02d} AM",
        "ms": f"{1000 * (s - START)}",
        "plain": f"{hour:02d}:{minute:02d}:{second:02d}",
    }[style]


def written(hill: Hill, k: int, level: np.ndarray) -> str:
    """Four loggers."""
    rows = list(zip(hill.latitude, hill.longitude, level, strict=True))
    if k == 0:
        return "Flock tracker 4\nSerial: 17\n\nUTC,GPS,RSSI,battery %\n" + "".join(
            f'{clock(i, "iso")},"{a:.6f}, {o:.6f}",{v:.0f} dBm,90\n' for i, (a, o, v) in enumerate(rows)
        )
    if k == 1:
        return "Zeit;Breite;Länge;Pegel\nms;deg;deg;dBm\n" + "".join(
            f"{clock(i, 'ms')};{a:.6f};{o:.6f};{v:.1f}\n".replace(".", ",") for i, (a, o, v) in enumerate(rows)
        )
    if k == 2:
        return "date time\tlat\tlon\ttx power dBm\trssi\n" + "".join(
            f"{clock(i, 'am')}\t{a:.6f} N\t{-o:.6f} W\t14\t{v:.0f}\n" for i, (a, o, v) in enumerate(rows)
        )
    return "time,latitude,longitude,signal dBm\n" + "".join(
        f"{clock(i, 'plain')},{'--' if i < 9 else f'{a:.6f}'},{'--' if i < 9 else f'{o:.6f}'},{v:.0f}\n"
        for i, (a, o, v) in enumerate(rows)
    )


@pytest.fixture
def walked(hands, tmp_path):
    hill = Hill()
    day.ask(hands, "Which collar is heard better at the hut?", "868-870 MHz", ["Stiff", "Loop"])
    day.places(hands, {"Hut": "57.9000, -11.2000"})
    for k, collar in enumerate(RUNS):
        hands.write("r", {"antenna": collar, "power": "25 mW"}, "run")
        path = tmp_path / f"walk {k + 1}.csv"
        path.write_text(written(hill, k, hill.level(collar)))
        hands.drop(path)
        hands.sheet_opens()
        hands.keep()
    return hands


def test_the_better_collar_by_so_many_decibels_whatever_wrote_it_down(walked, tmp_path):
    assert day.alarms(walked) == []
    low, high = walked.window.session.climb.field.headline.interval
    assert low < BETTER_DB < high and high - low < 4.0
    sentence = day.verdict(walked)
    assert sentence.startswith("Loop ") and "Stiff" in sentence
    assert sentence in day.report(walked, tmp_path)


def test_every_walk_keeps_its_time_its_rows_and_what_was_done_to_them(walked):
    evidence = walked.window.session.evidence
    series = [evidence.series(log.series_id) for run in evidence.runs for log in evidence.logs(run.id)]
    assert [len(s["level_dbm"]) for s in series] == [240, 240, 240, 231]
    for columns in series:
        assert np.diff(columns["time_s"]) == pytest.approx(1.0)
        assert columns["longitude_deg"].max() < -11.18
    tape = [act.label for act in walked.window.session.notebook.tape]
    assert any("nine rows without a position left out" in label for label in tape)


def test_who_loses_fewer_packets_is_better(hands, tmp_path):
    """A logger that counts what was lost: the collar with less of it is the better one."""
    random = np.random.default_rng(5)
    day.ask(hands, "Which collar loses less?", "868-870 MHz", ["Stiff", "Loop"])
    for k, collar in enumerate(RUNS):
        hands.write("r", {"antenna": collar, "power": "25 mW"}, "run")
        lost = random.binomial(40, 0.05 if collar == "Loop" else 0.2, 120) * 2.5
        path = tmp_path / f"hut {k + 1}.csv"
        path.write_text(
            "Hut receiver\n\ntime,loss\n" + "".join(f"{clock(i, 'plain')},{v:g} %\n" for i, v in enumerate(lost))
        )
        hands.drop(path)
        hands.sheet_opens()
        assert "turned to what came through" in hands.window.sheet.note.text()
        hands.keep()
    assert day.verdict(hands).startswith("Loop looks better than Stiff; probable ("), (
        "one walk each, told by its packets alone"
    )
