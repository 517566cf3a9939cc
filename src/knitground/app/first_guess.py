"""What is said of a sheet that was just cut by a first guess."""

from knitground.core.edits.clear_offers import ClearOffer
from knitground.core.edits.image_files import Read, drawn_for
from knitground.core.edits.sheets import shown_in
from knitground.core.sheet.cut import Cut

CLEAR = "Clear what lies round the tiles"
LEAVE_WRITING_OUT = "Leave writing out of the tiles"
LOOSE = "Loose pieces, or a grid"
_DOUBTED, _MAY_BE_LOOSE = " that little speaks for", "its shapes may be loose pieces"


def told_of_guess(read: Read, offer: ClearOffer | None) -> list[str]:
    """What was guessed of a sheet, and what can be done about it: a sentence, then the names of commands."""
    how = f"is cut{drawn_for(read.cuts)}"
    if len(read.cuts) > 1:
        how = f"shows {shown_in(read.cuts)}; each is a part, cut"
    rest, leads = "drag the round handles to set it right", ["Guess the numbers of the cut"]
    if offer is not None:
        rest = offer.says
        leads.append(CLEAR)
    without = " without the edges that it repeats" if read.repeated else ""
    if read.doubted:
        without, leads = f"{without}{_DOUBTED}", [LOOSE, *leads]
        rest = rest if offer is not None else _MAY_BE_LOOSE
    rest = rest if read.resized is None else read.resized.says
    if read.written and not read.doubted:
        rest += f"; {told_of_writing(read.written)}"
        leads.insert(1, LEAVE_WRITING_OUT)
    return [f"{read.name} {how} by a first guess{without}; {rest}.", *leads]


def told_of_part(name: str, cut: Cut, size: tuple[int, int], written: int, *, doubted: bool) -> list[str]:
    """What was guessed of a part that was drawn, and what can be done about it: a sentence, then names of commands.

    Parameters
    ----------
    name : str
    cut : Cut
    size : (int, int)
        Its columns and rows.
    written : int
        How many tiles look like writing, in all parts.
    doubted : bool
        Whether little speaks for it.
    """
    how = f"“{name}” is cut by a first guess{_DOUBTED * doubted}"
    tiles = f"{size[0]} x {size[1]} tiles of {cut.tile_width} x {cut.tile_height} px"
    if doubted:
        return [f"{how}: {tiles}; {_MAY_BE_LOOSE}.", LOOSE]
    if written:
        return [f"{how}: {tiles}; {told_of_writing(written)}.", LEAVE_WRITING_OUT]
    return [f"{how}: {tiles}."]


def told_of_writing(count: int) -> str:
    """What is said of so many tiles that look like writing."""
    return "a tile looks like writing" if count == 1 else f"{count} tiles look like writing"
