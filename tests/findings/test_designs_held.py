"""A measured pattern against its design: sound, a fault at these bearings, or not told."""

import numpy as np
import pytest

from tallmast.formats import design
from tallmast.formats.errors import FormatError
from tallmast.notebook.records import Design
from tallmast.report.patterns import cut_csv, grid_csv, readings_geojson

from .build import Book
from .test_flown import Flight, flown

ANGLE = np.arange(0, 360, 5.0)


def wanted(angle):
    """Even to 3 dB, with three lobes."""
    return 1.5 * np.cos(np.radians(3 * np.asarray(angle)))


def held(level, u=0.3, tolerance_db=3.0, ring=None):
    book = Book()
    a = book.antenna("Array")
    book.cut(a, level + np.random.default_rng(2).normal(0, u, len(ANGLE)), ANGLE, level_u_db=u)
    ring = np.arange(0, 360, 4.0) if ring is None else ring
    book.series["d"] = {"azimuth_deg": ring, "elevation_deg": np.zeros(len(ring)), "level_db": wanted(ring) - 7.0}
    book.add(Design(antenna_id="array", series_id="d", tolerance_db=tolerance_db))
    found = book.climb(a).pattern
    return found, found.of("array").designs


def test_sound():
    found, (one,) = held(wanted(ANGLE) - 40)
    assert one.words == "is sound all round: within 3 dB of its design"
    assert "sound against its design" in [c.text for c in found.checks if c.mark == "holds"]
    assert one.words in found.detail


def test_a_dead_face_is_named_with_its_bearings():
    hole = -12.0 * np.exp(-((((ANGLE - 208 + 180) % 360 - 180) / 22.0) ** 2))
    found, (one,) = held(wanted(ANGLE) - 40 + hole)
    (fault,) = one.faults
    assert fault.from_deg < 200 and fault.to_deg > 216 and fault.at_deg == pytest.approx(208, abs=6)
    low, high = fault.worst.interval
    assert low < -12 < high
    assert " dB under it at " in one.words
    assert any(c.mark == "fails" and c.text.startswith("a fault at ") for c in found.checks)


def test_what_scatters_more_than_is_allowed_is_not_told():
    _, (one,) = held(wanted(ANGLE) - 40, u=4.0, tolerance_db=1.0)
    assert not one.told or one.faults == () or "can't be told" in one.words


def test_where_the_design_says_nothing_nothing_is_held():
    _, (one,) = held(wanted(ANGLE) - 40, ring=np.arange(0, 120, 4.0))
    assert np.isnan(one.off_db[(one.angle_deg > 140) & (one.angle_deg < 340)]).all()


class TestRead:
    def test_theta_and_phi(self):
        theta, phi = np.meshgrid(np.arange(0, 181, 30), np.arange(0, 360, 45))
        rows = "\n".join(f"{t},{p},{-t / 10}" for t, p in zip(theta.ravel(), phi.ravel(), strict=True))
        read = design.read(f"theta deg,phi deg,gain dB\n{rows}\n".encode(), "d.csv")
        # θ 90, φ 45 counter-clockwise: on the equator, 45° to the left.
        at = int(np.flatnonzero((theta.ravel() == 90) & (phi.ravel() == 45))[0])
        assert (read.azimuth_deg[at], read.elevation_deg[at], read.level_db[at]) == (315.0, 0.0, -9.0)

    def test_azimuth_and_elevation_as_relative_field(self):
        rows = "\n".join(f"{a},{e},0.5" for a in range(0, 360, 30) for e in (-10, 0, 10))
        read = design.read(f"azimuth,elevation,relative field\n{rows}\n".encode(), "d.csv")
        assert read.azimuth_deg[3] == 30.0 and read.level_db[0] == pytest.approx(-6.02, abs=0.01)

    @pytest.mark.parametrize(
        ("text", "words"),
        [
            ("a,b\n1,2\n3,4\n", "no columns of an angle and a level"),
            ("theta,phi,gain\n0,0,1\n200,0,1\n", "angle in degrees"),
            ("theta,phi,field\n0,0,1\n90,90,-1\n", "below zero"),
            ("theta,phi,gain\n0,0,1\n0,0,1\n", "four different directions"),
            ("theta,phi,gain\n0,0,1\nx,0,1\n", "theta"),
        ],
    )
    def test_what_is_no_design_is_said(self, text, words):
        with pytest.raises(FormatError, match=words):
            design.read(text.encode(), "d.csv")


def test_a_pattern_goes_out_as_open_files():
    book, found = flown(Flight(n=480, turns=4))
    one = found.of("panel")
    rows = cut_csv(one.cut("azimuth")).splitlines()
    assert rows[0] == "angle_deg,level_db,relative_field,half_90_db" and len(rows) == 181
    angle, level, field, half = (float(v) for v in rows[1].split(","))
    assert angle == 0 and field == pytest.approx(10 ** (level / 20), abs=1e-3) and 0 < half < 5
    grid = [[float(v) for v in row.split(",")] for row in grid_csv(one.flown).splitlines()[1:]]
    assert max(v[2] for v in grid) == 0.0 and len(grid) >= 72
    import json

    points = json.loads(readings_geojson(book.evidence, one.flown))["features"]
    assert len(points) == 480 and points[0]["properties"]["left_out"] == ""
