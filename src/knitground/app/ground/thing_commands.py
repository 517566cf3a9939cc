"""What can be done with the chosen things: the same keys that work on selected cells, and their order."""

import json
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from pydantic import ConfigDict, TypeAdapter, ValidationError

from knitground.app.chosen_things import ChosenThings
from knitground.app.clipboard import clip, clipped
from knitground.app.commands import Command
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.tools.advice import told_height
from knitground.core.edits.lifting_things import lay_things_on_top
from knitground.core.edits.placing import (
    SNAPS,
    Step,
    about,
    bounds,
    change,
    duplicate,
    place,
    remove,
    reorder,
    things_on,
)
from knitground.core.errors import BadRequest
from knitground.core.layers.thing import Thing, shifted

_MIME = "application/x-knitground-things+json"
_FORMAT = "knitground-things"
_THINGS = TypeAdapter(tuple[Thing, ...], config=ConfigDict(defer_build=True))
_NOTHING = "No thing is chosen; click one with Select (S) first."
_ORDERS: tuple[tuple[str, Step, str], ...] = (
    ("Chosen things one further to the front", "up", "Alt+Up"),
    ("Chosen things one further to the back", "down", "Alt+Down"),
    ("Chosen things in front of all others", "top", "Alt+PgUp"),
    ("Chosen things behind all others", "bottom", "Alt+PgDown"),
)


class ThingCommands:
    """Copy, cut, paste, duplicate, remove, choose all; turn and mirror; to the front and to the back."""

    def __init__(self, session: Session) -> None:
        self._session, self._chosen = session, ChosenThings(session)

    def commands(self) -> list[Command]:
        """What only things have."""

        def ordering(step: Step) -> Callable[[], object]:
            return lambda: self._session.attempt(lambda: reorder(*self._chosen.here, self._chosen.ids, step))

        return [
            *(Command(name, ordering(step), (key,), "ground", self.refused) for name, step, key in _ORDERS),
            Command(
                "Stand the chosen things on top of what they are seen on",
                lambda: self._session.attempt(self.stand_on_top),
                (),
                "ground",
                self.refused,
            ),
            Command("What things snap to: the next", self.next_snap, ("Shift+G",), "ground"),
        ]

    @property
    def at_hand(self) -> bool:
        """Whether the layer at hand holds things."""
        return self._session.props is not None

    def refused(self) -> str:
        """Why nothing can be done with chosen things."""
        return "" if self._chosen.ids else _NOTHING

    def stand_on_top(self) -> None:
        """Lets the chosen things stand on the quay or the roof on which they are seen."""
        _, ground_id, layer_id = self._chosen.here
        onto, height, ids = lay_things_on_top(self._session.derived, ground_id, layer_id, self._some())
        self._session.choose(layer_id=onto, things=frozenset(ids))
        told_height(self._session, height)

    def next_snap(self) -> None:
        """Something else to snap to."""
        self._session.choose(snap=SNAPS[(SNAPS.index(self._session.snap) + 1) % len(SNAPS)])

    def copy(self) -> None:
        """Puts the chosen things on the clipboard as JSON."""
        chosen = self._some_things()
        text = json.dumps({"format": _FORMAT, "things": _THINGS.dump_python(tuple(chosen), mode="json")})
        clip(_MIME, text)
        self._session.say(f"{len(chosen):,} things copied.", "Paste a block")

    def cut(self) -> None:
        """Copies the chosen things and takes them away."""
        self.copy()
        self.clear()

    def paste(self) -> None:
        """Places what is on the clipboard, a little beside where it was."""
        session = self._session
        text = clipped(_MIME)
        things_on(*self._chosen.here)
        kinds = {kind.id for kind in session.document.project.thing_kinds}
        beside = self._beside()
        found = [
            replace(shifted(thing, *beside), kind=thing.kind if thing.kind in kinds else "") for thing in _read(text)
        ]
        session.choose(things=frozenset(place(*self._chosen.here, found, f"paste {len(found):,} things")))

    def take(self) -> None:
        """Duplicates the chosen things."""
        self._session.choose(things=frozenset(duplicate(*self._chosen.here, self._some(), self._beside())))

    def clear(self) -> None:
        """Takes the chosen things away."""
        remove(*self._chosen.here, self._some())

    def choose_all(self) -> None:
        """Chooses all things of the layer."""
        self._session.choose(things=frozenset(thing.id for thing in known(self._session.props).things))

    def invert(self) -> None:
        """Chooses the things that are not chosen."""
        every = frozenset(thing.id for thing in known(self._session.props).things)
        self._session.choose(things=every - self._chosen.ids)

    def turn(self, degrees: float, *, mirror: bool = False) -> None:
        """Turns or mirrors the chosen things about their middle."""
        chosen, sizes = self._some_things(), self._session.sizes()
        left, top, right, bottom = bounds(chosen, sizes)
        middle = ((left + right) / 2, (top + bottom) / 2) if len(chosen) > 1 else (chosen[0].x, chosen[0].y)
        change(
            *self._chosen.here,
            self._chosen.ids,
            "mirror things" if mirror else "turn things",
            lambda thing: about(thing, middle, degrees, mirror=mirror),
        )

    def turn_next(self, degrees: float, *, mirror: bool = False) -> None:
        """Turns or mirrors what is placed next."""
        chosen = self._session.choices
        if mirror:
            self._session.choose(mirrored=not chosen.mirrored)
        else:
            self._session.choose(turn=(chosen.turn + degrees) % 360)

    def _some(self) -> frozenset[str]:
        if not self._chosen.ids:
            raise BadRequest(_NOTHING)
        return self._chosen.ids

    def _some_things(self) -> list[Thing]:
        self._some()
        return self._chosen.things

    def _beside(self) -> tuple[float, float]:
        ground = known(self._session.ground)
        return float(ground.tile_width), float(ground.tile_height)


def _read(text: str) -> tuple[Thing, ...]:
    """Things of a text from the clipboard; raises BadRequest where it holds none."""
    try:
        held: Any = json.loads(text)
        if not isinstance(held, dict) or held.get("format") != _FORMAT:
            raise ValueError
        found = _THINGS.validate_python(held["things"])
    except (ValueError, KeyError, ValidationError, RecursionError):
        raise BadRequest("The clipboard holds no things; copy some on a prop layer (Ctrl+C) first.") from None
    if not found:
        raise BadRequest("The clipboard holds no things; copy some on a prop layer (Ctrl+C) first.")
    return found
