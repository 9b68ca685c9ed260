"""The Link's view."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QWidget

from tallmast.figures.how_far import HowFarPicture
from tallmast.figures.link import FanPicture
from tallmast.figures.picture import Picture
from tallmast.figures.profile import ProfilePicture
from tallmast.findings.aims import Options
from tallmast.findings.climb import Climb
from tallmast.findings.tables.link import how_far, margins, models, on_the_way, shared, worth
from tallmast.findings.way import Profile
from tallmast.notebook.entry import Entry
from tallmast.units import show

from ..parts import LookRow, button, label
from ..rung_view import RungView


def _profile(climb: Climb) -> Picture | None:
    way, home = climb.link.way, climb.field.home
    if way is None or way.profile.tightest is None:
        return None
    return ProfilePicture(profile=way.profile, home_name=home.name if home else "home")


def _fan(climb: Climb) -> Picture | None:
    wanted = climb.field.wanted
    return (
        FanPicture(finding=climb.link, wanted=wanted.name if wanted else "") if climb.link.drawn is not None else None
    )


def _how_far(climb: Climb) -> Picture | None:
    return HowFarPicture(found=climb.link.how_far) if climb.link.how_far is not None else None


LOOKS: dict[str, Callable[[Climb], Picture | None]] = {
    "the way": _profile,
    "how far": _how_far,
    "budget and field": _fan,
}
"""Every way to look at the rung; each makes its picture, or none where there is nothing of that kind."""


class LinkView(RungView):
    rung = "link"
    acts = ("far end", "obstacle", "what if", "neighbour", "conditions", "bring in", "power and pads")

    def build(self) -> None:
        self.chosen: str | None = None
        """Chosen by a person; None: what tells most."""
        self._there: list[str] = []
        self.card, self.view = self.picture("fanPicture")
        self.looks = LookRow(LOOKS)
        self.looks.chosen.connect(self._turn)
        self.card.box.insertWidget(1, self.looks)
        self.moved = QWidget()
        """What can be done with heights that were dragged."""
        beside = QHBoxLayout(self.moved)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(label("Tried, not kept.", "soft"))
        self.keep_button = button("Keep these heights", self.keep_heights)
        self.back_button = button("Put back", self.put_back)
        beside.addWidget(self.keep_button)
        beside.addWidget(self.back_button)
        beside.addStretch(1)
        self.card.box.addWidget(self.moved)
        self.moved.hide()
        self.view.dragged.connect(self._drag)
        self.view.released.connect(self._let_loose)
        self.box.addWidget(self.card, 1)
        self.margins = self.table("margins")
        self.far = self.table("how far")
        self.shared = self.table("shared")
        self.worth = self.table("worth")
        self.taken = self.table("on the way")
        self.models = self.table("models")

    # The profile under a hand

    def _drag(self, value: float) -> None:
        picture, climb = self.view.picture, self.session.climb
        if not isinstance(picture, ProfilePicture) or climb is None or climb.link.way is None:
            return
        profile: Profile = picture.profile
        if picture.held == "home":
            picture.profile = profile.moved(home_height_m=value)
        elif picture.held == "away":
            picture.profile = profile.moved(away_height_m=value)
        elif picture.held == "place":
            kept = climb.link.way.profile.moved(profile.home_height_m, profile.away_height_m)
            picture.profile = kept.ended(value)
        self.card.set_title(picture.title)
        self.view.repaint_picture()
        self.moved.show()
        self.keep_button.setVisible(picture.profile.place is not None)

    def _let_loose(self) -> None:
        if isinstance(self.view.picture, ProfilePicture):
            self.view.picture.held = ""

    def put_back(self) -> None:
        if self.session.climb:
            self.show_climb(self.session.climb)

    def keep_heights(self) -> None:
        """The heights as they were dragged, of home and of the place."""
        picture, climb = self.view.picture, self.session.climb
        if not isinstance(picture, ProfilePicture) or climb is None:
            return
        profile = picture.profile
        both = ((climb.field.home, profile.home_height_m), (climb.field.wanted, profile.away_height_m))
        changed = [
            place.revised(height_m=round(height, 1))
            for place, height in both
            if place is not None and abs(place.height_m - height) > 0.05
        ]
        self.moved.hide()
        if changed:
            words = show.join([f"{place.name} {show.distance(place.height_m)} up" for place in changed])
            self.session.write(Entry(f"Antenna heights: {words}", changed))
        else:
            self.put_back()

    def carried(self) -> object | None:
        return self.chosen

    def carry_on(self, state: object) -> None:
        self.chosen = str(state)

    def _turn(self, look: str) -> None:
        self.chosen = look
        if self.session.climb:
            self.show_climb(self.session.climb)

    def look_next(self) -> None:
        """The next picture there is."""
        if len(self._there) > 1:
            self._turn(self._there[(self._there.index(self._shown()) + 1) % len(self._there)])

    def _first(self, climb: Climb) -> str:
        """What was asked for, else what tells most."""
        way = climb.link.way
        if climb.aims.options != Options():
            return "how far"
        return "the way" if way is not None and way.profile.known else "budget and field"

    def _shown(self) -> str:
        return self.chosen if self.chosen in self._there else self._there[0]

    def fill(self, climb: Climb) -> None:
        finding = climb.link
        self.moved.hide()
        made = {look: picture for look, make in LOOKS.items() if (picture := make(climb)) is not None}
        first = self._first(climb)
        self._there = sorted(made, key=lambda look: look != first)
        self.card.setVisible(bool(made))
        self.margins.setVisible(bool(finding.margins))
        wanted = climb.field.wanted
        where = wanted.name if wanted else show.distance(finding.way.distance_m) if finding.way is not None else ""
        self.far.show_table(how_far(finding, where), "")
        far = climb.evidence.far_end
        self.shared.show_table(shared(finding, far.name if far is not None else "far end"))
        self.worth.show_table(worth(finding, where))
        self.taken.show_table(on_the_way(finding))
        self.models.show_table(models(finding, where), "")
        if not made:
            return
        shown = self._shown()
        self.looks.offer(made, shown)
        self.set_picture(self.card, self.view, made[shown])
        self.margins.show_table(margins(finding, where), "")
