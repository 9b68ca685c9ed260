"""What is said of a file that can't be read."""

from __future__ import annotations


class FormatError(Exception):
    """One clear message: which file, where, what is wrong, what to do. Nothing of the file was taken in."""

    def __init__(self, file: str, what: str, line: int | None = None, todo: str = "") -> None:
        self.file, self.what, self.line, self.todo = file, what, line, todo
        where = f"{file}, line {line}" if line else file
        parts = [f"{where}: {what}.", "Nothing of it was taken in."]
        if todo:
            parts.append(f"{todo}.")
        super().__init__(" ".join(parts))
