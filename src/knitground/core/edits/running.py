"""Running one step of a recipe on a ground: where it may lay something, and what the project gives it."""

from collections.abc import Callable, Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.filling import Wanted, filled_planes
from knitground.core.edits.painting import patched
from knitground.core.edits.regions import region, shown_codes
from knitground.core.edits.strewing import strewn
from knitground.core.errors import BadRecipe
from knitground.core.grid.board import ROUND, On
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground
from knitground.core.grow.places import Places, closed, places_of
from knitground.core.grow.region import mask_of
from knitground.core.grow.steps.step import LEFT, Canvas, Marks, Step
from knitground.core.grow.thrown import Throw, blocks_thrown, throw_of, thrown
from knitground.core.layers.layer import Layer, Planes
from knitground.core.layers.props import PropLayer
from knitground.core.project.derived import Derived
from knitground.core.sheet.picture import brightness
from knitground.core.tiles.tile import orientations_of

Progress = Callable[[float], None]
Mask = NDArray[np.bool_]


class Run:
    """A ground on which steps run, and what is worked out once for all of them."""

    def __init__(self, derived: Derived, ground: Ground) -> None:
        self._derived, self._ground = derived, ground
        self._places: dict[On, Places] = {}

    def planes_after(
        self, step: Step, layer: Layer, laid: Mapping[str, Planes], masks: Planes, seed: int, progress: Progress
    ) -> dict[str, Plane]:
        """The planes of a layer that a step changes, after it.

        Parameters
        ----------
        masks : mapping of name to Plane
            Ones where the step must leave what lies there as it is.
        """
        _check(step, layer)
        board, planes = self._ground.board, laid[layer.id]
        if step.set_id is not None:
            cells = self._free_cells(step, layer, laid, masks)
            return filled_planes(
                self._derived, self._ground.id, layer.id, self._set(step.set_id), seed,
                Wanted(cells, held=bool(getattr(step, "held", False))), planes=planes, progress=progress,
            )  # fmt: skip
        if not (layer.takes_areas and layer.takes_runs) and not layer.holds_tiles:
            painted = [name for name, spec in layer.specs.items() if not spec.codes]
            return {name: self._after(step, layer, name, laid, masks, seed, progress) for name in painted}
        after = self._after(step, layer, layer.area_plane, laid, masks, seed, progress)
        if layer.holds_tiles:
            return {layer.area_plane: after}
        # A layer of areas and runs is painted as a brush would.
        result, name = dict(planes), layer.area_plane
        values, old = np.asarray(after), np.asarray(planes[name])
        for terrain in np.unique(values[values != old]).tolist():
            shape = Shape(CellRect(0, 0, *values.shape), (values == terrain) & (values != old))
            patches = layer.patches(board, result, {name: shape}, lambda rect, number=terrain: number)  # type: ignore[misc]
            result |= patched(result, patches)
        return result

    def strewn(
        self, step: Step, layer: PropLayer, laid: Mapping[str, Planes], seed: int, recipe: str,
        within: Shape | None, progress: Progress,
    ) -> PropLayer:  # fmt: skip
        """A prop layer after a step strews things on it."""
        _check(step, layer)
        places, may = self._on("cells"), self._may(step, "cells", laid)
        nothing = np.zeros(places.shape, dtype=np.uint8)
        board = self._ground.board
        canvas = Canvas(
            nothing, places, may, board.spacing, (board.wraps_y, board.wraps_x), seed,
            _Tools(self._derived, places, self._ground, laid), progress=progress,
        )  # fmt: skip
        there = (replace(step, terrain=1).marks(canvas) > 0) & may
        project = self._derived.document.project
        mix = next((one for one in project.mixes if one.id == step.mix_id), None)
        if mix is None:
            raise BadRecipe("A step strews a mix that is not there; choose one for it.")
        return strewn(project, self._ground, layer, mix, there, seed, recipe, within)

    def _after(
        self, step: Step, layer: Layer, name: str, laid: Mapping[str, Planes], masks: Planes, seed: int,
        progress: Progress,
    ) -> Plane:  # fmt: skip
        """One plane of a layer after a step."""
        board, on = self._ground.board, layer.specs[name].on
        before = np.asarray(laid[layer.id][name])
        places = self._on(on)
        height, width = places.height, places.width
        may = self._may(step, on, laid)
        if name in masks:
            may &= np.asarray(masks[name])[:height, :width] == 0
        canvas = Canvas(
            before[:height, :width], places, may, board.spacing, (board.wraps_y, board.wraps_x), seed,
            _Tools(self._derived, places, self._ground, laid), layer.holds_tiles, progress,
            self._orientations(layer, places),
        )  # fmt: skip
        marks = np.where(may, step.marks(canvas), LEFT)
        if step.over is not None:
            marks = np.where(canvas.values == step.over, marks, LEFT)
        after = np.where(marks == LEFT, canvas.values, marks).astype(before.dtype)
        return Plane.of(closed(after, before.shape))

    def _orientations(self, layer: Layer, places: Places) -> tuple[int, ...]:
        """In which orientations a piece of a layer can be turned: painted terrain as its grid can, tiles as they."""
        if layer.holds_tiles and self._ground.grid != "square":
            return (0,)
        size = (self._ground.tile_width, self._ground.tile_height) if layer.holds_tiles else (1, 1)
        return orientations_of(*size) if places.plain else (0,)

    def _on(self, on: On) -> Places:
        if on not in self._places:
            self._places[on] = places_of(self._ground.board, on)
        return self._places[on]

    def _may(self, step: Step, on: On, laid: Mapping[str, Planes]) -> Mask:
        """Where a step may lay something on places of a kind."""
        places, cells = self._on(on), self._cells(step, laid)
        if cells is None:
            return np.ones((places.height, places.width), dtype=bool)
        if on == "cells":
            return cells
        rect, mask = self._ground.board.round_cells(on, Shape(self._ground.board.whole, cells))
        found = np.zeros(self._ground.board.shape(on), dtype=bool)
        found[rect.rows, rect.columns] = mask
        return found[: places.height, : places.width]

    def _free_cells(self, step: Step, layer: Layer, laid: Mapping[str, Planes], masks: Planes) -> Mask | None:
        """The cells of a step's region of which nothing has to stay as it is; none for all of the ground."""
        cells, board = self._cells(step, laid), self._ground.board
        for name, mask in masks.items():
            on = layer.specs[name].on
            for part in board.around(mask, on, ROUND[on], board.whole):
                cells = part == 0 if cells is None else cells & (part == 0)
        return cells

    def _cells(self, step: Step, laid: Mapping[str, Planes]) -> Mask | None:
        """The cells of a step's region, (height, width) bool; none for all of the ground."""
        cells = None if step.where is None else region(self._derived, self._ground, step.where, laid, self._on("cells"))
        if step.cells is None:
            return cells
        own = mask_of(step.cells, self._ground.height, self._ground.width)
        return own if cells is None else own & cells

    def _set(self, wanted: str) -> str:
        project = self._derived.document.project
        if wanted not in {one.id for one in project.join_sets} | {one.id for one in project.pair_sets}:
            raise BadRecipe("A step fills with a join set or pairs that are not there; choose some for it.")
        return wanted


class _Tools:
    """What steps ask of the project (see `knitground.core.grow.steps.step.Tools`)."""

    def __init__(self, derived: Derived, places: Places, ground: Ground, laid: Mapping[str, Planes]) -> None:
        self._derived, self._places = derived, places
        self._ground, self._laid = ground, laid

    def mix(self, mix_id: str, canvas: Canvas, at: Mask | None = None) -> Marks:
        return thrown(self._throw(mix_id), canvas.seed, self._ground.board, self._ground.board.whole, canvas.may, at)

    def shown(self, layer_id: str) -> Marks:
        if layer_id not in self._laid:
            raise BadRecipe("A step takes the tiles of a layer that is not on this ground; choose another one for it.")
        return shown_codes(self._derived, self._ground, self._ground.layer(layer_id), self._laid)

    def brightness(self, sheet_id: str, height: int, width: int) -> NDArray[np.float32]:
        """How bright a picture is, (height, width) float32.

        Parameters
        ----------
        sheet_id : str
        height, width : int
        """
        state = self._derived.document.state
        sheet = next((one for one in state.project.sheets if one.id == sheet_id), None)
        if sheet is None:
            raise BadRecipe("A step reads a picture that is not there; choose a sheet for it.")
        picture = state.pictures[sheet.id].cleared(sheet)
        return brightness(picture, height, width)

    def unlike(self, mix_id: str, canvas: Canvas) -> Marks:
        throw, board = self._throw(mix_id), self._ground.board
        single = [number for number in range(len(throw.pieces)) if number not in throw.blocks]
        if len(single) < 2:
            return self.mix(mix_id, canvas)
        # Compiled code is slow to import, and not needed until something is laid so.
        from knitground.core.grow.unlike import unlike

        shares = np.array([throw.weights[number] for number in single])
        chosen = unlike(canvas.places.sides, shares, canvas.chance("unlike").ravel())
        codes = np.array([throw.pieces[number][0].code for number in single], dtype=np.int32)
        whole = blocks_thrown(throw, canvas.seed, board, board.whole, canvas.may)
        return np.where(whole > 0, whole, codes[chosen].reshape(canvas.shape))

    def _throw(self, mix_id: str) -> Throw:
        project = self._derived.document.project
        mix = next((one for one in project.mixes if one.id == mix_id), None)
        if mix is None or not mix.parts:
            raise BadRecipe("A step lays a mix that is not there, or has no tiles; choose one for it.")
        return throw_of(mix, project, self._derived.code)


def _check(step: Step, layer: Layer) -> None:
    """Refuses steps that can't work on a layer."""
    if layer.locked:
        raise BadRecipe(f"“{layer.name}” is locked; unlock it, or let the step work on another layer.")
    if layer.places_things and not step.takes_things:
        raise BadRecipe(f"“{layer.name}” holds things, and “{step.title}” strews none; choose another layer.")
    if layer.places_things:
        return
    if layer.holds_tiles and not step.takes_tiles:
        raise BadRecipe(
            f"“{layer.name}” holds single tiles, and “{step.title}” lays terrain; choose a terrain or stitched layer."
        )
    if not layer.holds_tiles and not layer.takes_areas and not (layer.takes_runs and step.takes_runs):
        raise BadRecipe(f"“{layer.name}” takes no areas, and “{step.title}” lays some; choose another layer.")
    if not layer.holds_tiles and not step.takes_areas:
        raise BadRecipe(f"“{step.title}” lays tiles, and “{layer.name}” holds terrains; choose a layer of tiles.")
