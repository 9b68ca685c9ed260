"""The times of rows, against Python's own calendar."""

from datetime import UTC, datetime, timedelta, timezone

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.formats import log, recording, times
from tallmast.formats.errors import FormatError

moments = st.lists(
    st.datetimes(datetime(1971, 1, 1), datetime(2099, 12, 31)).map(lambda m: m.replace(microsecond=0)),
    min_size=1,
    max_size=20,
)
WRITTEN = (
    "%Y-%m-%dT%H:%M:%SZ",
    "%Y-%m-%d %H:%M:%S",
    "%Y/%m/%d %H:%M:%S UTC",
    "%d.%m.%Y %H:%M:%S",
    "%d/%m/%Y, %I:%M:%S %p",
)


def read(cells, column="time"):
    return times.of_clocks(
        np.array([c.encode() for c in cells], dtype=f"S{times.LONGEST_CELL}"), column, "x.csv", lambda row: row + 2
    )[0]


@pytest.mark.parametrize("written", WRITTEN)
@given(moments)
def test_dates_and_times_are_seconds_since_1970(written, all_of_them):
    known = [m.replace(tzinfo=UTC).timestamp() for m in all_of_them]
    assert read([m.strftime(written) for m in all_of_them]).tolist() == known


@given(moments, st.integers(-14 * 4, 14 * 4))
def test_a_zone_is_taken_out(all_of_them, quarters):
    zone = timezone(timedelta(minutes=15 * quarters))
    for m in all_of_them:
        there = m.replace(tzinfo=zone)
        assert read([there.isoformat()])[0] == there.timestamp()


@given(st.lists(st.integers(0, 86_399_999), min_size=2, max_size=30))
def test_written_alike_or_each_in_its_own_way_it_is_the_same(thousandths):
    clocks = [f"{t // 3_600_000:02d}:{t // 60_000 % 60:02d}:{t // 1000 % 60:02d}.{t % 1000:03d}" for t in thousandths]
    ragged = [c.rstrip("0").rstrip(".") if c[-3:] != "000" else c[:-4] for c in clocks]
    # In one zone: a clock without any may have been put back in the night.
    both = read([f"{c}Z" for c in clocks]), read([f"{c.removeprefix('0')}Z" for c in ragged])
    assert both[0] == pytest.approx(both[1], abs=1e-6)
    assert both[0] % 86_400.0 == pytest.approx(np.array(thousandths) / 1e3, abs=1e-6)


def test_past_midnight_it_goes_on_and_an_empty_cell_is_nothing():
    assert np.diff(read(["23:59:58", "23:59:59", "00:00:01", "12:00:00", "23:59:59", "00:00:00"])).tolist() == [
        1.0,
        2.0,
        43_199.0,
        43_199.0,
        1.0,
    ]
    with_gap = read(["10:00", "", "10:02"])
    assert with_gap[0] == 36_000.0 and np.isnan(with_gap[1]) and with_gap[2] == 36_120.0


NIGHT = ["02:58", "02:59", "02:00", "02:01", "02:59", "03:00"]
"""At the end of summer time."""


@pytest.mark.parametrize("day", ["", "2026-10-25 "])
def test_a_clock_put_back_in_the_night_goes_on(day):
    got = read([day + clock for clock in NIGHT])
    assert np.diff(got).tolist() == [60.0, 60.0, 60.0, 3480.0, 60.0]
    cells = "".join(f"{day}{clock},{20 + i}\n" for i, clock in enumerate(NIGHT))
    walked = recording.read(f"time,Mbit/s\n{cells}".encode(), "night.csv")
    assert any("put back an hour" in note for note in walked.notes)


@pytest.mark.parametrize(
    "clocks",
    [
        ["14:58", "14:59", "14:00", "14:01"],
        ["02:58", "02:59", "01:30", "01:31"],
        ["02:58", "02:59", "02:00", "02:01", "01:01"],
        ["2026-10-25T02:59:00Z", "2026-10-25T02:00:00Z"],
    ],
)
def test_any_other_step_back_stays_one(clocks):
    assert (np.diff(read(clocks)) < 0).any()


def test_months_first_where_days_can_t_be():
    assert np.ptp(read(["05/09/2026 8:00:00", "05/10/2026 8:00:00"])) == 30 * 86_400.0, "9 May, 10 May or 5 September"
    assert np.ptp(read(["05/12/2026 8:00:00", "05/13/2026 8:00:00"])) == 86_400.0, "there is no thirteenth month"


@pytest.mark.parametrize(
    ("days", "said"), [(("05/09", "05/10"), True), (("05/09", "05/09"), False), (("13/09", "14/09"), False)]
)
def test_that_days_were_taken_first_is_said_where_it_matters(days, said):
    rows = "\n".join(f"{day}/2026 8:00:0{i},30" for i, day in enumerate(days))
    found = recording.read(f"time,Mbit/s\n{rows}\n".encode(), "x.csv")
    assert ("days were taken to stand before months" in found.notes) == said


@pytest.mark.parametrize("cell", ["soon", "10", "2026-05-09", "10:00:00 and a bit", "99"])
def test_what_is_no_time_is_told_with_its_line(cell):
    with pytest.raises(FormatError, match="line 4") as told:
        read(["10:00:00", "10:00:01", cell])
    assert cell in str(told.value) and "is no time of day" in str(told.value)


def test_a_day_that_the_calendar_does_not_have_is_told():
    for cell in (
        "2026-13-09T08:00:00Z",
        "2026-02-30T08:00:00Z",
        "2026-05-40 08:00:00",
        "25:00:00",
        "10:61:00",
        "10:00:75",
    ):
        with pytest.raises(FormatError, match="is no time of day"):
            read(["2026-05-09T08:00:00Z" if "-" in cell else "10:00:00", cell])


class TestInFiles:
    ROWS = "\n".join(f"2026-05-09T23:59:{50 + i / 4:05.2f}Z,57.9{i:03d},-11.1{i:03d},{-70 - i}" for i in range(30))

    def test_a_log_s_clock_is_its_time(self):
        found = log.read_csv(f"UTC time,lat,lon,rssi dBm\n{self.ROWS}\n".encode(), "x.csv")
        assert found.mapping["time_s"] == "UTC time"
        assert np.diff(found.columns["time_s"]) == pytest.approx(0.25)
        assert found.columns["time_s"][0] == datetime(2026, 5, 9, 23, 59, 50, tzinfo=UTC).timestamp()

    def test_a_log_in_thousandths_is_told_in_seconds(self):
        rows = "\n".join(f"{250 * i},57.9{i:03d},-11.1{i:03d},{-70 - i}" for i in range(30))
        found = log.read_csv(f"time ms,lat,lon,rssi dBm\n{rows}\n".encode(), "x.csv")
        assert np.diff(found.columns["time_s"]) == pytest.approx(0.25)

    def test_what_is_no_time_can_be_left_out(self):
        text = f"time,lat,lon,rssi dBm\n{self.ROWS}\nlater,57.95,-11.15,-80\n".encode()
        with pytest.raises(FormatError, match="line 32: “later” in column “time” is no time of day"):
            log.read_csv(text, "x.csv")
        assert "time_s" not in log.read_csv(text, "x.csv", {"time_s": ""}).columns

    def test_a_recording_over_several_days(self):
        rows = "\n".join(f"{9 + i // 24:02d}.05.2026 {i % 24:02d}:00,{30 + i % 3}" for i in range(72))
        found = recording.read(f"timestamp;Mbit/s\n{rows.replace(',', ';')}\n".encode(), "x.csv")
        assert found.time_s.tolist() == [3600.0 * i for i in range(72)]
