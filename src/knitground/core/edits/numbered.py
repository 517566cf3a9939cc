"""Images of a collection that are numbered and alike: the frames of something that moves, most likely.

Of images that are called alike but for a number that begins at 0 or 1 and goes on without a gap, those are taken for
frames that are of one size, lie about at the same place and are about of one colour. Images that show the same in
another way (a few fences, some stones) may be numbered like that, too: so it is offered, and never done by itself.
Those that fill their cell are as likely variants of a floor, so that mixes of them are offered as well.
"""

import re
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.animations import run_of
from knitground.core.edits.mixing import mix_of_just
from knitground.core.edits.notes import animate, notes_of
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.frames import USUAL_MS
from knitground.core.tiles.notes import MOST_FRAMES
from knitground.core.tiles.tile import TileRef

_NUMBERED = re.compile(r"(.*?)(\d{1,6})(\D*)")
_SHARED, _OF_TWO = 0.4, 0.6
"""What share of all that two images show both show at the least; of two images alone more, as two are seldom frames."""
_ENOUGH = 32
"""So many lines and columns of pixels tell it."""
_COLOURS = 32
"""By how many levels the mean colours of all frames differ at the most."""


def numbered_runs(document: Document, sheet_id: str) -> dict[TileRef, tuple[TileRef, ...]]:
    """The tiles of a collection that look like frames, each run by its first; without those that are frames already.

    Parameters
    ----------
    document : Document
    sheet_id : str

    Returns
    -------
    runs : dict of TileRef to tuple of TileRef
        In the order of the collection; empty for a sheet that is no collection.
    """
    sheet = by_id(document.project.sheets, sheet_id)
    if not sheet.images:
        return {}
    pixels = document.state.pictures[sheet_id].cleared(sheet)
    regions = {cut.id: cut.region for cut in sheet.cuts}
    played = {frame.tile for notes in document.project.tiles.values() for frame in notes.frames}
    runs = {}
    for names in runs_of_names([cut.id for cut in sheet.cuts]):
        refs = tuple(TileRef(sheet_id, name, 0, 0) for name in names)
        images = [pixels[region.slices()] for name in names if (region := regions[name]) is not None]
        moves = any(ref in played or notes_of(document, ref).frames for ref in refs)
        if len({image.shape for image in images}) == 1 and not moves and _alike(images):
            runs[refs[0]] = refs
    return runs


def animate_numbered(document: Document, sheet_id: str) -> list[TileRef]:
    """Lets the first of each of a collection's `numbered_runs` play all of it, as one step; returns these tiles.

    Raises
    ------
    BadRequest
        If no images are numbered and alike.
    """
    runs = numbered_runs(document, sheet_id)
    if not runs:
        raise BadRequest(
            "No images of this tileset are numbered from 0 or 1 on, of one size and alike; "
            "choose the frames of one animation instead, in their order."
        )
    animate(document, {first: run_of(run, USUAL_MS) for first, run in runs.items()})
    return list(runs)


def floors_among(document: Document, sheet_id: str, runs: Iterable[tuple[TileRef, ...]]) -> list[tuple[TileRef, ...]]:
    """Those of some runs of a collection whose images all fill their cell, so that they may be variants of a floor."""
    sheet = by_id(document.project.sheets, sheet_id)
    pixels = document.state.pictures[sheet_id].cleared(sheet)
    cuts = {cut.id: cut for cut in sheet.cuts}
    return [run for run in runs if all(_fills_its_cell(pixels, cuts[ref.cut]) for ref in run)]


def mix_numbered(document: Document, sheet_id: str) -> list[str]:
    """Makes a mix of each of a collection's `numbered_runs` that fill their cells, as one step; returns their ids.

    Each is called as its images are, but for their number. What is mixed already stays as it is.

    Raises
    ------
    BadRequest
        If there are none.
    """
    floors = floors_among(document, sheet_id, numbered_runs(document, sheet_id).values())
    if not floors:
        raise BadRequest(
            "No images of this tileset that fill their cells are numbered from 0 or 1 on; "
            "choose the variants instead, and mix them."
        )
    mixes, made = document.project.mixes, list[str]()
    for run in floors:
        mix = mix_of_just(mixes, run)
        if mix is None:
            name = _name_of(run)
            parts = tuple(MixPart(ref, notes_of(document, ref).weight) for ref in run)
            mix = Mix(fresh_id(name, mixes), name, parts)
            mixes = (*mixes, mix)
        made.append(mix.id)
    if mixes != document.project.mixes:
        document.define("mix what is numbered", replace(document.project, mixes=mixes))
    return made


def told_of_runs(runs: Sequence[Sequence[TileRef]], floors: int = 0) -> str:
    """What is said of runs that look like frames, at least one; so many of them may be variants of a floor."""
    many = len(runs) > 1
    which = f"{len(runs)} numbered runs" if many else f"“{runs[0][0].cut}” to “{runs[0][-1].cut}”"
    if floors:
        return f"{which} may be frames or variants."
    return f"{which} look like {'animations' if many else 'frames'}."


def runs_of_names(names: Sequence[str]) -> list[list[str]]:
    """Names alike but for one number, in the order of that from 0 or 1 up to the first gap; the last number counts."""
    numbered: defaultdict[tuple[str, str], dict[int, str]] = defaultdict(dict)
    for name in names:
        if told := _NUMBERED.fullmatch(name):
            numbered[told[1], told[3]].setdefault(int(told[2]), name)
    found = []
    for by_number in numbered.values():
        first = min(by_number)
        count = next(count for count in range(1, len(by_number) + 1) if first + count not in by_number)
        if first <= 1 and 1 < count <= MOST_FRAMES:
            found.append([by_number[first + step] for step in range(count)])
    return found


def _fills_its_cell(pixels: NDArray[np.uint8], cut: Cut) -> bool:
    """Whether an image shows something all over a flat cell."""
    if cut.region is None:
        return False
    alpha = pixels[cut.region.slices()][..., 3]
    flat = abs(cut.tile_height - cut.footprint[1]) <= 1
    return bool(alpha.all()) if cut.shape == "square" else flat


def _name_of(run: Sequence[TileRef]) -> str:
    """What the images of a run are called, but for their number."""
    told = _NUMBERED.fullmatch(run[0].cut)
    name = f"{told[1]}{told[3]}" if told else run[0].cut
    return name.strip(" _-.0") or run[0].sheet


def _alike(images: Sequence[NDArray[np.uint8]]) -> bool:
    """Whether each of some images of one size shows much of what the one before shows, and all are about of one colour.

    Parameters
    ----------
    images : sequence of (h, w, 4) uint8
        Straight alpha.
    """
    step = max(1, min(images[0].shape[:2]) // _ENOUGH)
    images = [image[::step, ::step] for image in images]
    shown = [image[..., 3] > 0 for image in images]
    if not all(one.any() for one in shown):
        return False
    shared = [np.count_nonzero(one & other) / np.count_nonzero(one | other) for one, other in pairwise(shown)]
    means = [image[shown_here][:, :3].mean(axis=0) for image, shown_here in zip(images, shown, strict=True)]
    if min(shared) < (_OF_TWO if len(images) == 2 else _SHARED):
        return False
    return bool(np.ptp(means, axis=0).max() <= _COLOURS)
