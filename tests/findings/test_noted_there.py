"""Link and Verdict go by what was heard and lost: a budget that promises more is a budget."""

from .build import Book


def tried(*heard: bool, wanted_m: float = 3100.0, **far) -> Book:
    """At full power heard at 0.8 and 2.4 km, and at the place to be reached, 3.1 km: heard, or not; far more is promised by the budget."""
    book = Book()
    book.home(wanted_m)
    antenna = book.antenna("Long")
    for name, metres in (("near", 800.0), ("mid", 2400.0)):
        book.place(name, metres)
    book.levels(power_w=0.5)
    book.far(**far)
    run = book.run(antenna, 1, power_w=0.5)
    for place in ("near", "mid"):
        book.reading(run, place, heard=True)
    for one in heard:
        book.reading(run, "rock", heard=one)
    return book


def margin(book: Book):
    (one,) = book.climb().link.margins
    return one


def test_lost_means_lost():
    """One chance in five at most that it is reached, by every rung, and a range about the place where it was lost."""
    lost = tried(False)
    one = margin(lost)
    assert one.expected.value > 20.0, "the budget alone promises plenty"
    assert one.chance < 0.2 and one.there.interval[1] < 5.0
    low, high = one.reach.interval
    assert 1.5 < low < 3.1 and high < 5.0, "km"
    assert "heard 3 times in 20" in lost.climb().link.sentence


def test_heard_there_is_heard_there():
    """The budget is 20 dB short; it was heard all the same, four times over."""
    one = margin(tried(True, True, True, True, sensitivity_dbm=-45.0))
    assert one.expected.value < -10.0
    assert one.chance > 0.8


def test_what_was_lost_nearer_counts_for_a_place_farther_out():
    told = [margin(tried(*heard, wanted_m=3100.0)) for heard in ((), (False,))]
    assert told[0].chance > 0.9
    assert told[1].chance < 0.2
    book = tried(wanted_m=6000.0)
    book.place("out", 3100.0)
    book.reading(book.evidence.runs[0], "out", heard=False)
    assert margin(book).chance < 0.2


def test_the_working_says_what_was_heard_and_lost_alone():
    lines = margin(tried(False)).there.working.lines
    assert any(line.startswith("by what was heard and lost alone ") for line in lines)


def test_other_power_is_taken_out():
    """Lost with less than full power says less of full power."""
    book = tried()
    run = book.run(book.evidence.antennas[0], 2, power_w=0.5 / 100.0)
    book.reading(run, "rock", heard=False)
    assert margin(book).chance > margin(tried(False)).chance + 0.3
