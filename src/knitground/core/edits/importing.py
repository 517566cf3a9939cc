"""New tilesets from files of single images: collections, and what is put into them later."""

import os
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path, PurePath
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.standing import standing_by_foot
from knitground.core.errors import BadSheet, readable
from knitground.core.ground.ground import by_id
from knitground.core.project.collecting import MOST_IMAGES, laid_out, put_together, single_image
from knitground.core.project.document import Document
from knitground.core.project.model import Picture, fresh_id, replaced
from knitground.core.sheet.footing import Footing, footing_of
from knitground.core.sheet.overviews import overviews
from knitground.core.sheet.picture import Sheet, encode_png, read_file

ENDINGS = (".png", ".gif", ".webp", ".bmp", ".apng")


class Images(NamedTuple):
    """Image files that go together: their bytes, the picture of all, how they stand, and why some are left out."""

    files: dict[str, bytes]
    picture: Picture
    footing: Footing | None
    left_out: tuple[str, ...]


def images_in(
    folder: Path, report: Callable[[float], None] = lambda share: None, left_out: list[str] | None = None
) -> list[Path]:
    """The image files of a folder and of all folders in it, each folder's own first, in the order of their names.

    Numbers in names count as numbers. Hidden folders and links to folders are passed by.

    Parameters
    ----------
    folder : Path
    report : callable
        Is called for each folder; may raise to stop.
    left_out : list of str, optional
        Gets a sentence for each folder in it that cannot be read.

    Raises
    ------
    BadSheet
        If there is none, there are too many for one collection, or the folder cannot be read.
    """
    found: list[Path] = []

    def trouble(problem: OSError) -> None:
        says = f"{problem.filename} cannot be read ({problem.strerror}); check that you may open it."
        if left_out is None or problem.filename == os.fspath(folder):
            raise BadSheet(says)
        left_out.append(says)

    for place, below, names in os.walk(folder, onerror=trouble):
        report(0)
        below[:] = sorted((name for name in below if not name.startswith(".")), key=_in_order)
        images = (name for name in names if Path(name).suffix.lower() in ENDINGS)
        found += [Path(place, name) for name in sorted(images, key=_in_order)]
        if len(found) > MOST_IMAGES:
            raise BadSheet(f"{folder.name} holds more than {MOST_IMAGES} images; choose a folder in it.")
    if not found:
        raise BadSheet(f"{folder.name} holds neither a project nor an image; choose another folder.")
    return found


def _in_order(name: str) -> list[tuple[int, str]]:
    """A key that sorts by name, numbers as numbers: sea 2 before sea 10."""
    return [(int(part), "") if part.isdecimal() else (0, part.casefold()) for part in re.split(r"(\d+)", name)]


def read_folder(folder: Path, report: Callable[[float], None] = lambda share: None) -> Images:
    """All images of a folder as `read_collection`, without those that show the others; raises as it and `images_in`."""
    return collected(*read_all_of(folder, report), {})


def read_all_of(folder: Path, report: Callable[[float], None]) -> tuple[list["ReadImage"], list[str]]:
    """All images of a folder and of those in it, without those that show the others; and why others are left out."""
    left_out: list[str] = []
    read, more = read_images_of(images_in(folder, report, left_out), report, whole=True)
    return read, left_out + more


def read_collection(
    paths: Sequence[Path],
    known: Mapping[str, bytes] | None = None,
    report: Callable[[float], None] = lambda share: None,
) -> Images:
    """Image files under names that are told apart, each as a PNG, behind those known.

    One that can't be read, or is no tile, is left out and told.

    Raises
    ------
    BadSheet
        If not one can be taken, or all are too many or too large.
    """
    known = known or {}
    if len(paths) + len(known) > MOST_IMAGES:
        raise BadSheet(f"{len(paths)} images are too many for one collection; it holds up to {MOST_IMAGES}.")
    return collected(*read_images_of(paths, report), known)


class ReadImage(NamedTuple):
    """An image file with its bytes and its (h, w, 4) uint8 pixels."""

    path: Path
    data: bytes
    image: NDArray[np.uint8]


def read_images_of(
    paths: Sequence[Path], report: Callable[[float], None], *, whole: bool = False
) -> tuple[list[ReadImage], list[str]]:
    """Image files that can be read, and why the others are left out; raises BadSheet if none can.

    Parameters
    ----------
    paths : sequence of Path
    report : callable
        Is told the share that is done; may raise to stop.
    whole : bool
        Whether these are all images of a folder, of which those are left out that show the others.
    """
    read: list[ReadImage] = []
    left_out: list[str] = []
    for at, path in enumerate(paths):
        report(at / len(paths))
        try:
            data = read_file(path)
            read.append(ReadImage(path, data, single_image(data, path.name)))
        except BadSheet as problem:
            left_out.append(str(problem))
    if not read:
        raise BadSheet(left_out[0])
    shown = overviews([one.image for one in read]) if whole else []
    told = [
        f"{readable(read[at].path.name)} shows several of the others; add it by itself if you want it." for at in shown
    ]
    return [one for at, one in enumerate(read) if at not in shown], left_out + told


def collected(read: Sequence[ReadImage], left_out: Sequence[str], known: Mapping[str, bytes]) -> Images:
    """Images as one tileset, behind those that are known, under names that are told apart; raises as `put_together`."""
    files = dict(known)
    for one in read:
        stem, number = _plain(one.path.stem), 1
        name = stem
        while f"{name}.png" in files:
            number += 1
            name = f"{stem}-{number}"
        files[f"{name}.png"] = one.data if one.data.startswith(b"\x89PNG") else encode_png(one.image)
    images = [single_image(data, name) for name, data in known.items()] + [one.image for one in read]
    return Images(files, put_together(files, images), footing_of(images), tuple(left_out))


def add_collection(document: Document, name: str, found: Images) -> str:
    """Adds images as one tileset; returns its id."""
    project = document.project
    sheet_id = fresh_id(PurePath(name).stem or "images", project.sheets)
    images = tuple(f"sheets/{sheet_id}/{file}" for file in found.files)
    sheet = laid_out(Sheet(sheet_id, images[0], images=images), found.picture)
    sheet = standing_by_foot(sheet, found.picture, found.footing)
    document.define(
        f"add collection {sheet_id}",
        replace(project, sheets=(*project.sheets, sheet)),
        pictures={**document.state.pictures, sheet_id: found.picture},
    )
    return sheet_id


def images_of(document: Document, sheet_id: str) -> dict[str, bytes]:
    """The files of the images of a collection, by their names."""
    sheet = by_id(document.project.sheets, sheet_id)
    names = [PurePath(image).name for image in sheet.images]
    return dict(zip(names, document.state.pictures[sheet_id].files, strict=True))


def extend_collection(document: Document, sheet_id: str, found: Images) -> int:
    """Puts more images into a collection, behind those that it has; returns how many.

    Parameters
    ----------
    document : Document
    sheet_id : str
    found : Images
        Those of `images_of` first, and then the new ones.
    """
    sheet = by_id(document.project.sheets, sheet_id)
    folder = PurePath(sheet.images[0]).parent
    images = (*sheet.images, *(str(folder / name) for name in list(found.files)[len(sheet.images) :]))
    there = {cut.id for cut in sheet.cuts}
    extended = laid_out(replace(sheet, images=images), found.picture)
    extended = standing_by_foot(extended, found.picture, found.footing, there)
    document.define(
        f"add images to {sheet_id}",
        replace(document.project, sheets=replaced(document.project.sheets, extended)),
        pictures={**document.state.pictures, sheet_id: found.picture},
    )
    return len(images) - len(sheet.images)


def _plain(stem: str) -> str:
    """A name that may stand in a tile's name and in a path."""
    return "".join(letter if letter.isalnum() or letter in "-_ ." else "-" for letter in stem).strip(" .") or "image"
