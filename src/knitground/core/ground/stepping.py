"""Going about a ground in steps: from the middle of a cell to the next, or from point to point between cells."""

from math import floor

from knitground.core.ground.ground import Ground


def place_beside(
    ground: Ground, at: tuple[float, float], step: tuple[int, int], *, points: bool
) -> tuple[float, float]:
    """The place some steps from one, never off the ground.

    Parameters
    ----------
    ground : Ground
    at : (float, float)
        Flat row and column of where one is; with a step of (0, 0) it goes to the nearest place.
    step : (int, int)
        Down and to the right.
    points : bool
        Whether places are the points between cells instead of the middles of cells.

    Returns
    -------
    place : (float, float)
        Flat row and column.
    """
    nearest, middle = (0.5, 0.0) if points else (0.0, 0.5)
    last = (ground.height, ground.width) if points else (ground.height - 1, ground.width - 1)
    row, column = (
        min(max(0, floor(old + nearest) + by), most) + middle for old, by, most in zip(at, step, last, strict=True)
    )
    return row, column
