"""Link: does the physics agree with the field, and how far does it reach.

`budget` is what is asked for and what there is before the path, `margin` what is left at the wanted place by the best basis there is,
`falls` how that falls over distance. `residual` holds the field against the physics, `causes` says what a misfit points to. `how_far`,
`worth` and `both_ways` answer with it; `coverage` lays it over the ground (`cells`); `shared_band`, `trials` and `over_another` have others on
the band, `aloft` what flew and `aloft_words` how it is told. `words`, `checks` and `drawn` tell it, `tell` puts all together. What each end takes
where it stands (`noise_there`) and where it looks (`pointed`) is Levels' as well, a room higher.
"""

from .budget import RECKONED
from .margin import Margin
from .tell import LinkFinding, find

__all__ = ["RECKONED", "LinkFinding", "Margin", "find"]
