"""Names of delivered files: made of a pattern, never outside the folder that was chosen, never the same twice."""

import string
from collections.abc import Mapping
from pathlib import Path, PurePosixPath

from knitground.core.deliver.exporter import Namer, plain_name
from knitground.core.errors import BadRequest, readable

PARTS = ("project", "ground", "part")
_EMPTY = "map"


def checked_pattern(pattern: str) -> str:
    """The pattern, if it can make names of files; raises BadRequest if it can't."""
    try:
        fields = [field for _, field, *rest in string.Formatter().parse(pattern) if field is not None or any(rest)]
    except ValueError:
        fields = [pattern]
    if not pattern.strip() or not set(fields) <= set(PARTS):
        raise BadRequest(
            f"“{readable(pattern)}” makes no names of files; write one such as {{ground}} or {{project}}/{{ground}}-"
            "{part}."
        )
    for segment in pattern.split("/"):
        if segment.strip() in ("", ".", "..") or "\\" in segment or any(letter < " " for letter in segment):
            raise BadRequest(
                f"“{readable(pattern)}” would lead out of the folder or to no name; write names with single slashes "
                "between, as in maps/{ground}."
            )
    return pattern


def namer(pattern: str, words: Mapping[str, str], taken: set[str]) -> Namer:
    """Names for the files of one ground.

    Parameters
    ----------
    pattern : str
        One that `checked_pattern` lets pass. What a file holds goes behind a hyphen if there is no place for it.
    words : mapping
        What stands for ``project`` and ``ground``.
    taken : set of str
        Names that others have; the names given are added, whatever their letters' case.
    """
    known: dict[tuple[str, str], str] = {}

    def name(part: str, ending: str) -> str:
        if (part, ending) not in known:
            plain = {key: plain_name(word) or _EMPTY for key, word in words.items()} | {"part": plain_name(part)}
            shown = pattern if "{part}" in pattern or not plain["part"] else pattern + "-{part}"
            segments = [segment.format(**plain).strip(" -_.") or plain["ground"] for segment in shown.split("/")]
            stem = "/".join(segments)
            number, found = 1, stem + ending
            while found.lower() in taken:
                number += 1
                found = f"{stem}-{number}{ending}"
            taken.add(found.lower())
            known[part, ending] = found
        return known[part, ending]

    return name


def inside_folder(folder: Path, name: str) -> Path:
    """Where a file of a delivery lies; raises BadRequest if that is not in its folder, however it is linked."""
    path = folder / PurePosixPath(name)
    try:
        out = not path.parent.resolve().is_relative_to(folder.resolve()) or path.is_symlink()
    except (OSError, RuntimeError):
        out = True
    if out:
        raise BadRequest(f"{readable(path)} leads out of the chosen folder; remove the link, or choose another folder.")
    return path
