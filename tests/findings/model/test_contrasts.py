"""What the day's one model says of every change: what it rests on, what it is told in, what would settle it."""

import math
from itertools import pairwise

import numpy as np
import pytest

from tallmast.findings.aims import Aims
from tallmast.findings.climb import Climb
from tallmast.findings.field.model.contrasts import DECIBELS, REACH
from tallmast.findings.field.model.planner import ROUNDS, at_once
from tallmast.findings.field.model.suspicions import suspicions
from tallmast.findings.field.model.working import READINGS, assumption_lines, shares_of
from tallmast.findings.field.settings import sides
from tallmast.notebook.records import Mark, RecordedColumn, Recording

from ..test_legs import flown
from ..test_recorded import flown as recorded  # noqa: F401
from .days import Written

LEVELS = [[-66, -74, -72, -85, -81], [-60, -70, -65, -80, -75], [-61, -69, -66, -80, -76], [-65, -75, -71, -86, -82]]


def of(day: Written, factor: str = "antenna"):
    """The contrasts of one factor, and what they are of by name."""
    names = {(a.id, a.state.id): name for name, a in day.antennas.items()}
    return {sides(c.changes, names): c for c in day.weighed.contrasts if c.change.factor == factor}


def test_the_better_comes_first_with_its_interval_and_what_it_rests_on():
    ((both, contrast),) = of(Written("BAAB", LEVELS)).items()
    assert both == ("A", "B")
    low, high = contrast.figure.interval
    assert 3.0 < low < contrast.figure.value < high < 8.0
    assert contrast.chance > contrast.elsewhere > 0.9
    assert (contrast.scale, contrast.runs, contrast.places, contrast.alone) == (DECIBELS, 4, 5, "")
    assert contrast.settled


def test_grades_tell_spots_until_a_known_step_says_what_a_grade_is_worth():
    grades = [[2, 1, 3, 2], [4, 2, 5, 4], [4, 3, 5, 4], [2, 1, 3, 2]]
    ((_, plain),) = of(Written("BAAB", grades, "readability")).items()
    assert plain.scale == "readability"
    assert [(seen.better, seen.spots, seen.mean) for seen in plain.seen] == [(4, 4, None)]
    stepped = Written("BAABB", [*grades, [1, 0, 1, 1]], "readability", pad_db=[0.0, 0.0, 0.0, 0.0, 10.0])
    ((_, told),) = of(stepped).items()
    assert told.scale == DECIBELS
    widths = [c.figure.interval[1] - c.figure.interval[0] for c in (told, plain)]
    assert widths[0] < widths[1], "a known step calibrates the scale"


def test_a_rate_says_by_how_much_in_its_own_unit():
    ((_, contrast),) = of(Written("BA", [[12.0, 11.0, 14.0], [20.0, 19.0, 18.0]], "bit rate")).items()
    (seen,) = contrast.seen
    assert seen.words == "better at 3 of 3 spots, by 6.7 Mbit/s in the mean"
    assert (seen.better, seen.worse, seen.alike) == (3, 0, 0)


def test_one_spot_speaks_of_that_spot():
    ((_, contrast),) = of(Written("ABBAAB", [[21.0], [1.2], [0.9], [24.0], [22.0], [1.6]], "bit rate")).items()
    assert contrast.alone == "s0"
    assert contrast.chance > 0.99 > contrast.elsewhere


def test_two_things_that_changed_together_are_told_together_with_the_run_that_would_separate_them():
    day = Written("BAAB", LEVELS, height_m=[3.0, 6.0, 6.0, 3.0])
    (contrast,) = day.weighed.contrasts
    assert {c.factor for c in contrast.changes} == {"antenna", "height"}
    assert contrast.parted


def test_what_no_notes_speak_of_is_not_told():
    """One was read at one place, the other at another, on scales that nothing ties together."""
    day = Written("AB", [[None, None], [None, None]])
    for run, spot, said in ((0, "s0", {"shown": 3.0, "scale": "bars"}), (1, "s1", {"readability": 4})):
        day.book.reading(day.runs[run], spot, **said)
    assert not any(c.settled for c in day.weighed.contrasts)


def test_reaches_are_told_as_times_as_far_and_alike_where_they_are():
    order, reached = "ABCCBA", [2200.0, 3300.0, 3100.0, 3150.0, 3200.0, 2250.0]
    far = sorted({d * f for d in reached for f in (0.995, 1.005)})
    rows = [["h" if d == r * 0.995 else "n" if d == r * 1.005 else None for d in far] for r in reached]
    found = of(Written(order, rows, far=far, manner="walk"))
    ahead = found["B", "A"]
    assert ahead.scale == REACH and ahead.chance > 0.9
    low, high = ahead.farther.interval
    assert 1.25 < low < 3.25 / 2.225 < high < 1.65
    assert ahead.chance_farther > 0.99
    alike = found.get(("B", "C")) or found["C", "B"]
    low, high = alike.farther.interval
    assert 0.88 < low < 1.04 < high < 1.17


def test_what_was_never_lost_is_at_least_so_far():
    far = [1000.0, 1500.0, 3000.0]
    day = Written("ABBA", [["h", "h", "h"], ["h", "n", "n"], ["h", "n", "n"], ["h", "h", "h"]], far=far, manner="walk")
    ((both, contrast),) = of(day).items()
    assert both == ("A", "B")
    assert contrast.farther.bound == "at least"


def test_where_the_nearer_was_never_lost_nothing_is_told_of_how_far():
    """A broke at 1.5 km and B was walked no farther than 1 km: that B reaches less is not known."""
    far = [800.0, 1000.0, 1500.0, 1600.0]
    day = Written("ABBA", [["h", "h", "h", "n"], ["h", "h", None, None]] * 2, far=far, manner="walk")
    assert all(c.farther is None or c.farther.bound for c in day.weighed.contrasts)


def test_one_spot_is_not_settled_by_other_places():
    weighed = Written("AB", [[4], [3]], "readability").weighed
    (contrast,) = weighed.contrasts
    assert contrast.alone and not contrast.settled
    step = weighed.settled_by(contrast)
    assert step is None or not step.places


def test_what_acts_by_pose_is_told_pose_by_pose():
    order = ["Panel", "Whip", "Panel", "Whip"] * 2
    held = ["facing", "facing", "away", "away"] * 2
    rng = np.random.default_rng(5)
    base = rng.normal(-75.0, 6.0, 6)
    gain = {("Panel", "facing"): 9.0, ("Whip", "facing"): 0.0, ("Panel", "away"): -8.0, ("Whip", "away"): 0.0}
    rows = [list(base + gain[a, h] + rng.normal(0.0, 1.0, 6)) for a, h in zip(order, held, strict=True)]
    ((both, contrast),) = of(Written(order, rows, other=[{"pose held": h} for h in held])).items()
    assert contrast.differ and not contrast.by_leg
    sign = 1.0 if both[0] == "Panel" else -1.0
    told = {name: sign * figure.value for name, figure in contrast.blocks}
    assert told == {"pose held facing": pytest.approx(9.0, abs=2.5), "pose held away": pytest.approx(-8.0, abs=2.5)}
    plain = [list(base + (3.0 if a == "Panel" else 0.0) + rng.normal(0.0, 1.0, 6)) for a in order]
    ((_, same),) = of(Written(order, plain, other=[{"pose held": h} for h in held])).items()
    assert len(same.blocks) == 2 and not same.differ


@pytest.mark.parametrize(("back_db", "differ"), [(1.0, True), (6.0, False)])
def test_legs_of_a_way_are_told_apart_where_they_differ(back_db, differ):
    (contrast,) = (c for c in flown(6.0, back_db).climb().field.contrasts if c.change.factor == "antenna")
    assert contrast.differ == contrast.by_leg == differ
    if differ:
        told = {name: figure.value for name, figure in contrast.blocks}
        assert told == {"out": pytest.approx(6.0, abs=1.5), "back": pytest.approx(1.0, abs=1.5)}


def test_kinds_and_manners_are_told_each_alone():
    day = Written("BAAB", LEVELS)
    for number, row in enumerate([[2, 1, 2, 1, 1], [4, 2, 3, 2, 2], [4, 2, 3, 2, 2], [2, 1, 2, 1, 1]], 1):
        day.note(number, row, "readability")
    ((_, contrast),) = of(day).items()
    kinds = dict(contrast.by_kind)
    assert set(kinds) == {"levels", "grades"}
    assert kinds["levels"].value == pytest.approx(5.3, abs=1.5)
    whole = contrast.figure.interval[1] - contrast.figure.interval[0]
    assert all(whole < f.interval[1] - f.interval[0] + 0.3 for f in kinds.values())
    both = Written("BAAB", LEVELS, manner=["walk", "walk", "drive", "drive"])
    assert {name for c in both.weighed.contrasts for name, _ in c.by_manner} <= {"walk", "drive"}


def test_what_would_settle_it_is_asked_of_the_model():
    """One run each with 3.5 dB between them: open. More of them narrow it, and the model says how many; of what is settled it asks nothing."""
    close = Written("BA", [[-70.0, -80.0, -75.0, -77.0], [-66.0, -77.0, -72.0, -73.0]])
    weighed = close.weighed
    (contrast,) = weighed.contrasts
    assert not contrast.settled
    step = weighed.settled_by(contrast)
    assert step is not None and step.minutes > 0.0
    settled = Written("BAAB", LEVELS).weighed
    assert settled.settled_by(settled.contrasts[0]) is None


def test_every_round_more_leaves_less_open():
    day = Written("BA", [[-70.0, -80.0, -75.0], [-68.0, -79.0, -73.0]])
    known, change = day.day, day.change()
    model = known.model
    sds = []
    for rounds in (0, *ROUNDS):
        runs, said = list(model.runs), list(model.said)
        for k in range(rounds):
            for i in (0, 1) if k % 2 else (1, 0):
                said += [note.__class__(**{**_fields(note), "run": len(runs)}) for note in model.said if note.run == i]
                runs.append(model.runs[i])
        ((_, sd),) = at_once(known, runs, said, [(change, True)])
        sds.append(sd)
    assert all(b < a for a, b in pairwise(sds))


def _fields(note) -> dict[str, object]:
    return {name: getattr(note, name) for name in note.__struct_fields__}


def test_the_shares_of_the_doubt_add_up_to_it():
    day = Written("BAAB", LEVELS)
    known = day.day
    form = known.model.change(day.change())
    points = known.posterior.points
    heaviest = int(np.argmax(points.weight))
    row = form.row(known.posterior.latents)
    variance = float(row @ points.modes.matrix.solve(row[None, :, None], only=[heaviest])[0, :, 0])
    shares = dict(shares_of(known, form))
    assert math.fsum(u**2 for u in shares.values()) == pytest.approx(variance, rel=1e-6)
    assert shares[READINGS] > 0.0 and shares["run to run"] > 0.0


def test_what_a_grade_is_taken_for_is_named_and_of_levels_nothing_is_assumed():
    grades = Written("BA", [[2, 1, 3, 2], [4, 3, 5, 4]], "readability")
    (line,) = assumption_lines(grades.day, grades.day.model.change(grades.change()))
    assert line.startswith("a grade or a bar taken for ")
    levels = Written("BAAB", LEVELS)
    assert not assumption_lines(levels.day, levels.day.model.change(levels.change()))


def test_the_question_names_both_mistakes_that_cannot_be_parted():
    level = [[-60, -70, -65, -80, -75], [-66, -74, -72, -85, -81], [-65, -75, -71, -86, -82], [-50, -60, -54, -70, -66]]
    (check,) = suspicions(Written("ABBA", level, pad_db=10.0).judged)
    assert check.mark == "fails"
    assert "10 dB pad left out of run 4" in check.text
    assert "10 dB pad twice in run 1" in check.text
    assert not suspicions(Written("ABBA", [*level[:3], [v - 10 for v in level[3]]], pad_db=10.0).judged)


def test_a_loose_connector_is_asked_about():
    level = [[-60, -70, -65, -80, -75], [-66, -74, -72, -85, -81], [-65, -75, -71, -86, -82], [-80, -91, -85, -99, -96]]
    (check,) = suspicions(Written("ABBA", level).judged)
    assert "connector loose in run 4" in check.text


def test_what_is_the_same_is_not_weighed_again():
    day = Written("BAAB", LEVELS)
    first = day.book.climb()
    assert first.field.judged is not None
    again = Climb(first.evidence, Aims(focus_id="b"), first)
    assert again.field.judged is first.field.judged


def test_levels_of_recordings_are_cells_of_their_stretches_at_either_end(recorded):  # noqa: F811
    """A third of what is heard has the antenna in it: left, out and back; the right branch and the home end have not."""
    weighed = recorded.climb().field
    said = weighed.judged.day.model.said
    assert {(note.kind, note.end) for note in said} == {("cell", "away"), ("cell", "home")}
    assert len({note.spot.key for note in said}) == 6
    (contrast,) = weighed.contrasts
    low, high = contrast.figure.interval
    assert low < 4.0 / 3.0 < high
    assert {c.scale for c in weighed.dying} <= {"usable", "dropouts", "warning", "fade depth"} and weighed.dying


def test_what_a_run_that_turned_recorded_beside_its_log_is_noted_too():
    book = flown(3.0, 3.0)
    for run in book.evidence.runs:
        key = f"rec{run.number}"
        time = np.arange(0.0, 60.0, 0.5)
        book.series[key] = {"time_s": time, "first": np.full(len(time), -70.0 - run.number)}
        columns = [RecordedColumn(key="first", name="level", read_on="level in dBm")]
        book.add(Recording(run_id=run.id, series_id=key, columns=columns, marks=[Mark(at_s=0.0, name="gate")]))
    said = book.climb().field.judged.day.model.said
    assert {note.leg for note in said} == {"", "out", "back"}
    assert {note.spot.key for note in said if not note.leg} == {"stretch 0"}


def test_several_things_at_the_same_spots_are_named_even_where_nothing_can_be_told():
    """Another listener for each antenna: each grades on a scale of his own."""
    day = Written("AB", [[4, 3, 2, 1], [5, 4, 4, 3]], "readability", listener=["the hut", "the recorder"])
    (contrast,) = day.weighed.contrasts
    assert {c.factor for c in contrast.changes} == {"antenna", "listener"} and contrast.open
