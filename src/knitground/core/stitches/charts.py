"""Charts: what a stitch wants to see in the cells round the one at which it fires, written a word for each cell.

`.` is not looked at, `V` bears the same as the middle, `-` something else. Other words name what may lie there:
numbers of marks, terrains or signs, 0 for nothing and x for off the map, with slashes between; `2~` is a cell that
bears 2 among others, and a word after `!` tells what must not lie there.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Annotated, NamedTuple

from pydantic import ConfigDict, Field, model_validator

from knitground.core.tiles.tile import MIRRORED

SAME, OTHER, ANY = "V", "-", "."
OFF = "x"
LARGEST_CHART = 9
_WORD = re.compile(r"[.V\-]|!?(?:x|\d{1,2}~?)(?:/(?:x|\d{1,2}~?))*")

Step = tuple[int, int]


class Sign(NamedTuple):
    """A word of a chart, read.

    Attributes
    ----------
    word : str
        `ANY`, `SAME` or `OTHER`; nothing where things are named.
    numbers : frozenset of int
        What may lie there.
    some : frozenset of int
        What may lie there among others.
    off : bool
        Whether the cell may lie off the map.
    none_of : bool
        Whether all this is what must not be.
    """

    word: str
    numbers: frozenset[int] = frozenset()
    some: frozenset[int] = frozenset()
    off: bool = False
    none_of: bool = False

    @property
    def named(self) -> frozenset[int]:
        """All numbers that it names."""
        return self.numbers | self.some


@lru_cache(4096)
def read_sign(word: str) -> Sign:
    """What a word of a chart means; ValueError if it is none."""
    if not _WORD.fullmatch(word):
        raise ValueError(f"“{word[:20]}” is no sign of a chart")
    if word in (ANY, SAME, OTHER):
        return Sign(word)
    parts = word.removeprefix("!").split("/")
    some = frozenset(int(part[:-1]) for part in parts if part.endswith("~"))
    numbers = frozenset(int(part) for part in parts if part.isdecimal())
    return Sign("", numbers, some, OFF in parts, word.startswith("!"))


def write_sign(sign: Sign) -> str:
    """The word for a sign; what names nothing is not looked at."""
    if sign.word:
        return sign.word
    parts = [str(number) for number in sorted(sign.numbers)] + [f"{number}~" for number in sorted(sign.some)]
    parts += [OFF] if sign.off else []
    return ("!" if sign.none_of else "") + "/".join(parts) if parts else ANY


@dataclass(frozen=True)
class Chart:
    """What a stitch wants to see of one layer: rows of words with spaces between, the middle being its own cell.

    `of` is the view that it looks at, or nothing for the plan itself.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    rows: Annotated[tuple[Annotated[str, Field(max_length=2000)], ...], Field(min_length=1, max_length=LARGEST_CHART)]
    of: Annotated[str, Field(max_length=60)] = ""

    @model_validator(mode="after")
    def _whole(self) -> "Chart":
        words = [row.split(" ") for row in self.rows]
        if len({len(row) for row in words}) > 1 or not len(words) % 2 or not len(words[0]) % 2:
            raise ValueError("a chart needs an odd number of rows, all with the same odd number of words")
        if len(words[0]) > LARGEST_CHART:
            raise ValueError(f"a chart has at most {LARGEST_CHART} words in a row")
        for row in words:
            for word in row:
                read_sign(word)
        return self

    @property
    def words(self) -> list[list[str]]:
        """Its words, row by row."""
        return [row.split(" ") for row in self.rows]

    @property
    def size(self) -> tuple[int, int]:
        """Rows and columns."""
        return len(self.rows), self.rows[0].count(" ") + 1

    @property
    def reach(self) -> tuple[int, int]:
        """How many rows and columns from the middle it looks."""
        rows, columns = self.size
        return rows // 2, columns // 2

    @cached_property
    def signs(self) -> dict[Step, Sign]:
        """What is looked at, by (rows down, columns right) from the middle."""
        down, right = self.reach
        return {
            (y - down, x - right): read_sign(word)
            for y, row in enumerate(self.words)
            for x, word in enumerate(row)
            if word != ANY
        }

    @cached_property
    def numbers(self) -> frozenset[int]:
        """All numbers that it names."""
        return frozenset(number for sign in self.signs.values() for number in sign.named)


def chart_of(words: Iterable[Sequence[str]], of: str = "") -> Chart:
    """A chart of words, row by row."""
    return Chart(tuple(" ".join(row) for row in words), of)


def blank_chart(of: str = "", middle: str = ANY) -> Chart:
    """Three by three cells of which at most the middle is looked at."""
    side = (ANY,) * 3
    return chart_of((side, (ANY, middle, ANY), side), of)


def with_word(chart: Chart, step: Step, word: str) -> Chart:
    """The chart with another word at some rows and columns from its middle."""
    words = chart.words
    words[step[0] + chart.reach[0]][step[1] + chart.reach[1]] = word
    return chart_of(words, chart.of)


def resized(chart: Chart, rows: int, columns: int) -> Chart:
    """The chart with so many rows and columns round the same middle; both odd, from 1 to 9."""
    signs, (down, right) = chart.signs, (rows // 2, columns // 2)
    return chart_of(
        [[write_sign(signs.get((y, x), Sign(ANY))) for x in range(-right, right + 1)] for y in range(-down, down + 1)],
        chart.of,
    )


def turned(chart: Chart, orientation: int) -> Chart:
    """The chart as it is for a tile laid in an orientation (see `orient`)."""
    words = chart.words
    if orientation & MIRRORED:
        words = [row[::-1] for row in words]
    for _ in range(orientation & 3):
        words = [list(row) for row in zip(*words[::-1], strict=True)]
    return chart_of(words, chart.of)


def turned_step(step: Step, orientation: int) -> Step:
    """Rows and columns from a middle after it is laid in an orientation (see `orient`)."""
    y, x = step
    if orientation & MIRRORED:
        x = -x
    for _ in range(orientation & 3):
        y, x = x, -y
    return y, x


def renumbered(chart: Chart, numbers: Mapping[int, int]) -> Chart:
    """The chart with other numbers for what it names; those that are missing are not named any more."""

    def of(sign: Sign) -> str:
        known = [frozenset(numbers[one] for one in some if one in numbers) for some in (sign.numbers, sign.some)]
        return write_sign(sign._replace(numbers=known[0], some=known[1]))

    return chart_of([[of(read_sign(word)) for word in row] for row in chart.words], chart.of)
