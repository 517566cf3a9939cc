"""What can go wrong, in sentences that the user reads.

Every message says what is wrong with which file or number, and what to do. Anything that is not one of
these is a bug.
"""

import errno
from pathlib import Path


class KnitGroundError(Exception):
    """Base of all errors whose message is meant for the user."""


class BadSheet(KnitGroundError):
    """An image or its cut cannot be used."""


class BadProject(KnitGroundError):
    """A project file cannot be read, or holds something impossible."""


class BadRecipe(KnitGroundError):
    """A recipe, mix or seed cannot be carried out."""


class BadRequest(KnitGroundError):
    """Something was asked for that does not exist or does not fit."""


class CannotWrite(KnitGroundError):
    """A file could not be written; what was there before is still there."""


class ChangedMeanwhile(CannotWrite):
    """The project's file was changed by another program since it was read."""


class Cancelled(KnitGroundError):
    """Long work was stopped on request; nothing of it was kept."""


def readable(text: object) -> str:
    """Text as it may stand in a sentence: in one line, shortened, without what no screen can show."""
    plain = str(text).encode("utf-8", "replace").decode("utf-8").replace("\x00", "?")
    line = " ".join(plain.split()) if plain.strip() else plain.strip()
    return line if len(line) <= 240 else f"{line[:160]}…{line[-60:]}"


def told(problem: BaseException) -> KnitGroundError | None:
    """What the system refused, as one of our errors; None if it is a bug of ours.

    This is the one place where errors of the operating system, of memory and of encodings become sentences.
    """
    if isinstance(problem, KnitGroundError):
        return problem
    if isinstance(problem, MemoryError):
        return BadRequest("There is not enough memory for this; close other programs, or work on something smaller.")
    if isinstance(problem, UnicodeError):
        return BadRequest("A name holds letters that can't be written as text; rename it, and try again.")
    if isinstance(problem, OSError):
        return CannotWrite(_of_the_system(problem))
    return None


def refusal(problem: OSError, path: Path | str) -> str:
    """Why the system would not write a file, and what to do."""
    name = readable(path)
    if problem.errno in (errno.ENOSPC, errno.EDQUOT):
        return f"The disk is full, so {name} was not written and the old file is untouched; free some space."
    if problem.errno == errno.ENAMETOOLONG:
        return f"The name {name} is too long for this disk; choose a shorter one."
    return f"{name} could not be written ({_reason(problem)}); choose another place."


def _of_the_system(problem: OSError) -> str:
    if problem.errno in (errno.ENOSPC, errno.EDQUOT):
        return "The disk is full; free some space and try again."
    if problem.filename is None:
        return f"The system refused ({_reason(problem)}); check the names given, and try again."
    name = problem.filename
    name = name.decode("utf-8", "replace") if isinstance(name, bytes) else name
    if problem.errno == errno.ENAMETOOLONG:
        return f"The name {readable(name)} is too long; give a shorter one."
    return f"{readable(name)} cannot be used ({_reason(problem)}); check the name and that you may open it."


def _reason(problem: OSError) -> str:
    return problem.strerror or type(problem).__name__
