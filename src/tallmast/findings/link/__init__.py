"""Link: does the physics agree with the field, and how far does it reach.

`margin` has what is left at the wanted place, by the best basis there is; `tell` holds it against the field, in words.
"""

from .margin import Margin
from .tell import LinkFinding, find

__all__ = ["LinkFinding", "Margin", "find"]
