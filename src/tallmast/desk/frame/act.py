"""One thing a person can do."""

from __future__ import annotations

from collections.abc import Callable

from tallmast.frozen import Frozen


class Act(Frozen, eq=True):
    """`key`: a single letter that is the same on every rung and works while no field has the caret, or a chord; letters of
    the rungs stand in `keys.BY_RUNG`."""

    name: str
    words: str
    run: Callable[[], object]
    menu: str
    key: str = ""
    needs_notebook: bool = True

    @property
    def plain(self) -> str:
        """Its words without the dots that promise a sheet."""
        return self.words.removesuffix(" …")
