"""Turns on the spot: few directions or many, in decibels or on a scale of their own; and a probe turned before the antenna."""

import numpy as np
import pytest

from tallmast.findings.pattern.ellipse import as_measured
from tallmast.notebook.records import Antenna, Sector, Turn
from tallmast.notebook.records.directions import heard, heard_text, sectors, sectors_text
from tallmast.units.read import UnitError

from .build import Book
from .test_tracks import stepped


def turned(antenna: Antenna, text: str, **more) -> Turn:
    return Turn(antenna_id=antenna.id, state_id=antenna.state.id, readings=heard(text), **more)


def book_of(*turns: tuple[str, dict], **antenna):
    book = Book()
    a = book.antenna("Panel", **antenna)
    for text, more in turns:
        book.add(turned(a, text, **more))
    return book.climb(a).pattern


class TestTyped:
    @pytest.mark.parametrize(
        ("text", "at"),
        [
            ("21, 27, 24, 9", {0: [21], 90: [27], 180: [24], 270: [9]}),
            ("21 27 24 9 8 6", {0: [21], 60: [27], 120: [24], 180: [9], 240: [8], 300: [6]}),
            ("12: 27; 3: 16; 6: 9; 9: 14", {0: [27], 90: [16], 180: [9], 270: [14]}),
            ("12: 27, 3: 16 17, 6: 9, 9: 14", {0: [27], 90: [16, 17], 180: [9], 270: [14]}),
            ("0° -67; 45° -72 -73; 90° nothing", {0: [-67], 45: [-72, -73], 90: []}),
            ("N 27; E 16; S 9; W 14", {0: [27], 90: [16], 180: [9], 270: [14]}),
            ("front 27, right 16, back nothing", {0: [27], 90: [16], 180: []}),
            ("12 o’clock 27; 2 o'clock 9", {0: [27], 60: [9]}),
            ("0: 27; 15: 9", {0: [27], 15: [9]}),  # a zero is no hour: degrees
            ("N -67 dBm; E -72 dBm", {0: [-67], 90: [-72]}),
            ("21 Mbit/s, 27 Mbit/s, 24 Mbit/s, 9 Mbit/s", {0: [21], 90: [27], 180: [24], 270: [9]}),
            ("90: 1; 90: 2; 0: 3", {90: [1, 2], 0: [3]}),
        ],
    )
    def test_as_people_write_it(self, text, at):
        assert {h.at_deg: h.values for h in heard(text)} == at

    def test_nothing_is_counted(self):
        assert heard("0° 3 nothing; 90° n not heard")[1].nothing == 2

    @pytest.mark.parametrize("text", ["", "27", "a: 3; b: 4", "13 o'clock 4; 3 o'clock 2", "12: ; 3: 4", "27, x, 24"])
    def test_what_can_t_be_read_is_said(self, text):
        with pytest.raises(UnitError):
            heard(text)

    @pytest.mark.parametrize("text", ["21, 27, 24, 9", "0° -67; 45° -72 -73; 90° nothing", "12: 1e-3; 3: 16.125"])
    def test_what_is_written_back_is_read_as_the_same(self, text):
        assert heard(heard_text(heard(text))) == heard(text)

    def test_sectors(self):
        made = sectors("100-130 house; 350 to 10 tree; 180 head")
        assert [(s.from_deg, s.to_deg, s.name) for s in made] == [
            (100, 130, "house"),
            (350, 10, "tree"),
            (165, 195, "head"),
        ]
        assert made[1].holds(5) and made[1].holds(355) and not made[1].holds(20)
        assert sectors(sectors_text(made)) == made


class TestFewDirections:
    def test_four_tell_which_side_and_no_beam(self):
        found = book_of(("-60, -70, -78, -69", {}))
        (cut,) = found.of("panel").cuts
        assert found.sentence.startswith("Panel, read in four directions, is strongest in front, at least ")
        assert found.sentence.endswith(" dB weaker on the opposite side.")
        assert cut.front_to_back.value == pytest.approx(18.0) and 8 < cut.front_to_back.interval[0] < 14
        assert cut.beamwidth is None and not cut.nulls and cut.sidelobe is None
        assert "no beamwidth from so few directions" in [c.text for c in found.checks]

    def test_what_differs_less_than_a_body_does_is_alike(self):
        found = book_of(("-60, -62, -61, -60", {}))
        assert "is alike all round within what so few readings tell" in found.sentence

    def test_a_turntable_is_trusted_more_than_a_person(self):
        by = {
            w: book_of(("-60, -70, -78, -69", {"turned_by": w})).of("panel").cuts[0].front_to_back
            for w in ("person", "turntable")
        }
        assert by["turntable"].interval[0] > by["person"].interval[0] + 2

    def test_where_nothing_was_heard_it_is_weaker_than_the_weakest(self):
        found = book_of(("front -60, right -70, back nothing, left -72", {}))
        back = found.of("panel").cuts[0].front_to_back
        assert back.bound == "at least" and 5 < back.interval[0] <= 12
        assert "nothing heard behind" in found.sentence

    def test_twelve_tell_a_beam(self):
        at = np.arange(0, 360, 30)
        off = (at + 180) % 360 - 180
        text = "; ".join(f"{a}° {-60 - min(12 * (o / 80) ** 2, 22):.1f}" for a, o in zip(at, off, strict=True))
        assert book_of((text, {})).of("panel").cuts[0].beamwidth.value == pytest.approx(80, abs=12)

    def test_the_way_of_noting_turns_the_pattern_the_right_way(self):
        # The antenna looked to 3 o'clock: the far end at 12 stood to its left.
        by_front = book_of(("12: -60; 3: -64; 6: -80; 9: -70", {"noted_as": "front"}))
        by_far = book_of(("12: -60; 9: -64; 6: -80; 3: -70", {"noted_as": "far end"}))
        for found in (by_front, by_far):
            cut = found.of("panel").cuts[0]
            levels = dict(zip(cut.angle_deg.tolist(), cut.level_db.tolist(), strict=True))
            assert levels[270.0] - levels[90.0] == pytest.approx(6.0)

    def test_by_the_compass_with_the_far_end_at_a_bearing(self):
        cut = book_of(("208° -60; 298° -70; 28° -80; 118° -71", {"far_bearing_deg": 208.0})).of("panel").cuts[0]
        assert cut.peak_deg == 0.0 and cut.front_to_back.value == pytest.approx(20.0)


class TestOwnScale:
    def test_a_display_that_was_never_stepped_tells_no_decibels(self):
        found = book_of(
            ("27, 16, 9, 14", {"read_on": "bit rate", "in_the_way": [Sector(from_deg=165, to_deg=195, name="head")]})
        )
        assert found.sentence == "Panel, read in four directions, shows 27 Mbit/s in front and 9 Mbit/s behind."
        assert " dB" not in found.sentence and "head behind" in found.detail
        assert "Mbit/s are no decibels" in [c.text for c in found.checks]

    def test_less_delay_is_better(self):
        found = book_of(("28, 40, 90, 41", {"read_on": "delay"}))
        assert found.sentence == "Panel, read in four directions, shows 28 ms in front and 90 ms behind."


def ellipse(ratio_db: float, tilt: float, step: float = 15.0, scatter: float = 0.0) -> str:
    psi = np.arange(0, 360, step)
    off, minor = np.radians(psi - tilt), 10 ** (-ratio_db / 10)
    level = -50 + 10 * np.log10(np.cos(off) ** 2 + minor * np.sin(off) ** 2)
    level += np.random.default_rng(3).normal(0, scatter, len(psi)) if scatter else 0.0
    return "; ".join(f"{a:g}° {v:.3f}" for a, v in zip(psi, level, strict=True))


class TestPolarization:
    def found(self, text: str, claim: float | None = None, **more):
        book = Book()
        a = book.antenna("Helix", polarization=more.pop("noted", "right circular"))
        if claim is not None:
            book.claim(a, "axial ratio", claim)
        book.add(turned(a, text, plane="polarization", **more))
        return book.climb(a).pattern, a

    def test_a_probe_turned_gives_axial_ratio_and_a_claim_is_judged(self):
        pattern, a = self.found(ellipse(4.0, 30.0, scatter=0.3), claim=1.0)
        ratio = pattern.of("helix").polarization[0].axial_ratio
        low, high = ratio.interval
        assert low < 4.0 < high and high - low < 1.5
        (check,) = [c for c in pattern.checks if "claimed axial ratio" in c.text]
        assert check.mark == "fails"
        assert as_measured(a, pattern.of("helix").polarization).axial_ratio_db == pytest.approx(4.0, abs=0.6)

    def test_the_verdict_says_the_same_of_the_claim(self):
        book = Book()
        a = book.antenna("Helix", polarization="right circular")
        book.claim(a, "axial ratio", 1.0)
        assert [f.mark for f in book.climb(a).verdict.claims] == ["open"], "nothing measured yet"
        book.add(turned(a, ellipse(4.0, 30.0, scatter=0.3), plane="polarization"))
        (fate,) = book.climb(a).verdict.claims
        assert fate.mark == "fails" and " dB (" in fate.against

    def test_a_claim_that_holds(self):
        pattern, _ = self.found(ellipse(1.0, 30.0, scatter=0.2), claim=3.0)
        assert [c.mark for c in pattern.checks if "axial ratio" in c.text] == ["holds"]

    def test_which_way_round_by_two_readings(self):
        pattern, _ = self.found("0° -75; 90° -60", noted="vertical")
        assert [c.mark for c in pattern.checks if "noted vertical" in c.text] == ["disagrees"]
        assert "stronger turned by 90° by 15.0" in pattern.sentence

    def test_a_sense_by_two_helices(self):
        pattern, _ = self.found("right -62; left -50", probe="circular")
        read = pattern.of("helix").polarization[0]
        assert read.right is False
        assert "noted right circular, measured left-hand" in [c.text for c in pattern.checks]

    def test_two_helices_that_read_alike_tell_no_sense(self):
        pattern, _ = self.found("right -50; left -50.5", probe="circular")
        assert pattern.of("helix").polarization[0].right is None

    def test_a_phase_tells_the_sense(self):
        pattern, _ = self.found("0° -50; 90° -50", phase_deg=85.0)
        read = pattern.of("helix").polarization[0]
        assert read.right is False and read.axial_ratio.value < 2

    def test_turning_a_circular_one_loses_nothing_more(self):
        pattern, _ = self.found(ellipse(0.8, 0.0, scatter=0.2))
        assert pattern.of("helix").polarization[0].kind == "circular"


def test_a_stepped_display_gives_decibels():
    book = Book()
    stepped(book)
    a = book.antenna("Panel")
    # 2.5 counts a decibel: 25 counts are 10 dB.
    book.add(turned(a, "200, 175, 150, 175", read_on="level", receiver="logger"))
    cut = book.climb(a).pattern.of("panel").cuts[0]
    assert cut.front_to_back.value == pytest.approx(20.0, abs=1.0)


class TestHeldOtherwise:
    def test_a_covered_side_is_told_by_direction(self):
        plain, covered = "-60, -64, -66, -68, -70, -68, -66, -64", "-60, -74, -80, -78, -71, -68, -66, -64"
        seen = {"noted_as": "far end"}
        found = book_of((plain, seen), (covered, {**seen, "held": "right side covered"}))
        (one,) = found.of("panel").held
        sides = dict(one.quarters)
        # To its right 10, 14 and 10 dB less; to its left nothing.
        assert sides["to its left"] > sides["behind"] > sides["to its right"]
        assert one.difference.value == pytest.approx(-4.4, abs=0.2)
        assert "Panel with right side covered" in found.detail and "−11.3 dB to its right" in found.detail

    def test_on_a_scale_of_its_own_in_its_own_unit(self):
        rates = {"read_on": "bit rate"}
        found = book_of(("27, 21, 14, 21", rates), ("27, 3, 14, 20", {**rates, "held": "right side covered"}))
        (one,) = found.of("panel").held
        assert one.difference.unit == "Mbit/s" and one.difference.value == pytest.approx(-4.75)

    def test_held_alike_is_no_comparison(self):
        assert book_of(("-60, -64, -66, -68", {}), ("-61, -64, -66, -68", {})).of("panel").held == ()


def test_a_clip_on_reflector_gains_in_front_and_loses_behind():
    found = book_of(("-70, -70, -70, -70", {"held": ""}), ("-65, -69, -79, -69", {"held": "reflector on"}))
    (one,) = found.of("panel").held
    assert dict(one.quarters)["in front"] == pytest.approx(5.0) and dict(one.quarters)["behind"] == pytest.approx(-9.0)
