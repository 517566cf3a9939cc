"""The open project: the one place where it changes, and the history of its changes.

A change puts a new state in place of the old one; what differs between the two is the delta that the history keeps.
Changes made between `begin` and `commit` (a brush stroke, a drag of a number, a trial of a recipe) become one step
of the history, or none if rolled back.
"""

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.ground.beside import shared
from knitground.core.layers.layer import Planes
from knitground.core.project.by_hand import is_hand, marked
from knitground.core.project.delta import Delta, delta_between
from knitground.core.project.file import Saved, load_project
from knitground.core.project.history import History, Step
from knitground.core.project.model import UNTITLED, Palette, Picture, Project, State
from knitground.core.project.redrawn import redrawn_delta, renewed
from knitground.core.project.saving import save_project
from knitground.core.sheet.picture import Sheet

_MANY_RECTS = 16


class Touched(NamedTuple):
    """A rectangle of a plane that changed."""

    ground: str
    layer: str
    plane: str
    rect: CellRect


class Change(NamedTuple):
    """Told to listeners: whether definitions changed, and which parts of which planes.

    Where neither did, a gesture has become a step of the history.
    """

    defined: bool
    touched: tuple[Touched, ...] = ()


Listener = Callable[[Change], None]


class _Gesture(NamedTuple):
    label: str
    before: State
    moment: int


class _Left(NamedTuple):
    """The state that was left last, and its moment; it counts for as long as the document is as it was `then`."""

    then: State
    moment: int
    state: State


class Document:
    """A project in work."""

    def __init__(self, state: State | None = None, palette: Palette | None = None, folder: Path | None = None) -> None:
        self.state = state or State(Project(), {}, {})
        self.palette = palette or Palette()
        self.folder = folder
        self.listeners: list[Listener] = []
        self.history = History()
        self.saved_as = Saved({}, None)
        """What the files in the folder are known to hold."""
        self.locked = ""
        """Why nothing of it may be changed; empty where it may."""
        self._moments = self._moment = 0
        self._saved_moment: int | None = 0
        self._open: _Gesture | None = None
        self._left: _Left | None = None
        self._sealed = False
        self._gestures = 0

    @property
    def title(self) -> str:
        """What the project is called: by its name, or by its folder as long as it has none."""
        name = self.state.project.name
        if name != UNTITLED or self.folder is None:
            return name
        return self.folder.name or self.folder.resolve().name or name

    @classmethod
    def load(cls, folder: Path) -> "Document":
        """Opens a project; raises as `load_project`."""
        state, palette, saved = load_project(folder)
        document = cls(state, palette, folder if folder.is_dir() else folder.parent)
        document.saved_as = saved
        return document

    def save(self, folder: Path | None = None, *, over: bool = False) -> None:
        """Writes the project, into another folder if one is given; raises as `save_project`."""
        target = folder or self.folder
        if target is None:
            raise ValueError("a new project needs a folder to be saved in")
        known = self.saved_as if target == self.folder else Saved({}, None)
        saved, names = save_project(target, self.state, self.palette, known, over=over or target != self.folder)
        self.take_names(names)
        self.mark_saved(target, saved, self.moment)

    def mark_saved(self, folder: Path, saved: Saved, moment: int) -> None:
        """Takes note that the project was written into a folder as it was at a moment (see `moment`)."""
        self.folder, self.saved_as = folder, saved
        self._saved_moment = moment

    def mark_unsaved(self) -> None:
        """Takes note that no file holds the project as it is, whatever is undone."""
        self._saved_moment = None

    def discard_changes(self) -> None:
        """Takes note that what is not saved may be lost."""
        self._saved_moment = self._moment

    def take_names(self, names: Mapping[str, Sheet]) -> None:
        """Takes over the file names under which pictures were saved, as no step of its own."""
        if names:
            sheets = tuple(self._named(one, names) for one in self.project.sheets)
            self.state = self.state._replace(project=replace(self.project, sheets=sheets))
            self._tell(Change(True))

    def _named(self, sheet: Sheet, names: Mapping[str, Sheet]) -> Sheet:
        new = names.get(sheet.id)
        return sheet if new is None else replace(sheet, file=new.file, images=new.images)

    @property
    def moment(self) -> int:
        """A number that every moment of the project has for itself; undo leads back to earlier ones."""
        return self._moment

    @property
    def project(self) -> Project:
        """The definitions."""
        return self.state.project

    @property
    def changed(self) -> bool:
        """Whether there is something to save."""
        return self._moment != self._saved_moment

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self.history.done[-1].label if self.history.done else None

    @property
    def redo_label(self) -> str | None:
        """What redo would do again."""
        return self.history.undone[-1].label if self.history.undone else None

    @property
    def gesture(self) -> int | None:
        """The number of the gesture that has begun and not ended, if there is one."""
        return self._gestures if self._open is not None else None

    def begin(self, label: str) -> int:
        """Begins a gesture and returns its number; one that is still open is committed first.

        Raises
        ------
        BadRequest
            If the document is locked.
        """
        self._check_lock()
        self.commit()
        self._open = _Gesture(label, self.state, self._moment)
        self._gestures += 1
        return self._gestures

    @contextmanager
    def step(self, label: str) -> Iterator[None]:
        """Everything in the block is one step, or a part of an open gesture; if the block fails, none of it is kept."""
        if self._open is not None and not self._sealed:
            yield
            return
        mine = self.begin(label)
        try:
            yield
        except BaseException:  # even where Ctrl+C stops it, nothing half done may stay
            if self.gesture == mine:
                self.roll_back()
            raise
        if self.gesture == mine:
            self.commit()

    def seal(self, sealed: bool = True) -> None:
        """Leaves a gesture as a trial, or goes on with it: any other edit accepts it first; it may be rolled back."""
        self._sealed = sealed and self._open is not None

    def commit(self) -> Delta | None:
        """Ends a gesture and keeps what it did as one step; returns what that changed, None if nothing."""
        if self._open is None:
            return None
        label, before, moment = self._open
        self._open, self._sealed = None, False
        if self.state is before:
            return None
        delta = delta_between(before, self.state)
        if delta.is_empty:
            return None
        self._push(label, delta, moment)
        self._left = _Left(self.state, moment, before)
        self._tell(Change(False))
        return delta

    def roll_back(self) -> None:
        """Ends a gesture and takes back what it did; does nothing where none is open."""
        if self._open is None:
            return
        _, before, moment = self._open
        self._open, self._sealed = None, False
        self._moment = moment
        if self.state is not before:
            self._become(before, delta_between(self.state, before))

    def define(
        self,
        label: str,
        project: Project,
        *,
        pictures: Mapping[str, Picture] | None = None,
        planes: Mapping[str, Mapping[str, Planes]] | None = None,
    ) -> None:
        """Changes definitions, and with them which pictures and planes there are."""
        state = State(
            project,
            self.state.pictures if pictures is None else pictures,
            self.state.planes if planes is None else planes,
        )
        if state.project == self.project and pictures is None and planes is None:
            return
        self.take(label, state, delta_between(self.state, state))

    def paint(
        self, label: str, ground: str, layer: str, plane: str, shape: Shape, values: NDArray[np.generic] | int
    ) -> None:
        """Sets cells of a plane.

        Parameters
        ----------
        label : str
            For the history.
        ground, layer, plane : str
        shape : Shape
            Which cells.
        values : int, or (height, width) array
            What to set, per cell of the shape's window.
        """
        rect, mask = shape
        if rect.is_empty:
            return
        old = self.state.planes[ground][layer][plane]
        new = old.written(rect, np.where(mask, values, old.read(rect)))
        self.put_planes(label, ground, {layer: {plane: new}})

    def put_planes(
        self, label: str, ground: str, changed: Mapping[str, Mapping[str, Plane]], *, by_hand: bool = True
    ) -> None:
        """Exchanges planes of a ground's layers for others of the same sizes, or adds some that come later.

        What is done by hand on a layer that a recipe keeps alive is marked, so that it stays when that grows anew.
        """
        known = self.state.planes[ground]
        if any(
            known[layer].get(name) is not plane for layer, planes in changed.items() for name, plane in planes.items()
        ):
            changed = {**changed, **(marked(known, changed) if by_hand else {})}
            state = self.state.with_planes(ground, changed)
            for other, planes in shared(self.project.grounds, ground, state.planes).items():
                state = state.with_planes(other, planes)
            self.take(label, state, delta_between(self.state, state))

    def redrawn(self, sheet: Sheet, picture: Picture) -> None:
        """Takes over a picture that was drawn anew outside, now and in all of the history: no step of its own.

        Undo leads back to earlier definitions, but never to an earlier drawing than the file holds.
        """
        before = self.state.pictures.get(sheet.id)
        for steps, past in ((reversed(self.history.done), True), (reversed(self.history.undone), False)):
            shows = True
            for step in steps:
                step.delta, shows = redrawn_delta(step.delta, sheet.id, before, picture, shows, past)
        if self._open is not None:
            self._open = self._open._replace(before=renewed(self._open.before, sheet.id, before, picture))
        self.state = renewed(self.state, sheet.id, before, picture)
        self._tell(Change(True))

    def undo(self) -> str | None:
        """Takes the last step back; returns its label."""
        self.roll_back()
        step = self.history.back()
        if step is None:
            return None
        self._go_to(step.before, step.delta.inverse)
        return step.label

    def redo(self) -> str | None:
        """Does again the last step that was taken back; returns its label."""
        self.roll_back()
        step = self.history.forward()
        if step is None:
            return None
        self._go_to(step.after, step.delta)
        return step.label

    def _go_to(self, moment: int, delta: Delta) -> None:
        """Goes to a moment beside this one; that takes no time if it was left last, however much differs."""
        left = self._left
        known = left is not None and left.then is self.state and left.moment == moment
        state = left.state if left is not None and known else delta.applied(self.state)
        self._left = _Left(state, self._moment, self.state)
        self._moment = moment
        self._become(state, delta)

    def _check_lock(self) -> None:
        if self.locked:
            raise BadRequest(self.locked)

    def take(self, label: str, state: State, delta: Delta) -> None:
        """Takes over another state and what differs in it from this one, which may have been worked out beside."""
        self._check_lock()
        if self._sealed:
            self.commit()
        if delta.is_empty:
            return
        if self._open is None:
            self._left = _Left(state, self._moment, self.state)
            self._push(label, delta, self._moment)
        else:
            self._next_moment()
        self._become(state, delta)

    def _push(self, label: str, delta: Delta, before: int) -> None:
        self._next_moment()
        self.history.push(Step(label, delta, before, self._moment))

    def _next_moment(self) -> None:
        self._moments += 1
        self._moment = self._moments

    def _become(self, state: State, delta: Delta) -> None:
        """Puts another state in place, and tells what a delta says that differs."""
        self.state = state
        touched = tuple(
            Touched(change.ground, change.layer, change.plane, rect)
            for change in delta.planes
            if not is_hand(change.layer)
            for rect in (() if delta.fields else _few(list(_rects_of(change))))
        )
        self._tell(Change(bool(delta.fields or delta.pictures) or _resizes(delta), touched))

    def _tell(self, change: Change) -> None:
        for listener in list(self.listeners):
            listener(change)


def _rects_of(change: Any) -> Iterator[CellRect]:
    """Where a plane changed; one that came or went was bare, or is."""
    for rect, _, _ in change.parts:
        yield rect
    only = change.after if change.before is None else change.before if change.after is None else None
    if only is not None:
        for rect, _, _ in only.changes_from(Plane.full(only.shape, only.dtype)):
            yield rect


def _few(rects: list[CellRect]) -> list[CellRect]:
    """The same, or one round all of them where there are many that fill most of it: each is gone about by itself."""
    if len(rects) < _MANY_RECTS:
        return rects
    top, left = min(rect.top for rect in rects), min(rect.left for rect in rects)
    bottom, right = max(rect.bottom for rect in rects), max(rect.right for rect in rects)
    whole = CellRect(top, left, bottom - top, right - left)
    filled = sum(rect.height * rect.width for rect in rects)
    return [whole] if 2 * filled >= whole.height * whole.width else rects


def _resizes(delta: Delta) -> bool:
    return any(change.before is not None and change.after is not None for change in delta.planes)
