"""Open, short and load, one after the other; the load once more; what the standards really are."""

from __future__ import annotations

from dataclasses import dataclass, field

from tallmast.findings.bench.trust import STANDARDS
from tallmast.instruments.driver import RawSweep
from tallmast.notebook.entry import Entry
from tallmast.notebook.records import Calibration, StandardSet
from tallmast.units import show

from . import keeping, practising
from .on_bench import OnBench
from .practice_hands import PracticeHands


@dataclass
class Guide:
    """A calibration on its way: the standards that have been seen so far."""

    seen: dict[str, RawSweep] = field(default_factory=dict)

    @property
    def next(self) -> str:
        return next((s for s in STANDARDS if s not in self.seen), "")


class Calibrating:
    """The analyzer's calibration, step by step."""

    def __init__(self, analyzer: OnBench, hands: PracticeHands) -> None:
        self._analyzer, self._hands = analyzer, hands
        self.guide: Guide | None = None

    def say(self) -> None:
        """What to screw on next, while it goes on."""
        if self.guide is not None:
            self._tell(f"Calibrating: screw on the {self.guide.next} where the antenna goes, then press C.")

    def _tell(self, todo: str) -> None:
        self._analyzer.tell(todo=todo)

    def calibrate(self) -> None:
        """One standard after the other; the third makes the calibration."""
        if self.guide is None:
            self.guide = Guide()
            self.say()
            return
        standard = self.guide.next
        attached = self._hands.attached
        if attached not in ("", standard):
            self._tell(f"The {attached} is attached. Screw on the {standard}, then press C.")
            return
        self._analyzer.with_fresh(lambda raw: self._seen(standard, raw))

    def _seen(self, standard: str, raw: RawSweep) -> None:
        if self.guide is None:
            return
        self.guide.seen[standard] = raw
        if self.guide.next:
            self.say()
            return
        seen, self.guide = self.guide.seen, None
        analyzer = self._analyzer
        if analyzer.place.write(keeping.calibration(analyzer.setting, seen, self._standards())):
            analyzer.refresh()
            self._tell("Calibrated. Leave the load on and press V: what it is off by now is what is left over.")

    def give_up(self) -> bool:
        """Leave a calibration that is on its way; whether one was."""
        if self.guide is None:
            return False
        self.guide = None
        self._tell("Calibration left; nothing was changed.")
        return True

    def _standards(self) -> StandardSet:
        """The standards in use: the practice bench's own, else those of the calibration before."""
        if self._analyzer.practising:
            return practising.STANDARDS
        known = self._analyzer.calibration
        return known.standards if known else StandardSet()

    def check(self) -> None:
        """The load, measured again: what it is off by is what the calibration leaves over."""
        calibration = self._analyzer.calibration
        if calibration is None:
            self._tell("There is no calibration of this analyzer to check: press C.")
        elif self._hands.attached not in ("", "load"):
            self._tell("Screw on the load first.")
        else:
            self._analyzer.with_fresh(lambda raw: self._checked(calibration.id, raw))

    def _checked(self, calibration_id: str, raw: RawSweep) -> None:
        analyzer = self._analyzer
        if analyzer.place.write(keeping.check(calibration_id, raw)):
            analyzer.refresh()
            self._tell(f"{show.upper_first(analyzer.calibrated)}. Q qualifies the fixture with what is attached.")

    def standards_sheet(self) -> None:
        if self._analyzer.calibration is None:
            self._tell("Calibrate first (C): then say here what your open, short and load really are.")
        else:
            self._analyzer.on_ask("standards")

    def set_standards(self, standards: StandardSet) -> bool:
        """What the standards really are: for this calibration and every other one made with the same ones."""
        analyzer = self._analyzer
        if analyzer.calibration is None:
            return False
        old = analyzer.calibration.standards
        if standards == old:
            return True
        same = [c for c in analyzer.place.evidence.all(Calibration) if c.standards == old]
        mended = show.count(len(same), "calibration")
        entry = Entry(
            f"Standards “{standards.name}” defined, {mended} worked out anew",
            [c.revised(standards=standards) for c in same],
        )
        kept = analyzer.place.write(entry)
        if kept:
            analyzer.refresh()
            under = "it" if len(same) == 1 else "them"
            self._tell(f"{show.upper_first(mended)} and every sweep under {under} worked out anew.")
        return kept
