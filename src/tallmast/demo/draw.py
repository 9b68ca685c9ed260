"""The campaign in the making."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .truth import Truth


@dataclass
class Draw:
    """The campaign in the making: the truth, chance, and names of series."""

    truth: Truth
    random: np.random.Generator
    count: int = 0

    def name(self, what: str) -> str:
        """Ids that are the same for every seed, so that the demo's notebook is the same file again."""
        self.count += 1
        return f"demo-{what}-{self.count:03d}"
