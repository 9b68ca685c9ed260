"""Days by hand, as a table of what was noted."""

from __future__ import annotations

from collections.abc import Sequence

from tallmast.findings.field.finding import FieldFinding
from tallmast.findings.field.model.day import Day
from tallmast.findings.field.model.mistakes import Judged
from tallmast.findings.field.settings import level_of_tried
from tallmast.physics.design import Change

from ..build import Book

ACROSS_DEG = 50.0
"""From place to place: they lie on no one way."""


class Written:
    """A notebook whose rows are runs and whose columns are places; `n` not heard, `h` heard, a number on the day's scale, None: not
    noted. `far`: distances on one way, m."""

    def __init__(
        self,
        order: Sequence[str],
        rows: Sequence[Sequence[object]],
        scale: str = "level",
        far: Sequence[float] = (),
        end: str = "away",
        **runs: object,
    ) -> None:
        self.book = Book()
        self.book.home()
        self.antennas = {name: self.book.antenna(name) for name in dict.fromkeys(order)}
        self.runs = []
        for k in range(len(rows[0])):
            if far:
                self.book.place(f"s{k}", far[k])
            else:
                self.book.place(f"s{k}", 900.0 + 160.0 * k, 20.0 + ACROSS_DEG * k)
        for number, (name, row) in enumerate(zip(order, rows, strict=True), 1):
            each = {key: v[number - 1] if isinstance(v, (list, tuple)) else v for key, v in runs.items()}
            self.runs.append(self.book.run(self.antennas[name], number, **each))
            self.note(number, row, scale, end)

    def note(self, number: int, row: Sequence[object], scale: str, end: str = "away") -> None:
        """What one run noted, place by place."""
        for k, what in enumerate(row):
            if what is None:
                continue
            said: dict[str, object] = {"heard": what != "n"}
            if isinstance(what, (int, float)):
                if scale == "level":
                    said["level_dbm"] = float(what)
                elif scale == "readability":
                    said = {"heard": what > 0, "readability": int(what) or None}
                else:
                    said |= {"shown": float(what), "scale": scale}
            self.book.reading(self.runs[number - 1], f"s{k}", end=end, **said)

    @property
    def judged(self) -> Judged:
        judged = self.book.climb().field.judged
        assert judged is not None
        return judged

    @property
    def weighed(self) -> FieldFinding:
        return self.book.climb().field

    @property
    def day(self) -> Day:
        return self.judged.day

    def change(self, to: str = "A", since: str = "B") -> list[Change]:
        to_level, since_level = (level_of_tried((a.id, a.state.id)) for a in (self.antennas[to], self.antennas[since]))
        return [Change("antenna", to_level, since_level)]

    def better(self, to: str = "A", since: str = "B") -> float:
        """The chance that one is better at the places visited."""
        return float(self.day.here(self.change(to, since)).chance_above(0.0))
