"""Image files as sheets: what they hold, how they are likely to be cut, and taking them in together."""

from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import NamedTuple

from knitground.core.edits.animations import add_frames
from knitground.core.edits.captions import written_tiles
from knitground.core.edits.painted import layers_shown
from knitground.core.edits.sheets import cuts_of, insert_sheet, read_picture, sizes_known
from knitground.core.errors import BadRequest, BadSheet
from knitground.core.project.document import Document
from knitground.core.project.model import Picture, Project
from knitground.core.sheet.alike import first_of, likely_size
from knitground.core.sheet.cut import Cut, TileShape
from knitground.core.sheet.frames import Shown, count_frames, decode_frames
from knitground.core.sheet.openraster import PaintedLayer, is_openraster, read_layers
from knitground.core.sheet.parts import Overview, look_over, may_be_things
from knitground.core.sheet.picture import encode_png, read_file
from knitground.core.sheet.plausible import Sizes
from knitground.core.sheet.repeated import left_out
from knitground.core.sheet.resized import Distances, resized

_Report = Callable[[float], None]
_NAMES: dict[TileShape, str] = {
    "square": "tiles", "isometric": "isometric tiles", "hex-pointed": "hexagons", "hex-flat": "hexagons",
}  # fmt: skip
_AGAIN = 0.8
"""What share of the work is done when sheets are looked at again for what they have in common."""


class Source(NamedTuple):
    """The bytes of an image, with its name, and the file that it is all of, if it is."""

    name: str
    data: bytes
    origin: Path | None = None


class Read(NamedTuple):
    """What an image holds: a sheet with its guessed cuts, or the frames of one that moves.

    `repeated` tells whether it repeats the edges of its tiles, which the cuts leave out, `doubted` whether little
    speaks for the guess, as of a sheet of things in no grid, `resized` how far its tiles lie apart if no cut can sit on
    all, and `written` how many tiles look like writing.
    """

    name: str
    picture: Picture | None
    cuts: tuple[Cut, ...]
    frames: tuple[Shown, ...] = ()
    origin: Path | None = None
    repeated: bool = False
    doubted: bool = False
    resized: Distances | None = None
    written: int = 0


class Files(NamedTuple):
    """What files hold, in their order, and why others could not come along."""

    read: list[Read]
    left_out: list[str]


class _Looked(NamedTuple):
    """An image with what is guessed of it; nothing is of one that moves."""

    image: Source
    picture: Picture | None
    overview: Overview
    frames: tuple[Shown, ...] = ()

    @property
    def size(self) -> tuple[int, int] | None:
        """What its tiles measure by the best guess of one grid; None where it has several grids, or none shows."""
        guesses, parts = self.overview
        return (guesses[0].tile_width, guesses[0].tile_height) if guesses and not parts else None

    def read(self) -> Read:
        """The same as a sheet."""
        if self.picture is None:
            return Read(self.image.name, None, (), self.frames, self.image.origin)
        cuts = cuts_of(self.picture, self.overview)
        repeated = any(left_out(self.picture.pixels, cut) for cut in cuts)
        guesses, parts = self.overview
        doubted = bool(guesses) and not parts and may_be_things(self.picture.pixels, guesses[0])
        apart = resized(self.picture.pixels, cuts)
        grids = [cut for cut in cuts if not cut.pieces]
        written = sum(map(len, written_tiles(self.picture.pixels, grids).values()))
        return Read(
            self.image.name, self.picture, cuts, self.frames, self.image.origin, repeated, doubted, apart, written
        )


def layers_as_images(layers: Sequence[PaintedLayer]) -> list[Source]:
    """Each layer of a paint program's file that shows something; raises BadRequest if none does."""
    return [Source(f"{one.name.replace('/', ' ')}.png", encode_png(one.pixels)) for one in layers_shown(layers)]


def read_files(paths: Sequence[Path], report: _Report = lambda share: None, project: Project | None = None) -> Files:
    """What image files hold; a paint program's file is a sheet for each of its layers. As `read_images`."""
    images: list[Source] = []
    left_out: list[str] = []
    for path in paths:
        try:
            images += _images_in(path)
        except (BadSheet, BadRequest) as problem:
            left_out.append(str(problem))
    if not images and left_out:
        raise BadSheet(left_out[0])
    found = read_images(images, report, project)
    return Files(found.read, left_out + found.left_out)


def read_images(
    images: Iterable[Source], report: _Report = lambda share: None, project: Project | None = None
) -> Files:
    """What images hold, each as a PNG with the best guess of its cuts. May be called beside the interface.

    They are likelier to be cut as the sheets of the project that they are for, and as each other.

    Parameters
    ----------
    images : iterable of Source
    report : callable
        Is told the share that is done; may raise to stop.
    project : Project, optional

    Raises
    ------
    BadSheet
        If not one can be read.
    """
    images, known = list(images), sizes_known(project) if project else ()
    found: list[_Looked] = []
    left_out: list[str] = []
    for number, image in enumerate(images):
        try:
            found.append(_look(image, known, _part(report, number, len(images), _AGAIN if images[1:] else 1)))
        except BadSheet as problem:
            left_out.append(str(problem))
    if not found and left_out:
        raise BadSheet(left_out[0])
    return Files([one.read() for one in _alike(found, report)], left_out)


def insert_reads(document: Document, reads: Sequence[Read]) -> list[str]:
    """Adds what was read as sheets, as one step; returns their ids. The first tile of one that moves plays the rest."""
    with document.step(f"add {len(reads)} sheets" if reads[1:] else f"add {reads[0].name}"):
        return [
            insert_sheet(document, one.name, one.picture, *one.cuts)
            if one.picture is not None
            else add_frames(document, one.name, one.frames)
            for one in reads
        ]


def told_of(reads: Sequence[Read]) -> str:
    """What came in: how many sheets, and what most of them are cut in."""
    sizes = [(cut.tile_width, cut.tile_height, cut.shape) for one in reads for cut in one.cuts[:1]]
    most = max(sizes, key=sizes.count, default=(0, 0, "square"))
    count, size = sizes.count(most), f"{_NAMES[most[2]]} of {most[0]} x {most[1]}"
    what = f"{len(reads)} sheets are in, each" if reads[1:] else f"{reads[0].name} is in,"
    rest = f", all in {size}" if count == len(reads) else f", {count} of them in {size}" if count > 1 else ""
    return f"{what} cut by a first guess{rest if reads[1:] else ''}."


def drawn_for(cuts: Sequence[Cut]) -> str:
    """What the tiles of cuts are drawn for, if it is the same of all and not squares; to stand behind "is cut"."""
    shapes = {cut.shape for cut in cuts}
    return f" into {_NAMES[shapes.pop()]}" if len(shapes) == 1 and "square" not in shapes else ""


def _images_in(path: Path) -> list[Source]:
    data = read_file(path)
    if is_openraster(data):
        return layers_as_images(read_layers(data, path.name))
    return [Source(path.name, data, path)]


def _look(image: Source, known: Sizes, report: _Report) -> _Looked:
    if count_frames(image.data) > 1:
        return _Looked(image, None, Overview([], []), tuple(decode_frames(image.data, image.name)))
    picture = read_picture(image.name, image.data)
    return _Looked(image, picture, look_over(picture.pixels, report, known))


def _alike(found: Sequence[_Looked], report: _Report) -> list[_Looked]:
    """The same; those that may be cut as most others are looked at again, with that in mind."""
    size = likely_size([(one.overview.guesses, one.picture.size) for one in found if one.picture and one.size])
    if size is None:
        return list(found)

    def again(number: int, one: _Looked) -> _Looked:
        if one.picture is None or one.size in (None, size):
            return one
        rest = _part(report, number, len(found), 1 - _AGAIN, _AGAIN)
        guesses, parts = look_over(one.picture.pixels, rest, [size])
        return one._replace(overview=Overview(first_of(size, guesses), parts))

    return [again(number, one) for number, one in enumerate(found)]


def _part(report: _Report, number: int, count: int, share: float, begun: float = 0) -> _Report:
    """A report of one of several things that are a share of the work together."""
    return lambda done: report(begun + share * (number + done) / count)
