"""New tilesets from files of single images: collections, and what is put into them later."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path, PurePath
from typing import NamedTuple

from knitground.core.edits.standing import standing_by_foot
from knitground.core.errors import BadSheet
from knitground.core.ground.ground import by_id
from knitground.core.project.collecting import MOST_IMAGES, laid_out, put_together, single_image
from knitground.core.project.document import Document
from knitground.core.project.model import Picture, fresh_id, replaced
from knitground.core.sheet.footing import Footing, footing_of
from knitground.core.sheet.picture import Sheet, encode_png, read_file

ENDINGS = (".png", ".gif", ".webp", ".bmp", ".apng")


class Images(NamedTuple):
    """Image files that go together: their bytes, the picture of all, how they stand, and why some are left out."""

    files: dict[str, bytes]
    picture: Picture
    footing: Footing | None
    left_out: tuple[str, ...]


def images_in(folder: Path) -> list[Path]:
    """The image files of a folder, by name; where it holds only folders, those of each in turn.

    Raises
    ------
    BadSheet
        If there is none, or the folder cannot be read.
    """
    try:
        found = _images(folder)
        if not found:
            below = sorted(path for path in folder.iterdir() if path.is_dir() and not path.name.startswith("."))
            found = [image for path in below for image in _images(path)]
    except OSError as problem:
        raise BadSheet(f"{folder} cannot be read ({problem.strerror}); check that you may open it.") from None
    if not found:
        raise BadSheet(f"{folder.name} holds neither a project nor an image; choose another folder.")
    return found


def _images(folder: Path) -> list[Path]:
    return sorted(path for path in folder.iterdir() if path.suffix.lower() in ENDINGS and path.is_file())


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
    files = dict(known or {})
    images = [single_image(data, name) for name, data in files.items()]
    left_out: list[str] = []
    if len(paths) + len(files) > MOST_IMAGES:
        raise BadSheet(f"{len(paths)} images are too many for one collection; it holds up to {MOST_IMAGES}.")
    for at, path in enumerate(paths):
        report(at / len(paths))
        stem, number = _plain(path.stem), 1
        name = stem
        while f"{name}.png" in files:
            number += 1
            name = f"{stem}-{number}"
        try:
            data = read_file(path)
            image = single_image(data, path.name)
        except BadSheet as problem:
            left_out.append(str(problem))
            continue
        files[f"{name}.png"] = data if data.startswith(b"\x89PNG") else encode_png(image)
        images.append(image)
    if len(left_out) == len(paths):
        raise BadSheet(left_out[0])
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
