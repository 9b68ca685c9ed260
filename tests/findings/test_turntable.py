"""A turn onward and back: drift and slack told and taken out."""

import numpy as np
import pytest

from tallmast.findings.pattern.turntable import settled

from .build import Book


def beam(angle):
    off = (np.asarray(angle) + 180) % 360 - 180
    return 10 * np.log10(10 ** (-1.2 * (off / 60) ** 2) + 10 ** (-1.8 + 0.1 * np.cos(np.radians(3 * off))))


def turned(drift=1.0, slack=2.0, noise=0.02, step=5.0, back=True):
    """Drift in dB an hour; what stands on the table stays behind by half of the slack."""
    onward = np.arange(0, 360 + step / 2, step)
    angle = np.concatenate((onward, onward[::-1])) if back else onward
    way = np.concatenate((np.ones(len(onward)), -np.ones(len(onward)))) if back else np.ones(len(onward))
    minute = np.arange(len(angle)) * 0.1
    level = (
        beam(angle - way * slack / 2) - 40 + drift * minute / 60 + np.random.default_rng(1).normal(0, noise, len(angle))
    )
    return angle, level, minute, way


def test_drift_and_slack_are_told_and_taken_out():
    found = settled(*turned(drift=2.0, slack=1.6))
    assert found.drift_db_per_hour == pytest.approx(2.0, abs=0.1)
    assert found.backlash_deg == pytest.approx(1.6, abs=0.1)
    assert np.abs(found.level_db + 40 - beam(found.angle_deg)).max() < 0.3
    assert "2.0 dB an hour" in found.words and "1.6° of slack taken out" in found.words


def test_none_of_either_is_told_as_none():
    found = settled(*turned(drift=0.0, slack=0.0))
    assert abs(found.drift_db_per_hour) < 0.15 and abs(found.backlash_deg) < 0.05
    assert found.scatter_db == pytest.approx(0.02, abs=0.01)


def test_onward_alone_tells_neither():
    found = settled(*turned(back=False))
    assert found.drift_db_per_hour is None and "turn back again" in found.words


def with_reference(drift=6.0, before=2, after=2, back=False, level=-47.0, noise=0.02):
    """The same with a reference antenna in its place, `before` and `after` times."""
    angle, turned_db, minute, way = turned(drift=drift, slack=0.0, back=back, noise=noise)
    at = np.concatenate((np.arange(before) - before, minute.max() + 1 + np.arange(after)))
    columns = (
        np.append(angle, np.zeros(len(at))),
        np.append(turned_db, level + drift * at / 60 + np.random.default_rng(2).normal(0, noise, len(at))),
        np.append(minute, at),
        np.append(way, np.zeros(len(at))),
    )
    order = np.argsort(columns[2])
    return tuple(column[order] for column in columns)


def test_a_reference_before_and_after_tells_the_drift_of_a_turn_onward_alone():
    found = settled(*with_reference())
    assert found.drift_db_per_hour == pytest.approx(6.0, abs=0.4) and found.backlash_deg is None
    assert "dB an hour by the reference taken out, slack not told" in found.words
    assert len(found.level_db) == 73, "what was read of the reference is none of the antenna's"
    assert found.reference_db == pytest.approx(-47.2, abs=0.05), "as when the first was read, two minutes before"
    assert found.reference_u_db < 0.1
    # Onward and back, both tell the same drift.
    both = settled(*with_reference(back=True))
    assert both.drift_db_per_hour == pytest.approx(6.0, abs=0.1) and both.backlash_deg == pytest.approx(0.0, abs=0.05)


def test_a_reference_read_once_tells_no_drift_and_owns_to_it():
    found = settled(*with_reference(drift=0.0, before=1, after=0))
    assert found.drift_db_per_hour is None and found.reference_db == pytest.approx(-47.0, abs=0.1)
    assert found.reference_u_db > 0.3


def test_the_gain_follows_from_the_reference_in_its_place():
    angle, level, minute, way = with_reference(back=True)
    book = Book()
    a, r = book.antenna("A"), book.antenna("Dipole", known_gain_dbi=2.15, known_gain_u_db=0.2)
    cut = book.cut(a, level, angle, level_u_db=0.1, absolute=True, reference_id=r.id)
    book.series[cut.series_id] = {"angle_deg": angle, "level_db": level, "minute": minute, "way": way}
    gain = book.climb(a).pattern.of("a").substitution
    # The beam peaks at −40 + 0.07 dB, the reference at −47: 2.15 + 7.07.
    assert gain.value == pytest.approx(9.2, abs=0.15)
    assert 0.2 < gain.u < 0.4 and "substitution against Dipole" in gain.working.source
    # Without what it is known to give, there is nothing to hold it against.
    book.records[r.id] = r.revised(known_gain_dbi=None)
    assert book.climb(a).pattern.of("a").substitution is None


def test_a_cut_kept_so_is_read_without_them():
    angle, level, minute, way = turned(drift=3.0, slack=4.0)
    book = Book()
    a = book.antenna("A")
    cut = book.cut(a, level, angle, level_u_db=0.1)
    book.series[cut.series_id] = {"angle_deg": angle, "level_db": level, "minute": minute, "way": way}
    read = book.climb(a).pattern.of("a").cuts[0]
    assert read.beamwidth.value == pytest.approx(60.0, abs=1.0)
    assert (read.peak_deg + 180) % 360 - 180 == pytest.approx(0.0, abs=0.3)
    assert read.peak.value == pytest.approx(-39.9, abs=0.1), "at its first level, before the drift"
