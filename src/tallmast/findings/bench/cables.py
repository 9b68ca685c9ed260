"""Cables measured from one end: what they lose, how long they are, and where they step."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Cable, CableSweep, Question
from tallmast.physics import cable as physics
from tallmast.units import show

from ..figure import Check, Figure, Mark, Working
from .trust import CalibrationReading

BAD_JOINT = 0.02
"""|Γ| of a step, as seen from the plane, from which on it is told: SWR 1.04."""


@dataclass(frozen=True, eq=False, repr=False)
class CableReading:
    """One cable: loss at the band's centre, length, and what reflects on the way."""

    sweep: CableSweep
    loss: Figure | None
    """One way, dB, at the band's centre; None where the far end was a load."""
    length: Figure | None
    steps: tuple[physics.Step, ...]
    mark: Mark
    words: str
    fit: physics.LossFit | None = None
    response: physics.TimeResponse | None = None
    """What comes back from where, for the picture."""

    def cable(self) -> Cable | None:
        """What a fixture would note of it."""
        if self.loss is None or self.length is None:
            return None
        return Cable(
            loss_db=round(self.loss.value, 3),
            loss_u_db=round(self.loss.u, 3),
            length_m=round(self.length.value, 3),
            velocity_factor=self.sweep.velocity_factor,
            root_db=self.fit.a if self.fit else None,
            linear_db=self.fit.b if self.fit else 0.0,
        )

    @property
    def check(self) -> Check:
        return Check(self.mark, self.words, self.loss or self.length)


def read_cable(
    evidence: Evidence, sweep: CableSweep, question: Question, calibrations: dict[str, CalibrationReading]
) -> CableReading:
    """A cable from its sweep; what can't be told from it is left out, and said."""
    series = evidence.series(sweep.series_id)
    f = np.asarray(series["frequency_hz"])
    gamma = np.asarray(series["re"]) + 1j * np.asarray(series["im"])
    calibration = calibrations.get(sweep.calibration_id)
    if calibration is not None and calibration.covers(f):
        gamma = calibration.corrected(f, gamma)
    name, velocity = sweep.name, sweep.velocity_factor
    loss = length = None
    fit = response = None
    trouble = ""
    if sweep.far_end != "load":
        try:
            fit = physics.fit_loss(f, gamma)
            loss = _loss_figure(name, fit, question.centre_hz)
        except ValueError as error:
            trouble = str(error)
        metres = physics.electrical_length_m(f, gamma, velocity)
        length = _length_figure(name, sweep, metres)
    steps: tuple[physics.Step, ...] = ()
    try:
        response = physics.time_response(f, gamma, velocity)
        steps = physics.steps(response, BAD_JOINT)
    except ValueError as error:
        trouble = trouble or str(error)
    end = length.value if length is not None else sweep.length_m
    inside = [s for s in steps if s.distance_m > 0.05 and (end is None or s.distance_m < end - 3 * s.u_m - 0.05)]
    if inside:
        worst = max(inside, key=lambda s: s.magnitude)
        words = f"{name}: something reflects at {show.fixed(worst.distance_m, 2)} m, |Γ| {worst.magnitude:.2f}"
        return CableReading(sweep, loss, length, tuple(inside), "fails", words, fit, response)
    if trouble:
        return CableReading(sweep, loss, length, (), "open", f"{name}: {trouble}", fit, response)
    parts = [f"{show.fixed(loss.value, 2)} dB at {show.frequency(question.centre_hz)}"] if loss else []
    parts += [f"{show.fixed(length.value, 2)} m"] if length else []
    words = f"{name}: {', '.join(parts) or 'no step found on it'}"
    return CableReading(sweep, loss, length, (), "holds", words, fit, response)


def _loss_figure(name: str, fit: physics.LossFit, centre_hz: float) -> Figure:
    value, u = float(fit.loss_db(centre_hz)), float(fit.u_db(centre_hz))
    return Figure(
        f"loss of {name}",
        value,
        u,
        "dB",
        Working(
            (
                "loss = half the return loss of the open or shorted cable",
                f"fitted: {fit.a:.4f}·√f + {fit.b:.6f}·f  (dB, f in MHz)",
                f"at {show.frequency(centre_hz)}: {value:.3f} dB one way",
            ),
            (("ripple about the fit", f"{u:.3f} dB"),),
            "Pozar §2.7: conductor loss goes with √f, dielectric loss with f",
            "A cable makes every SWR behind it look better: it is taken out of what is read through it.",
        ),
    )


def _length_figure(name: str, sweep: CableSweep, metres: float) -> Figure:
    lines = ["l = −(c·v/4π)·dφ/df", f"v = {sweep.velocity_factor:g}", f"l = {metres:.3f} m"]
    u = 0.01 * abs(metres)
    if sweep.length_m:
        lines.append(
            f"by tape {sweep.length_m:g} m: velocity factor {sweep.velocity_factor * sweep.length_m / metres:.3f}"
        )
    return Figure(
        f"length of {name}",
        metres,
        u,
        "m",
        Working(
            tuple(lines),
            (("velocity factor, 1 %", f"{u:.3f} m"),),
            "phase of the far end against frequency",
            "A tape tells the length better; then this tells the velocity factor.",
        ),
        digits=2,
    )
