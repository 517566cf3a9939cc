"""What a folder holds, single images that are one tileset and sprite sheets, and what was taken for either."""

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from pathlib import Path, PurePosixPath
from typing import NamedTuple

from knitground.core.edits.image_files import Files, Read, Source, insert_reads, read_images
from knitground.core.edits.importing import Images, add_collection, collected, read_all_of
from knitground.core.edits.sheets import remove_sheet
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.project.collecting import image_name, laid_out, put_together
from knitground.core.project.document import Document
from knitground.core.project.model import Project, replaced
from knitground.core.sheet.sheets_among import sheets_among

_NONE = "Choose some images of a tileset that is made of images first; they are tiles of it."

_READ = 0.3
"""The share of the work that is to read all images, if some of them are looked at as sheets."""


class Contents(NamedTuple):
    """What was read from a folder: single images, if there are any, and sheets, if there are any."""

    images: Images | None
    sheets: Files | None


def read_contents(
    folder: Path, report: Callable[[float], None] = lambda share: None, project: Project | None = None
) -> Contents:
    """All images of a folder and of those in it, but those that show the others; raises as `images_in`.

    Parameters
    ----------
    folder : Path
    report : callable
        Is told the share that is done; may raise to stop.
    project : Project, optional
        The one that they are for.
    """
    read, left_out = read_all_of(folder, lambda share: report(share * _READ))
    sheets = sheets_among([one.image for one in read])
    single = [one for at, one in enumerate(read) if at not in sheets]
    sources = [Source(read[at].path.name, read[at].data, read[at].path) for at in sheets]
    files = read_images(sources, lambda share: report(_READ + share * (1 - _READ)), project) if sources else None
    left_out += files.left_out if files is not None else []
    if single:
        return Contents(collected(single, left_out, {}), files)
    return Contents(None, files._replace(left_out=left_out) if files is not None else None)


def add_contents(document: Document, name: str, contents: Contents) -> tuple[str | None, list[str]]:
    """Adds what a folder holds, as one step; returns the ids of the tileset of its images, and of its sheets."""
    with document.step(f"add {name}"):
        made = add_collection(document, name, contents.images) if contents.images is not None else None
        return made, insert_reads(document, contents.sheets.read) if contents.sheets is not None else []


def take_out_images(document: Document, sheet_id: str, names: Collection[str]) -> dict[str, bytes]:
    """Takes images out of a collection, as one step; returns their files by their names.

    Their tiles stay named in sets and maps, and come back if they are added again.

    Raises
    ------
    BadRequest
        If it holds none of them, or is no collection.
    """
    project = document.project
    sheet, picture = by_id(project.sheets, sheet_id), document.state.pictures[sheet_id]
    kept = [at for at, file in enumerate(sheet.images) if image_name(file) not in names]
    if len(kept) == len(sheet.images):
        raise BadRequest(_NONE)
    taken = {
        PurePosixPath(file).name: data
        for file, data in zip(sheet.images, picture.files, strict=True)
        if image_name(file) in names
    }
    if not kept:
        remove_sheet(document, sheet_id)
        return taken
    images = tuple(sheet.images[at] for at in kept)
    rest = put_together(
        {image: picture.files[at] for image, at in zip(images, kept, strict=True)},
        [picture.pixels[picture.places[at].slices()] for at in kept],
    )
    smaller = laid_out(replace(sheet, images=images, file=images[0]), rest)
    document.define(
        f"take images out of {sheet_id}",
        replace(project, sheets=replaced(project.sheets, smaller)),
        pictures={**document.state.pictures, sheet_id: rest},
    )
    return taken


def files_of_images(document: Document, sheet_id: str, names: Collection[str]) -> list[Source]:
    """The files of some images of a collection, as they are read as sheets; raises BadRequest if it holds none."""
    sheet, picture = by_id(document.project.sheets, sheet_id), document.state.pictures[sheet_id]
    files = zip(sheet.images, picture.files, strict=True) if sheet.images else ()
    found = [Source(PurePosixPath(file).name, data) for file, data in files if image_name(file) in names]
    if not found:
        raise BadRequest(_NONE)
    return found


def cut_as_sheets(document: Document, sheet_id: str, names: Collection[str], reads: Sequence[Read]) -> list[str]:
    """Takes images out of a collection and adds them as the sheets that they were read as; returns the ids of these."""
    with document.step("cut images as sheets"):
        take_out_images(document, sheet_id, names)
        return insert_reads(document, reads)
