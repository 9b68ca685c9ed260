"""What is said of a file that can't be read."""

from __future__ import annotations


class FormatError(Exception):
    """One clear message: which file, where, what is wrong, what to do. Nothing of the file was taken in."""

    def __init__(self, file: str, what: str, line: int | None = None, todo: str = "") -> None:
        file, what, todo = _short(file, 80), _short(what, 200), _short(todo, 120)
        self.file, self.what, self.line, self.todo = file, what, line, todo
        where = f"{file}, line {line}" if line else file
        parts = [f"{where}: {what}.", "Nothing of it was taken in."]
        if todo:
            parts.append(f"{todo}.")
        super().__init__(" ".join(parts))

    def __reduce__(self) -> tuple[type[FormatError], tuple[str, str, int | None, str]]:
        return FormatError, (self.file, self.what, self.line, self.todo)


def _short(text: str, most: int) -> str:
    """Words on one line that leave room for the rest of the message."""
    flat = " ".join(text.split())
    return flat if len(flat) <= most else f"{flat[: most - 1]}…"
