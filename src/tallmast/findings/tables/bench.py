"""Readings of the antenna in focus, cables, ways to match, and the match of every antenna."""

from __future__ import annotations

from collections.abc import Sequence

from tallmast.notebook.records import Record
from tallmast.units import show

from ..bench import AntennaBench, BandBench, BenchFinding
from ..table import TONES, Cell, Row, Table, antenna, figure, soft


def matches(finding: BenchFinding) -> Table:
    """Ways to match the antenna in focus, best first."""
    rows = [
        Row(
            (
                Cell(m.match.name, m),
                Cell(show.swr(m.worst.value), m, number=True),
                Cell(show.frequency(m.bandwidth_hz, 1) if m.bandwidth_hz else "nowhere", m, number=True),
                Cell(", ".join(m.match.parts), m),
            )
        )
        for m in finding.matches[:8]
    ]
    heads = ("Way", "SWR in band", f"Keeps {finding.limit:g} over", "From the antenna to the radio")
    return Table("matches", "Ways to match it", heads, tuple(rows))


def bands(found: Sequence[BandBench]) -> Table:
    """Every antenna in every band: the worst SWR in it, and what became of its claim."""
    every = [one.antenna for one in found[0].antennas] if found else []
    rows = []
    for of in every:
        cells: list[Cell] = [antenna(of)]
        for band in found:
            one = next(a for a in band.antennas if a.antenna.id == of.id)
            if one.worst is None:
                cells.append(soft("not measured"))
            else:
                words = one.worst.text + one.where + (f" ({one.claim})" if one.claim else "")
                cells.append(Cell(words, one.worst, one.mark, TONES[one.mark], number=True))
        rows.append(Row(tuple(cells), of))
    heads = [f"{show.band(b.band.low_hz, b.band.high_hz)}, limit {b.band.swr_limit:g}" for b in found]
    return Table("bands", "Worst SWR in every band", ("Antenna", *heads), tuple(rows))


def cables(finding: BenchFinding) -> Table:
    """Cables that were swept."""
    rows = [
        Row(
            (
                Cell(c.sweep.name, c.loss or c.length),
                Cell(f"{c.sweep.far_end} at the far end"),
                figure(c.loss, "–"),
                figure(c.length, "–"),
                Cell(c.told, None, c.mark, TONES[c.mark]),
            ),
            c.sweep,
        )
        for c in finding.cables
    ]
    return Table("cables", "Cables measured", ("Cable", "Swept with", "Loss one way", "Length", ""), tuple(rows))


def readings(finding: BenchFinding, focus: AntennaBench) -> Table:
    """Every reading of the antenna in focus, at the frequency that is looked at. A fixture that all share needs no column."""
    sweeps = [r for r in (focus.sweep, *reversed(focus.earlier)) if r is not None]
    fixtures = {*(r.sweep.fixture for r in sweeps), *(m.reading.fixture for m in focus.meters)}
    several = len(fixtures) > 1

    def row(record: Record, fixture: str, last: Cell, *cells: Cell) -> Row:
        return Row((*cells, *((soft(fixture),) if several else ()), last), record)

    rows = [
        row(
            r.sweep,
            r.sweep.fixture,
            soft(show.frequency(r.resonance_hz, 1) if r.resonance_hz else "outside"),
            Cell(r.sweep.source, r.at),
            Cell(r.state),
            figure(r.at, "–"),
            Cell(f"{r.return_loss_db:.1f} dB", r.at, number=True),
            Cell(show.impedance(r.impedance_ohm), r.at, number=True),
        )
        for r in sweeps
    ]
    rows += [
        row(
            m.reading,
            m.reading.fixture,
            Cell(m.told, m.analyzer, m.mark, TONES[m.mark]),
            Cell(f"meter at {show.frequency(m.reading.frequency_hz)}", m.figure),
            Cell(focus.antenna.state_name(m.reading.state_id)),
            figure(m.figure, "–"),
            Cell("–"),
            Cell("–"),
        )
        for m in focus.meters
    ]
    more = f"; {show.count(focus.unread, 'older sweep')} of the same states besides" if focus.unread else ""
    on = "".join(f", all on {fixture}" for fixture in fixtures if fixture and not several)
    return Table(
        "readings",
        f"{focus.antenna.name}: readings at {show.frequency(finding.at_hz)}, and by meter{on}{more}",
        ("Source", "State", "SWR", "Return loss", "Impedance", *(("Fixture",) if several else ()), "Resonance"),
        tuple(rows),
    )


def match_of_each(finding: BenchFinding) -> Table:
    """The match of every antenna that was measured."""
    rows = []
    for b in (b for b in finding.antennas if b.worst or b.sweep):
        windows = b.sweep.windows[1.5] if b.sweep else []
        cells = (
            antenna(b.antenna),
            Cell(b.match_words.removeprefix("SWR ").removesuffix(" in the band"), b.worst, number=True)
            if b.worst
            else soft("not over the whole band"),
            Cell(show.frequency(b.sweep.resonance_hz, 1) if b.sweep and b.sweep.resonance_hz else "not seen"),
            Cell(
                "; ".join(show.band(*(round(e, -4) for e in w)) for w in windows) or "none"
                if b.sweep
                else "by meter only"
            ),
            Cell("; ".join(m.words for m in b.meters) or "–"),
            Cell(b.advice or "–"),
        )
        rows.append(Row(cells, None, b.antenna.id))
    heads = ("Antenna", "Worst SWR in band", "Resonance", "SWR under 1.5", "By meter", "Advice")
    return Table("match", "Match of every antenna", heads, tuple(rows))
