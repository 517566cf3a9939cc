"""The open project: the one place where it changes, and the history of its changes.

Every change is an edit: new definitions, patches of planes, or both. Edits made between `begin` and `commit` (a
brush stroke, a drag of a number, a trial of a recipe) become one step of the history, or none if rolled back.
"""

from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.ground.layers import Planes
from knitground.core.ground.shapes import Shape
from knitground.core.ground.window import Window
from knitground.core.project.collecting import laid_out
from knitground.core.project.file import load_project, save_project
from knitground.core.project.model import Palette, Picture, Project, State
from knitground.core.sheet.picture import Sheet

MOST_HISTORY_BYTES = 2**29


class Patch(NamedTuple):
    """What a window of a plane held before and after an edit.

    It keeps the array itself: a plane stays the same array for as long as the history knows it.
    """

    ground: str
    layer: str
    plane: NDArray[np.generic]
    window: Window
    before: NDArray[np.generic]
    after: NDArray[np.generic]


class Edit(NamedTuple):
    """One step of the history."""

    label: str
    before: State
    after: State
    patches: tuple[Patch, ...]

    @property
    def size(self) -> int:
        """Bytes that its patches take."""
        return sum(patch.before.nbytes + patch.after.nbytes for patch in self.patches)


class Change(NamedTuple):
    """Told to listeners: whether definitions changed, and which windows of which layers.

    Where neither did, a gesture has become a step of the history.
    """

    defined: bool
    windows: tuple[tuple[str, str, Window], ...] = ()


Listener = Callable[[Change], None]


class Document:
    """A project in work."""

    def __init__(self, state: State | None = None, palette: Palette | None = None, folder: Path | None = None) -> None:
        self.state = state or State(Project(), {}, {})
        self.palette = palette or Palette()
        self.folder = folder
        self.listeners: list[Listener] = []
        self._undo: list[Edit] = []
        self._redo: list[Edit] = []
        self._saved: Edit | None = None
        self._open: tuple[str, State, list[Patch]] | None = None
        self._sealed = False
        self._gestures = 0
        self.filed: dict[Path, Picture] = {}
        """Which picture each image file is known to hold."""

    @classmethod
    def load(cls, folder: Path) -> "Document":
        """Opens a project; raises as `load_project`."""
        state, palette = load_project(folder)
        home = folder if folder.is_dir() else folder.parent
        document = cls(state, palette, home)
        for sheet in state.project.sheets:
            document.filed |= {home / name: state.pictures[sheet.id] for name in sheet.files}
        return document

    def save(self, folder: Path | None = None) -> None:
        """Writes the project, into another folder if one is given; raises as `save_project`."""
        target = folder or self.folder
        if target is None:
            raise ValueError("a new project needs a folder to be saved in")
        save_project(target, self.state, self.palette, self.filed)
        self.mark_saved(target, self.last_edit)

    def snapshot(self) -> State:
        """The project as it is now, with copies of its planes, to be written beside further work."""
        planes = {
            ground: {layer: {name: plane.copy() for name, plane in some.items()} for layer, some in layers.items()}
            for ground, layers in self.state.planes.items()
        }
        return self.state._replace(planes=planes)

    def mark_saved(self, folder: Path, at: Edit | None) -> None:
        """Takes note that the project was written into a folder as it was after an edit (see `last_edit`)."""
        self.folder = folder
        self._saved = at

    def mark_unsaved(self) -> None:
        """Takes note that no file holds the project as it is, whatever is undone."""
        self._saved = Edit("", self.state, self.state, ())

    @property
    def last_edit(self) -> Edit | None:
        """The step that undo would take back."""
        return self._undo[-1] if self._undo else None

    @property
    def project(self) -> Project:
        """The definitions."""
        return self.state.project

    @property
    def changed(self) -> bool:
        """Whether there is something to save."""
        return self.last_edit is not self._saved

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._undo[-1].label if self._undo else None

    @property
    def redo_label(self) -> str | None:
        """What redo would do again."""
        return self._redo[-1].label if self._redo else None

    @property
    def gesture(self) -> int | None:
        """The number of the gesture that has begun and not ended, if there is one."""
        return self._gestures if self._open is not None else None

    def begin(self, label: str) -> int:
        """Begins a gesture and returns its number; one that is still open is committed first."""
        self.commit()
        self._open = label, self.state, []
        self._gestures += 1
        return self._gestures

    def seal(self) -> None:
        """Leaves a gesture as a trial: it may still be rolled back, but any further edit accepts it first."""
        self._sealed = self._open is not None

    def commit(self) -> None:
        """Ends a gesture and keeps what it did as one step; does nothing where none is open."""
        if self._open is None:
            return
        label, before, patches = self._open
        self._open, self._sealed = None, False
        if patches or self.state is not before:
            self._push(Edit(label, before, self.state, tuple(patches)))
            self._tell(Change(False))

    def roll_back(self) -> None:
        """Ends a gesture and takes back what it did; does nothing where none is open."""
        if self._open is None:
            return
        _, before, patches = self._open
        self._open, self._sealed = None, False
        self._apply(before, [_inverse(patch) for patch in reversed(patches)])

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
        self._do(label, state, [])

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
        window, mask = shape
        if window.is_empty:
            return
        array = self.state.planes[ground][layer][plane]
        before = array[window.rows, window.columns].copy()
        after = np.where(mask, values, before).astype(before.dtype)
        if not np.array_equal(before, after):
            self._do(label, self.state, [Patch(ground, layer, array, window, before, after)])

    def redrawn(self, sheet: Sheet, picture: Picture) -> None:
        """Takes over a picture that was drawn anew outside, now and in all of the history: no step of its own.

        Undo leads back to earlier definitions, but never to an earlier drawing than the file holds.
        """
        before = self.state.pictures.get(sheet.id)

        def renewed(state: State) -> State:
            if state.pictures.get(sheet.id) is not before:
                return state
            sheets = tuple(laid_out(one, picture) if one.id == sheet.id else one for one in state.project.sheets)
            return state._replace(
                project=replace(state.project, sheets=sheets), pictures={**state.pictures, sheet.id: picture}
            )

        known: dict[int, State] = {}

        def same(state: State) -> State:
            return known.setdefault(id(state), renewed(state))

        for steps in (self._undo, self._redo):
            for place, edit in enumerate(steps):
                new = edit._replace(before=same(edit.before), after=same(edit.after))
                if self._saved is edit:
                    self._saved = new
                steps[place] = new
        if self._open is not None:
            label, opened, patches = self._open
            self._open = label, same(opened), patches
        self._apply(same(self.state), ())

    def undo(self) -> str | None:
        """Takes the last step back; returns its label."""
        self.roll_back()
        if not self._undo:
            return None
        edit = self._undo.pop()
        self._redo.append(edit)
        self._apply(edit.before, [_inverse(patch) for patch in reversed(edit.patches)])
        return edit.label

    def redo(self) -> str | None:
        """Does again the last step that was taken back; returns its label."""
        self.roll_back()
        if not self._redo:
            return None
        edit = self._redo.pop()
        self._undo.append(edit)
        self._apply(edit.after, edit.patches)
        return edit.label

    def _do(self, label: str, state: State, patches: list[Patch]) -> None:
        before = self.state
        if self._sealed:
            self.commit()
        if self._open is not None:
            self._open[2].extend(patches)
        else:
            self._push(Edit(label, before, state, tuple(patches)))
        self._apply(state, patches)

    def _push(self, edit: Edit) -> None:
        self._undo.append(edit)
        self._redo.clear()
        size = sum(kept.size for kept in self._undo)
        while size > MOST_HISTORY_BYTES and len(self._undo) > 1:
            size -= self._undo.pop(0).size

    def _apply(self, state: State, patches: list[Patch] | tuple[Patch, ...]) -> None:
        defined = state is not self.state
        self.state = state
        for patch in patches:
            patch.plane[patch.window.rows, patch.window.columns] = patch.after
        windows = tuple((patch.ground, patch.layer, patch.window) for patch in patches)
        if defined or windows:
            self._tell(Change(defined, windows))

    def _tell(self, change: Change) -> None:
        for listener in list(self.listeners):
            listener(change)


def _inverse(patch: Patch) -> Patch:
    return patch._replace(before=patch.after, after=patch.before)
