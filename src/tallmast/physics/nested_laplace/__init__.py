"""Nested Laplace approximation: many notes of latent Gaussian numbers, and what they say together.

Latents x are normal given a few hyperparameters φ; each note is likely or not given a linear form of x. For given φ the density of
x is log-concave, its mode is found by Newton's method, and the evidence is Laplace's; φ is integrated over a fixed set of points
about its own mode; the marginal of a linear form is scanned. Rue, Martino and Chopin, Journal of the Royal Statistical Society B
71 (2009) 319; Tierney and Kadane, Journal of the American Statistical Association 81 (1986) 82 for the scan. Deterministic; no
antennas in it.

`Notes` is where a model is put together, `solve` hears it, `Posterior` is asked.
"""

from .hyper import Near
from .linear import Linear, latent, total
from .marginal import Marginal, mixed
from .notes import NONE, Notes
from .posterior import Posterior, solve

__all__ = ["NONE", "Linear", "Marginal", "Near", "Notes", "Posterior", "latent", "mixed", "solve", "total"]
