"""What can go wrong, in sentences that the user reads.

Every message says what is wrong with which file or number, and what to do. Anything that is not one of
these is a bug.
"""


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


class Cancelled(KnitGroundError):
    """Long work was stopped on request; nothing of it was kept."""
