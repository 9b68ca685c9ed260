"""A small antenna on a fence post sends through a step pad; a drone with a logger of raw counts flies round it, and the same with
a loaded pair. The counts were stepped on the bench."""

import numpy as np
import pytest

from tallmast.physics.geodesy import destination
from tallmast.physics.propagation import free_space_loss_db
from tallmast.physics.resonance import series_gamma

from . import day

POST = (57.9, -11.2)
FREQUENCY_HZ = 434e6
BETTER_DB = 2.4
COUNTS_A_DB, AT_100 = 2.5, 100.0


def counts(level_dbm: np.ndarray) -> np.ndarray:
    return np.clip(np.round(AT_100 + COUNTS_A_DB * (level_dbm + 100.0)), 60, 255)


def stepped(path, random):
    """What the logger showed of −20 dBm through 10 to 90 dB."""
    attenuation = np.repeat(np.arange(10.0, 91.0, 2.0), 4)
    shown = counts(-20.0 - attenuation + random.normal(0, 0.15, len(attenuation)))
    rows = "\n".join(f"{a:g},{v:g}" for a, v in zip(attenuation, shown, strict=True))
    path.write_text(f"attenuation dB,counts\n{rows}\n")
    return path


def orbit(path, random, gain_dbi: float):
    """Four rounds at 60 to 150 m and 15 m over the post: sent 250 mW − 24 dB, a probe of 0 dBi, each run its own offset."""
    turn = np.linspace(0, 4 * 360, 480)
    radius = 60.0 + 90.0 * turn / turn[-1]
    at = [destination(*POST, float(b % 360), float(r)) for b, r in zip(turn, radius, strict=True)]
    sent = 10 * np.log10(250.0) - 24.0 + gain_dbi + random.normal(0, 0.4)
    level = sent - free_space_loss_db(np.hypot(radius, 15.0), FREQUENCY_HZ) + random.normal(0, 1.5, len(turn))
    rows = "\n".join(
        f"{i},{p[0]:.7f},{p[1]:.7f},15,{c:g}" for i, (p, c) in enumerate(zip(at, counts(level), strict=True))
    )
    path.write_text(f"time s,lat,lon,alt m,rssi\n{rows}\n")
    return path


def spiral(path, random, pair: bool):
    """Ten rounds from 2° to 55° over the post at 60 m: the pair has 3 dB more on the horizon and a flatter beam, alike at 25°."""
    turn = np.linspace(0, 10 * 360, 900)
    above = np.radians(np.linspace(2, 55, len(turn)))
    radius = 60.0 + random.normal(0, 1.0, len(turn))
    at = [destination(*POST, float(b % 360), float(r)) for b, r in zip(turn, radius, strict=True)]
    gain = 3.0 - 3.0 * (np.degrees(above) / 25.0) ** 2 if pair else 0.0 * turn
    sent = 10 * np.log10(250.0) - 24.0 + random.normal(0, 0.3)
    level = sent + gain - free_space_loss_db(radius / np.cos(above), FREQUENCY_HZ) + random.normal(0, 1.0, len(turn))
    up = 2.0 + radius * np.tan(above)
    rows = "\n".join(
        f"{i},{p[0]:.7f},{p[1]:.7f},{h:.2f},{c:g}"
        for i, (p, h, c) in enumerate(zip(at, up, counts(level), strict=True))
    )
    path.write_text(f"time s,lat,lon,alt m,rssi\n{rows}\n")
    return path


def test_better_below_and_worse_above(hands, tmp_path):
    """The map of each antenna with the slant path taken out, and the elevation at which the better one changes."""
    random = np.random.default_rng(12)
    ready(hands, tmp_path, random)
    for number, antenna in enumerate(("Single", "Pair", "Pair", "Single"), 1):
        hands.write("r", {"antenna": antenna, "power": "250 mW - 24 dB", "manner": "flight"}, "run")
        hands.drop(spiral(tmp_path / f"spiral-{number}.csv", random, antenna == "Pair"))
        hands.sheet_opens()
        hands.fill({"receiver": "logger", "heights": "the ground"})
        hands.keep()
    pattern = hands.window.session.climb.pattern
    (side,) = pattern.side_by_side
    low, high = side.crossing.interval
    assert low < 25.0 < high and side.crossing.half < 8
    hands.press("4")
    text = hands.window.views["pattern"].detail.text()
    assert "Pair is better than Single by " in text and " of elevation, and worse above it by " in text
    for found in pattern.antennas:
        told = found.flown.grid.level_db[:, found.flown.grid.elevation_deg <= 50]
        assert np.isfinite(told).mean() > 0.8, "a map, over what was flown"
    assert "Pair is better than Single by " in day.report(hands, tmp_path)


def touchstone(path, f0: float):
    f = np.linspace(400e6, 470e6, 201)
    rows = "\n".join(
        f"{a:.0f} {g.real:.6f} {g.imag:.6f}" for a, g in zip(f, series_gamma(f, f0, 46.0, 8.0), strict=True)
    )
    path.write_text(f"# Hz S RI R 50\n{rows}\n")
    return path


def ready(hands, tmp_path, random) -> None:
    """The question, the two antennas, the post, and the logger's display stepped on the bench."""
    day.ask(
        hands, "Is the loaded pair worth it?", "433-435 MHz", {"Single": {"type": "whip"}, "Pair": {"type": "whip"}}
    )
    day.places(hands, {"Post": f"{POST[0]}, {POST[1]}"})
    hands.write("q", {"home_place": "Post"}, "ask question")
    hands.drop(stepped(tmp_path / "steps.csv", random))
    hands.sheet_opens()
    hands.fill({"receiver": "logger", "shows": "level", "zero": "-20 dBm"})
    hands.keep()


def fly(hands, tmp_path, receiver: str) -> None:
    random = np.random.default_rng(11)
    ready(hands, tmp_path, random)
    for number, antenna in enumerate(("Single", "Pair", "Pair", "Single"), 1):
        hands.write("r", {"antenna": antenna, "power": "250 mW - 24 dB", "manner": "flight"}, "run")
        hands.drop(orbit(tmp_path / f"round-{number}.csv", random, 0.0 + (BETTER_DB if antenna == "Pair" else 0.0)))
        hands.sheet_opens()
        if receiver:
            hands.fill({"receiver": receiver})
        hands.keep()


def test_the_pair_is_better_by_so_many_decibels(hands, tmp_path):
    fly(hands, tmp_path, "logger")
    assert day.alarms(hands) == []
    run = hands.window.session.evidence.runs[0]
    assert run.power_w == pytest.approx(0.25 * 10**-2.4), "as it is written on the pad"
    difference = next(c for c in hands.window.session.climb.field.contrasts if c.change.factor == "antenna")
    low, high = difference.figure.interval
    assert low < BETTER_DB < high or low < -BETTER_DB < high
    assert day.verdict(hands).startswith("Pair ")
    text = day.report(hands, tmp_path)
    assert "Pair" in text and "over Single" in text


def test_counts_are_no_dbm_and_said_so(hands, tmp_path):
    """Caught: a logger's counts taken for a level."""
    fly(hands, tmp_path, "")
    field = hands.window.session.climb.field
    assert "the logs of runs 1, 2, 3 and 4 are no dBm" in [c.text for c in field.checks]
    assert not field.samples, "nothing of it is a level"
    assert day.verdict(hands).startswith("Pair ") and " dB" not in hands.sentence, (
        "better, without saying by how many dB"
    )


def test_opened_it_resonates_higher_and_a_sleeve_brings_it_back(hands, tmp_path):
    day.ask(hands, "Is the loaded pair worth it?", "433-435 MHz", {"Pair": {"type": "whip"}})
    for state, f0 in (("", 434e6), ("opened", 441e6), ("sleeved", 434.5e6)):
        if state:
            hands.write("s", {"name": state}, "new state")
        hands.drop(touchstone(tmp_path / f"{state or 'as made'}.s1p", f0))
        hands.sheet_opens()
        hands.keep()
    antenna = hands.window.session.evidence.antennas[0]
    assert [s.name for s in antenna.states][1:] == ["opened", "sleeved"]
    focus = hands.window.session.climb.bench.focus
    at = {r.sweep.state_id: r.resonance.value for r in (*focus.earlier, focus.sweep)}
    as_made, opened, sleeved = (at[state.id] for state in antenna.states)
    assert opened - as_made == pytest.approx(7.0, abs=0.3) and sleeved - as_made == pytest.approx(0.5, abs=0.3), "MHz"


def test_counts_that_nobody_stepped_are_maps_on_one_scale_with_the_bad_patch_named(hands, tmp_path):
    """The same rounds on a logger whose counts nobody knows: Single has a feed line that shadows 120° to 170°, low down."""
    random = np.random.default_rng(13)
    day.ask(
        hands, "Is the loaded pair worth it?", "433-435 MHz", {"Single": {"type": "whip"}, "Pair": {"type": "whip"}}
    )
    day.places(hands, {"Post": f"{POST[0]}, {POST[1]}"})
    hands.write("q", {"home_place": "Post"}, "ask question")
    for number, antenna in enumerate(("Single", "Pair"), 1):
        path = spiral(tmp_path / f"raw-{number}.csv", random, pair=False)
        if antenna == "Single":
            shadowed(path)
        hands.write("r", {"antenna": antenna, "manner": "flight"}, "run")
        hands.drop(path)
        hands.sheet_opens()
        hands.keep()
    climb = hands.window.session.climb
    hands.window.session.focus(climb.pattern.antennas[0].antenna.id)
    hands.settle()
    hands.press("4")
    assert hands.sentence.startswith("Single, flown round, is best at ") and " dB" not in hands.sentence
    text = hands.window.views["pattern"].detail.text()
    assert "Weakest patch: " in text and "Pair shows " in text
    found = hands.window.session.climb.pattern
    single, pair = found.own_maps
    assert single.edges == pair.edges
    patch = found.focus.own_flown[-1].patch
    assert 100 < patch.from_deg < 140 and 150 < patch.to_deg < 190 and patch.high_deg <= 40
    assert hands.sentence in day.report(hands, tmp_path)


def shadowed(path) -> None:
    """Thirty counts fewer toward 120° to 170°, to 25° over the post."""
    head, *rows = path.read_text().splitlines()
    turn = np.linspace(0, 10 * 360, len(rows)) % 360.0
    above = np.linspace(2, 55, len(rows))
    low = (turn >= 120.0) & (turn <= 170.0) & (above <= 25.0)
    out = []
    for row, less in zip(rows, low, strict=True):
        *start, shown = row.split(",")
        out.append(",".join((*start, f"{float(shown) - (30 if less else 0):g}")))
    path.write_text("\n".join((head, *out)) + "\n")
