"""The posteriors of `days` by long runs of a general sampler (NUTS, numpyro), written to `sampled.json`.

Not part of the tests' own installation: pip install numpyro, then python -m tests.physics.nested_laplace.by_sampling
"""

from __future__ import annotations

import json
import sys

import jax
import jax.numpy as jnp
import numpy as np
import numpyro
from jax.scipy.special import gammaln, log_ndtr
from numpyro.infer import MCMC, NUTS

from tallmast.physics.nested_laplace import NONE, Linear, Notes

from .days import DAYS, KEPT, SHARES


def potential(notes: Notes):
    """Minus the logarithm of the joint density of standardised hyperparameters and latents, and how latents come from those."""
    mean, sd, mean_by, sd_by, _ = (np.array(c) for c in zip(*notes._latent, strict=True))
    hyper = np.array(notes._hyper)
    count = len(mean)

    def rows(forms: list[Linear]) -> tuple[np.ndarray, np.ndarray]:
        return np.array([f.row(count) for f in forms]).reshape(-1, count), np.array([f.constant for f in forms])

    def chosen(scales, of):
        return scales[jnp.array([len(hyper) if i == NONE else i for i in of], dtype=int)]

    gauss, between, counts = notes._gauss, notes._between, notes._counts
    by_gauss, by_counts = rows([g.form for g in gauss]), rows([c.form for c in counts])
    highs, lows = rows([b.high or Linear() for b in between]), rows([b.low or Linear() for b in between])
    has_high = np.array([b.high is not None for b in between], dtype=bool)
    has_low = np.array([b.low is not None for b in between], dtype=bool)

    def unpacked(z):
        phi = hyper[:, 0] + hyper[:, 1] * z["phi"]
        scales = jnp.concatenate([jnp.exp(phi), jnp.ones(1)])
        return scales, mean * scales[jnp.array(mean_by)] + sd * scales[jnp.array(sd_by)] * z["x"]

    def energy(z):
        scales, x = unpacked(z)
        log = -0.5 * (z["phi"] ** 2).sum() - 0.5 * (z["x"] ** 2).sum()
        if gauss:
            unit = chosen(scales, [g.unit for g in gauss])
            variance = np.array([g.variance for g in gauss]) * unit**2
            variance += np.array([g.share for g in gauss]) * chosen(scales, [g.spread for g in gauss]) ** 2
            rest = unit * np.array([g.value for g in gauss]) - by_gauss[0] @ x - by_gauss[1]
            log += (-0.5 * rest**2 / variance - 0.5 * jnp.log(variance) + jnp.log(unit)).sum()
        if between:
            s = jnp.sqrt(
                np.array([b.variance for b in between])
                + np.array([b.share for b in between]) * chosen(scales, [b.spread for b in between]) ** 2
            )
            unit = chosen(scales, [b.unit for b in between])
            high = (highs[0] @ x + highs[1] + np.array([b.high_by for b in between]) * unit) / s
            low = (lows[0] @ x + lows[1] + np.array([b.low_by for b in between]) * unit) / s
            high, low = jnp.where(has_high, high, 50.0), jnp.where(has_low, low, -50.0)
            flip = low > 0
            b, a = jnp.where(flip, -low, high), jnp.where(flip, -high, low)
            gap = jnp.minimum(log_ndtr(a) - log_ndtr(b), -1e-9)
            log += (log_ndtr(b) + jnp.log(-jnp.expm1(gap))).sum() - 1e3 * jnp.where(
                high > low, 0.0, low - high + 1.0
            ).sum()
        if counts:
            steep = chosen(scales, [c.steepness for c in counts])
            exponent = np.log([c.exposure for c in counts]) - steep * (by_counts[0] @ x + by_counts[1])
            k = np.array([c.count for c in counts])
            log += (k * exponent - jnp.exp(exponent) - gammaln(k + 1)).sum()
        return -log

    return energy, unpacked


def sampled(name: str, kept: int = 4000, chains: int = 4) -> dict[str, dict[str, object]]:
    notes, asked = DAYS[name]()
    energy, unpacked = potential(notes)
    sampler = MCMC(
        NUTS(potential_fn=energy, target_accept_prob=0.95, max_tree_depth=8, dense_mass=True),
        num_warmup=1500, num_samples=kept, num_chains=chains, chain_method="sequential", progress_bar=False,
    )  # fmt: skip
    start = {"phi": jnp.zeros((chains, len(notes.hypers))), "x": jnp.zeros((chains, notes.count))}
    sampler.run(jax.random.PRNGKey(5), init_params=start, extra_fields=("diverging",))
    x = np.asarray(jax.vmap(lambda z: unpacked(z)[1])(sampler.get_samples()))
    out = {}
    for words, form in asked.items():
        value = (x @ form.row(notes.count) + form.constant).reshape(chains, -1)
        n = value.shape[1]
        within = value.var(axis=1, ddof=1).mean()
        between = n * value.mean(axis=1).var(ddof=1)
        out[words] = {
            "quantiles": [round(float(q), 3) for q in np.quantile(value, SHARES)],
            "above 0": round(float((value > 0).mean()), 4),
            "r hat": round(float(np.sqrt(((n - 1) / n * within + between / n) / within)), 4),
        }
    return out


def main(names: list[str]) -> None:
    jax.config.update("jax_enable_x64", True)
    numpyro.set_host_device_count(1)
    told = json.loads(KEPT.read_text()) if KEPT.exists() else {}
    for name in names or DAYS:
        told[name] = sampled(name)
        print(name, json.dumps(told[name]), flush=True)
        KEPT.write_text(json.dumps(told, indent=1) + "\n")


if __name__ == "__main__":
    main(sys.argv[1:])
