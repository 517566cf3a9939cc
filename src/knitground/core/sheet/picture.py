"""Reading pictures safely, and making key colours transparent."""

import io
import stat
import warnings
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError
from pydantic import ConfigDict, Field, model_serializer

from knitground.core.errors import BadSheet, readable
from knitground.core.sheet.cut import Cut, Rect, parts_over
from knitground.core.sheet.keys import Key, key_on
from knitground.core.sheet.unmixed import unmix
from knitground.core.written import only_what_is_said

LARGEST_SIDE = 16384
MOST_PIXELS = 2**26
LARGEST_FILE = 2**29
READABLE = ("PNG", "GIF", "WEBP", "BMP")

Level = Annotated[int, Field(ge=0, le=255)]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]

# The size is checked before any pixel is decoded, so Pillow's own limit would only get in the way.
Image.MAX_IMAGE_PIXELS = None


@dataclass(frozen=True)
class Sheet:
    """A source image and the cuts that make tiles of it; `made` where the program made its tiles.

    With `images` it is a collection of single images: its picture is put together of them, and has one cut for each,
    under the image's name. `tolerance` is how far a pixel may be from a key colour; one whose alpha is less than
    `clear_below` counts as transparent. With `soft_edges`, what is mixed with a key colour loses its part of it.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    file: str
    cuts: tuple[Cut, ...] = ()
    keys: tuple[Key, ...] = field(default=())
    made: bool = False
    images: tuple[str, ...] = ()
    tolerance: Level = 0
    clear_below: Level = 0
    soft_edges: bool = False

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)

    @property
    def files(self) -> tuple[str, ...]:
        """The image files, relative to the project's folder."""
        return self.images or (self.file,)

    def parts_over(self, cut: Cut) -> tuple[Rect, ...]:
        """The parts of the picture that other cuts take from one; the images of a collection never overlap."""
        return () if self.images else parts_over(cut, self.cuts)

    @property
    def clearing(self) -> "Clearing":
        """What of its picture counts as transparent."""
        return Clearing(self.keys, self.tolerance, self.clear_below, self.soft_edges)


class Clearing(NamedTuple):
    """What of a picture counts as transparent: key colours, with a tolerance and in soft edges, and alpha too low."""

    keys: tuple[str, ...] = ()
    tolerance: int = 0
    clear_below: int = 0
    soft_edges: bool = False


def read_file(path: Path) -> bytes:
    """The bytes of a picture file.

    Raises
    ------
    BadSheet
        If it is missing, unreadable or far too large.
    """
    try:
        kind = path.stat()
        if not (stat.S_ISREG(kind.st_mode) or stat.S_ISDIR(kind.st_mode)):
            raise BadSheet(f"{readable(path.name)} is no ordinary file; choose an image file.")
        if kind.st_size > LARGEST_FILE:
            raise BadSheet(f"{path.name} is larger than {LARGEST_FILE >> 20} MiB; split the sheet into smaller files.")
        return path.read_bytes()
    except IsADirectoryError:
        raise BadSheet(f"{readable(path.name)} is a folder; choose an image file in it.") from None
    except FileNotFoundError:
        raise BadSheet(f"There is no file {readable(path)}; check the name.") from None
    except (OSError, ValueError) as problem:
        reason = getattr(problem, "strerror", None) or "the name can't be used"
        raise BadSheet(f"{readable(path.name)} cannot be read ({reason}); check that you may open it.") from None


@contextmanager
def decoding(data: bytes, name: str) -> Iterator[Image.Image]:
    """An image file while it is decoded; whatever the decoder stumbles over becomes a sentence.

    Raises
    ------
    BadSheet
        If it is no image, damaged or cut short.
    """
    name = readable(name)
    try:
        with warnings.catch_warnings(), Image.open(io.BytesIO(data), formats=READABLE) as image:
            warnings.simplefilter("ignore")
            yield image
    except BadSheet:
        raise
    except UnidentifiedImageError:
        raise BadSheet(f"{name} is not a PNG, GIF, WebP or BMP image; save it as PNG in a paint program.") from None
    except Exception as problem:  # decoders raise all kinds of things on files that are damaged on purpose
        raise BadSheet(f"{name} is damaged or cut short ({readable(problem)}); restore a copy.") from None


def decode_picture(data: bytes, name: str) -> NDArray[np.uint8]:
    """Pixels of an encoded image.

    Parameters
    ----------
    data : bytes
        A PNG, GIF, WebP or BMP file; of several frames the first counts.
    name : str
        What to call it in messages.

    Returns
    -------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.

    Raises
    ------
    BadSheet
        If it is no image, damaged, empty or too large.
    """
    if not data:
        raise BadSheet(f"{readable(name)} is empty; save it again from the paint program.")
    with decoding(data, name) as image:
        width, height = image.size
        if max(width, height) > LARGEST_SIDE or width * height > MOST_PIXELS:
            raise BadSheet(
                f"{readable(name)} is {width} x {height} pixels; sheets may be up to {LARGEST_SIDE} on a side "
                f"and {MOST_PIXELS >> 20} megapixels in all, so split it."
            )
        # Of sixteen bits of grey the upper eight are what a screen shows.
        deep = image.mode.startswith("I")
        shown = Image.fromarray((np.asarray(image) >> 8).astype(np.uint8)) if deep else image
        return np.array(shown.convert("RGBA"), dtype=np.uint8)


def encode_indexed_png(indices: NDArray[np.uint8], colours: Sequence[str]) -> bytes:
    """A picture of few colours as the bytes of an indexed PNG.

    Parameters
    ----------
    indices : (h, w) uint8
    colours : sequence of str
        The colour of each index, as #rrggbb.
    """
    image = Image.fromarray(indices, "P")
    image.putpalette([int(colour[at : at + 2], 16) for colour in colours for at in (1, 3, 5)])
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def encode_png(pixels: NDArray[np.uint8]) -> bytes:
    """A PNG file of (H, W, 4) uint8 pixels with straight alpha; the same pixels always give the same bytes.

    Parameters
    ----------
    pixels : (H, W, 4) uint8
        Straight alpha; at least one pixel.
    """
    buffer = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(pixels)).save(buffer, "PNG", compress_level=6)
    return buffer.getvalue()


def cleared(picture: NDArray[np.uint8], clearing: Clearing) -> NDArray[np.uint8]:
    """The picture with every pixel that counts as transparent made fully so, and what is mixed with it partly.

    Parameters
    ----------
    picture : (H, W, 4) uint8
    clearing : Clearing
        Keys as ``#rrggbb``, or ``checker``.

    Returns
    -------
    picture : (H, W, 4) uint8
        The same array where nothing is to be cleared, else a copy.
    """
    if not clearing.keys and not clearing.clear_below:
        return picture
    result = picture.copy()
    of_key = [key_on(picture, key, clearing.tolerance) for key in clearing.keys]
    for area, _ in of_key:
        result[area] = 0
    if clearing.soft_edges:
        for area, plate in of_key:
            result = unmix(result, plate, area)
    if clearing.clear_below:
        result[result[..., 3] < clearing.clear_below] = 0
    return result


def brightness(picture: NDArray[np.uint8], height: int, width: int) -> NDArray[np.float32]:
    """How bright a picture is, averaged over the parts that fall on each of (height, width) places, from 0 to 1.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        Straight alpha; what is clear counts as dark.
    height, width : int

    Returns
    -------
    light : (height, width) float32

    References
    ----------
    Luma as in ITU-R BT.601.
    """
    light = picture[..., :3].astype(np.float32) @ np.array([0.299, 0.587, 0.114], dtype=np.float32)
    light *= picture[..., 3].astype(np.float32) / (255 * 255)
    image = Image.fromarray(light).resize((width, height), Image.Resampling.BOX)
    return np.asarray(image, dtype=np.float32)
