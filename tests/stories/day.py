"""What every story does by keys: a question, antennas, places, runs and what was noted of each."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import Any

from tallmast.report.write import write


def ask(hands, text: str, band: str, antennas: Iterable[str] | Mapping[str, dict[str, str]], **more: str) -> None:
    hands.write("q", {"text": text, "band": band, **more}, "ask question")
    for name in antennas:
        hands.write("a", {"name": name, **(antennas[name] if isinstance(antennas, Mapping) else {})}, "add antenna")


def places(hands, there: Mapping[str, str]) -> None:
    """Name → where it is, as it is typed."""
    for name, where in there.items():
        hands.write("l", {"name": name, **({"position": where} if where else {})}, "place")


def run(hands, noted: Mapping[str, str], *, end: str = "far end", **factors: str) -> None:
    """A run with its factors, and what was noted at each place, as it is typed."""
    hands.write("r", {"power": "", **factors}, "run")
    for place, what in noted.items():
        hands.write("n", {"what": what, "place": place, "end": end}, "reading")


def checks(hands, rung: str = "field") -> list[str]:
    return [c.text for c in hands.window.session.climb.of(rung).checks]


def alarms(hands) -> list[str]:
    """What says that something is wrong: a clean day raises none."""
    checks = hands.window.session.climb.field.checks
    return [c.text for c in checks if c.mark in ("fails", "disagrees")]


def verdict(hands) -> str:
    """The sentence, climbed to."""
    hands.press("7")
    return hands.sentence


def report(hands, path) -> str:
    write(hands.window.session.climb, path / "report.html")
    return (path / "report.html").read_text()


LEFT: dict[Callable[..., Any], tuple[bytes, Any, str, Any]] = {}


def once(hands, tmp_path: Path, walk: Callable[..., Any]) -> Any:
    """A day that takes long is walked by keys once; the tests after the first open the notebook that it left and look at the same.
    What `walk` returns is handed on."""
    session = hands.window.session
    if walk not in LEFT:
        told = walk(hands)
        session.notebook.save_copy(tmp_path / "left.tallmast")
        LEFT[walk] = ((tmp_path / "left.tallmast").read_bytes(), session.aims, hands.window.rung, told)
        return told
    data, aims, rung, told = LEFT[walk]
    (tmp_path / "again.tallmast").write_bytes(data)
    assert hands.window.open_notebook(tmp_path / "again.tallmast")
    session.aim(focus_id=aims.focus_id, band=aims.band)
    hands.window.climb_to(rung)
    hands.settle()
    return told
