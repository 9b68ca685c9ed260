"""A stub on three bands: a check antenna first on all of them, meter with power and analyzer, then handheld to handheld; later the
distance is corrected and the lab moved."""

import numpy as np
import pytest

from tallmast.physics.resonance import series_gamma

from . import day

BANDS = {"144-146 MHz": 145e6, "222-225 MHz": 223.5e6, "430-440 MHz": 435e6}


def touchstone(path, f0: float, r: float, q: float):
    f = np.linspace(0.94 * f0, 1.06 * f0, 201)
    gamma = series_gamma(f, f0, r, q)
    path.write_text(
        "# Hz S RI R 50\n" + "\n".join(f"{a:.0f} {g.real:.6f} {g.imag:.6f}" for a, g in zip(f, gamma, strict=True))
    )
    return path


@pytest.fixture
def measured(hands, tmp_path):
    first, *rest = BANDS
    day.ask(
        hands,
        "Is the stub any good on the truck?",
        first,
        ("Check whip", "Stub"),
        further="; ".join(f"{b} 2" for b in rest),
        asks="whether an antenna is sound",
    )
    for band, at in zip(BANDS, ("", "223 MHz", "435 MHz"), strict=True):
        hands.write(
            "c",
            {"antenna": "Stub", "quantity": "SWR", "value": "1.5", **({"at": at} if at else {"at": "145 MHz"})},
            "add claim",
        )
        for antenna, r in (("Check whip", 46.0), ("Stub", 46.0 if band == first else 17.0)):
            hands.drop(touchstone(tmp_path / f"{antenna}-{BANDS[band]:.0f}.s1p", BANDS[band], r, 6.0))
            hands.sheet_opens()
            hands.fill({"antenna": antenna})
            hands.keep()
    return hands


def test_one_table_of_bands_with_what_fails_against_its_claim(measured, tmp_path):
    climb = measured.window.session.climb
    told = {(a.antenna.name, b.number): (a.mark, a.claim) for b in climb.bands for a in b.antennas}
    assert all(told["Check whip", k][0] == "holds" for k in range(3))
    assert told["Stub", 0] == ("holds", "claimed 1.5: holds")
    assert told["Stub", 1][1] == told["Stub", 2][1] == "claimed 1.5: fails"
    assert day.verdict(measured).startswith("Stub misses the limit: in 222–225 MHz its SWR is ")
    assert measured.sentence.endswith("; it holds in 144–146 MHz.")
    text = day.report(measured, tmp_path)
    assert "Worst SWR in every band" in text and "claimed 1.5: fails" in text
    measured.press("2")
    measured.press(";")
    measured.settle()
    assert "222–225 MHz (2 of 3" in measured.window.top.question.band_label.text()


def test_two_calls_made_and_one_heard_and_the_distance_corrected(measured):
    """Caught: the typed distance is corrected openly; two calls are two, and half of them is no range."""
    day.places(measured, {"Yard": "57.9000, -11.2000", "Quarry": "57.9260, -11.2000"})
    quarry = next(p for p in measured.window.session.evidence.places if p.name == "Quarry")
    measured.window.open_record(quarry)
    measured.fill({"typed": "1.2 miles"})
    measured.keep()
    measured.write("r", {"antenna": "Stub", "power": "5 W", "channel": "145.5 MHz"}, "run")
    measured.write("n", {"what": "nothing; 53; nothing", "place": "Quarry"}, "reading")
    told = day.checks(measured)
    assert any(t.startswith("Quarry: typed 1.93 km, fixes say 2.9") for t in told)
    field = measured.window.session.climb.field
    assert not field.reaches, "heard once of three: no range"


def test_the_lab_that_was_moved_is_told(measured):
    """Caught: field strength is compared only within the same set-up."""
    for setting, level in (
        ("bench by the window", "-31 dBm"),
        ("bench by the window", "-33 dBm"),
        ("bench by the door", "-38 dBm"),
    ):
        antenna = "Check whip" if level == "-31 dBm" else "Stub"
        day.run(measured, {}, antenna=antenna, other=f"lab: {setting}")
        if "Bench" not in [p.name for p in measured.window.session.evidence.places]:
            measured.write("l", {"name": "Bench"}, "place")
        measured.write("n", {"what": level, "place": "Bench"}, "reading")
    field = measured.window.session.climb.field
    moved = [c for c in field.contrasts if c.change.factor == "lab" or any(x.factor == "lab" for x in c.changes)]
    assert moved, "where the lab stood is a factor of its own"
    pair = next(c for c in field.contrasts if c.change.factor == "antenna" and len(c.changes) == 1)
    assert abs(pair.figure.value - 2.0) < 0.5, "what the run from the door read is the lab's, not the antenna's"
