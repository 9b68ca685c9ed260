"""All that the window and the report say of a notebook, as text beside the tests.

A change of words or of judgement is a diff of these files to read, and nothing to mend: `./run test --new-words` writes them
anew. They hold what was said, not that it is right; what is right is asserted on keys and numbers, where it is tested.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from tallmast.figures.paper import cell_text
from tallmast.findings.climb import RUNGS, Climb
from tallmast.findings.figure import Figure, Finding
from tallmast.findings.table import Table
from tallmast.report.content import Chapter, check_words, compose

HERE = Path(__file__).parent
WIDE = 400
"""A cell or a line is cut after so many letters, as a list of a thousand places would be."""


def spoken(climb: Climb) -> str:
    """A notebook's findings and its report, one thing said a line."""
    lines: list[str] = []
    for rung in RUNGS:
        lines += [f"# {rung}", *_finding(climb.of(rung)), ""]
    report = compose(climb)
    lines += ["# report", report.title, report.subtitle, *report.methods, ""]
    for chapter in report.chapters:
        lines += [f"## {chapter.title}", *_chapter(chapter), ""]
    return "\n".join(line[:WIDE].rstrip() for line in lines)


def _finding(found: Finding) -> Iterator[str]:
    yield found.sentence
    yield from found.detail.splitlines()
    yield f"standing: {found.standing.mark}, {found.standing.words}"
    if found.headline is not None:
        yield from _figure("headline", found.headline)
    for check in found.checks:
        yield check_words(check)
        if check.why:
            yield f"    {check.why}"
        if check.figure is not None:
            yield from (f"    {line}" for line in _figure("by", check.figure))


def _figure(owner: str, figure: Figure) -> Iterator[str]:
    yield f"{owner}: {figure.name} = {figure.text}"
    working = figure.working
    yield from (f"    {line}" for line in working.lines)
    yield from (f"    u: {part}  {u}" for part, u in working.parts)
    if working.source:
        yield f"    source: {working.source}"
    if working.meaning:
        yield f"    meaning: {working.meaning}"


def _chapter(chapter: Chapter) -> Iterator[str]:
    yield from (f"caution: {words}" for words in chapter.cautions)
    for key, picture, *_ in chapter.pictures:
        yield f"picture {key}: {picture.title}: {picture.words()}"
    for table in chapter.tables:
        yield from _table(table)
    for owner, figure in chapter.workings:
        yield from _figure(f"working{f' of {owner}' if owner else ''}", figure)


def _table(table: Table) -> Iterator[str]:
    yield f"table {table.key}: {table.title}"
    yield "    " + " | ".join(table.heads)
    for row in table.rows:
        yield "    " + " | ".join(cell_text(cell) for cell in row.cells)


def hold(name: str, said: str, anew: bool) -> None:
    """That a file of this folder says the same; `anew`: write it."""
    path = HERE / f"{name}.txt"
    if anew:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(said + "\n", encoding="utf-8")
        return
    assert path.exists(), f"{path.name} is not there yet: ./run test --new-words writes it"
    kept = path.read_text(encoding="utf-8").rstrip("\n").splitlines()
    assert said.splitlines() == kept, (
        f"what is said is not what {path.name} holds: read the diff; --new-words writes it anew"
    )
