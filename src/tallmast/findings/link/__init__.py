"""Link: does the physics agree with the field, and how far does it reach.

`terrain` has the ground and the profile toward a place, `way` what is in the way there; `margin` what is left at the wanted place, by the
best basis there is; `tell` holds it against the field, in words.
"""

from .margin import RECKONED, Margin
from .tell import LinkFinding, find

__all__ = ["RECKONED", "LinkFinding", "Margin", "find"]
