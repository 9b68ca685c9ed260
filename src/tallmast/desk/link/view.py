"""The Link's view."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import cast

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from tallmast.figures.aloft import AloftPicture
from tallmast.figures.coverage import CoveragePicture
from tallmast.figures.how_far import HowFarPicture
from tallmast.figures.link import FanPicture
from tallmast.figures.picture import Picture
from tallmast.figures.profile import Held, ProfilePicture
from tallmast.figures.two_senders import TwoSendersPicture
from tallmast.findings.aims import Options
from tallmast.findings.climb import Climb
from tallmast.findings.tables.link import causes, flown, how_far, margins, models, on_the_way, shared, trials, worth
from tallmast.findings.way import Profile
from tallmast.notebook.entry import Entry
from tallmast.units import show

from ..parts import LookRow, button, label
from ..rung_view import RungView
from .covering import Covering, MapState


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


def _aloft(climb: Climb) -> Picture | None:
    return AloftPicture(flown=climb.link.flown[-1]) if climb.link.flown else None


def _two_senders(climb: Climb) -> Picture | None:
    shared = climb.link.breaks_first
    return TwoSendersPicture(finding=climb.link, shared=shared) if shared is not None else None


LOOKS: dict[str, Callable[[Climb], Picture | None]] = {
    "the way": _profile,
    "what flew": _aloft,
    "how far": _how_far,
    "budget and field": _fan,
    "two senders": _two_senders,
}
"""Every way to look at the rung but the map; each makes its picture, or none where there is nothing of that kind."""
MAP = "where it reaches"
MOST_RINGS = 6


class LinkView(RungView):
    rung = "link"
    acts = ("far end", "obstacle", "what if", "map", "neighbour", "trial", "conditions", "bring in", "power and pads")

    def build(self) -> None:
        self.chosen: str | None = None
        """Chosen by a person; None: what tells most."""
        self._there: list[str] = []
        self._over = 0
        """What the map shows: 0 the margin, else that manieth of the others on the band."""
        self.card, self.view = self.picture("fanPicture")
        self.looks = LookRow((*LOOKS, MAP))
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
        self.covering = Covering(self.session, self)
        self.covering.grown.connect(self._grown)
        self.mapped = QWidget()
        """What can be done with the map."""
        under = QHBoxLayout(self.mapped)
        under.setContentsMargins(0, 0, 0, 0)
        self.stop_button = button("Stop", self.covering.stop)
        self.again_button = button("Go on", self.covering.begin)
        self.save_button = self.act_button("save map")
        for part in (
            self.stop_button,
            self.again_button,
            self.act_button("closer"),
            self.act_button("wider"),
            self.act_button("over another"),
            self.save_button,
        ):
            under.addWidget(part)
        under.addStretch(1)
        self.card.box.addWidget(self.mapped)
        self.mapped.hide()
        self.view.dragged.connect(self._drag)
        self.view.released.connect(self._let_loose)
        self.view.nudged.connect(lambda up: self._step("home", up))
        self.view.lifted.connect(lambda up: self._step("away", up))
        self.view.panned.connect(lambda pixels: self._step("place", -1 if pixels > 0 else 1))
        self.box.addWidget(self.card, 1)
        self.margins = self.table("margins")
        self.causes = self.table("causes")
        self.flown = self.table("flown")
        self.far = self.table("how far")
        self.shared = self.table("shared")
        self.trials = self.table("trials")
        self.worth = self.table("worth")
        self.taken = self.table("on the way")
        self.models = self.table("models")

    # The profile under a hand

    def _drag(self, value: float) -> None:
        picture = self.view.picture
        if isinstance(picture, CoveragePicture):
            self.view.repaint_picture()
        if isinstance(picture, ProfilePicture):
            self._move(picture, picture.held, value)

    def _step(self, what: Held, up: int) -> None:
        """The same by keys: an antenna half a metre, the place a fiftieth of the way; on the map the point that is read."""
        picture = self.view.picture
        if isinstance(picture, CoveragePicture):
            east, north = (up, 0) if what == "place" else (0, up)
            picture.step(east, north)
            self.view.repaint_picture()
            self._let_loose()
        elif isinstance(picture, ProfilePicture):
            self._move(picture, what, picture.stepped(what, up))

    def _move(self, picture: ProfilePicture, what: Held, value: float) -> None:
        climb = self.shown
        if climb is None or climb.link.way is None:
            return
        profile: Profile = picture.profile
        if what == "home":
            picture.profile = profile.moved(home_height_m=value)
        elif what == "away":
            picture.profile = profile.moved(away_height_m=value)
        elif what == "place":
            kept = climb.link.way.profile.moved(profile.home_height_m, profile.away_height_m)
            picture.profile = kept.ended(value)
        self.card.set_title(picture.title)
        self.view.repaint_picture()
        self.moved.show()
        self.keep_button.setVisible(picture.profile.place is not None)

    def _let_loose(self) -> None:
        picture = self.view.picture
        if isinstance(picture, ProfilePicture):
            picture.held = ""
        elif isinstance(picture, CoveragePicture) and (figure := picture.point()) is not None:
            self.pick(figure)

    def put_back(self) -> None:
        if self.shown:
            self.show_climb(self.shown)

    def keep_heights(self) -> None:
        """The heights as they were dragged, of home and of the place."""
        picture, climb = self.view.picture, self.shown
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

    # The map

    def show_map(self) -> None:
        if self.shown is not None and self.shown.link.cover is None:
            self.session.tell(
                "A map wants home with its position, the far end, and runs or a reckoning that tell how far it reaches."
            )
        else:
            self._turn(MAP)

    def over_another(self) -> None:
        """The map of the margin, then of the wanted one over each other sender, at either end, and round."""
        climb = self.shown
        if climb is None or not climb.link.over:
            self.session.tell("Note another sender on the band first (N).")
            return
        self._over = (self._over + 1) % (len(climb.link.over) + 1)
        self._turn(MAP)

    def reach(self, times: float) -> None:
        """Show so many times as much of the ground."""
        self._turn(MAP)
        self.covering.reach(times)

    def save_map(self, path: Path) -> None:
        """Write the map as it stands, by the ending of the name."""
        from tallmast.report.maps import write

        cover, coverage, climb = self.covering.cover, self.covering.coverage, self.shown
        if cover is None or coverage is None or climb is None:
            self.session.tell("There is no map yet: show it first (M).")
            return
        field = climb.field

        def done(_: object, error: Exception | None) -> None:
            self.session.tell("" if error is None else str(error))
            if error is None:
                self.frame_.show_state(f"Map written: {path.name}")

        self.session.work(f"Writing {path.name}", lambda: write(cover, coverage, field, path), done)

    def _map(self, climb: Climb) -> Picture | None:
        cover, covering = climb.link.cover, self.covering
        if cover is None:
            return None
        found, tried = climb.link.how_far, climb.aims.options != Options()
        rings = found.rings if found is not None and tried else ()
        old = self.view.picture
        at = old.at if isinstance(old, CoveragePicture) else None
        grown = covering.coverage if covering.cover is cover else None
        return CoveragePicture(
            cover=cover, coverage=grown or cover.nothing, field=climb.field, rings=rings[:MOST_RINGS], at=at
        )

    def _grown(self) -> None:
        climb = self.shown
        if climb is not None and self._there and self._shown() == MAP:
            picture = self._map(climb)
            if picture is not None:
                self.set_picture(self.card, self.view, picture)
        self._map_buttons()

    def _map_buttons(self) -> None:
        self.mapped.setVisible(bool(self._there) and self._shown() == MAP)
        self.stop_button.setVisible(self.covering.going)
        self.again_button.setVisible(self.covering.stopped)

    def _want_map(self) -> None:
        """The map is worked out while somebody looks at it, and not before."""
        climb = self.shown
        if (
            climb is not None
            and climb.link.cover is not None
            and self.isVisible()
            and self._there
            and self._shown() == MAP
        ):
            over = climb.link.over
            self.covering.want(climb.link.cover, over[self._over - 1] if 0 < self._over <= len(over) else None)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._want_map()

    def carried(self) -> object | None:
        return self.chosen, self._over, self.covering.let_go()

    def carry_on(self, state: object) -> None:
        self.chosen, self._over, covered = cast("tuple[str | None, int, MapState]", state)
        if self.shown is not None:
            self.show_climb(self.shown)
        self.covering.carry_on(covered)

    def let_go(self) -> None:
        self.covering.let_go()

    def _turn(self, look: str) -> None:
        self.chosen = look
        if self.shown:
            self.show_climb(self.shown)

    def look_next(self) -> None:
        """The next picture there is."""
        if len(self._there) > 1:
            self._turn(self._there[(self._there.index(self._shown()) + 1) % len(self._there)])

    def _first(self, climb: Climb) -> str:
        """What was asked for, else what tells most."""
        way = climb.link.way
        if climb.aims.options != Options():
            return "how far"
        if climb.link.flown:
            return "what flew"
        return "the way" if way is not None and way.profile.known else "budget and field"

    def _shown(self) -> str:
        return self.chosen if self.chosen in self._there else self._there[0]

    def fill(self, climb: Climb) -> None:
        finding = climb.link
        self.moved.hide()
        makes = {**LOOKS, MAP: self._map}
        made = {look: picture for look, make in makes.items() if (picture := make(climb)) is not None}
        first = self._first(climb)
        self._there = sorted(made, key=lambda look: look != first)
        self.card.setVisible(bool(made))
        self.margins.setVisible(bool(finding.margins))
        wanted = climb.field.wanted
        where = wanted.name if wanted else show.distance(finding.way.distance_m) if finding.way is not None else ""
        self.causes.show_table(causes(finding))
        self.flown.show_table(flown(finding))
        self.far.show_table(how_far(finding, where), "")
        far = climb.evidence.far_end
        self.shared.show_table(shared(finding, far.name if far is not None else "far end"))
        self.trials.show_table(trials(finding))
        self.worth.show_table(worth(finding, where))
        self.taken.show_table(on_the_way(finding))
        self.models.show_table(models(finding, where), "")
        if not made:
            self._map_buttons()
            return
        shown = self._shown()
        self.looks.offer(made, shown)
        self.set_picture(self.card, self.view, made[shown])
        self.margins.show_table(margins(finding, where), "")
        self._want_map()
        self._map_buttons()
