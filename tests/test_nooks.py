"""Inner corners of blocks that are as small as their rims are thin, found with the block and told from its inside."""

import numpy as np
import pytest

from knitground.core.joins.find import find_sets

_CORNERS = ("nw", "ne", "se", "sw")


def rock(side: int, grain: np.ndarray, bare: str = "", nook: str = "") -> np.ndarray:
    """A tile of rock with a mossy top and thin dark rims at some sides, or at one corner only."""
    tile = np.full((side, side, 4), 255, np.uint8)
    tile[..., :3] = np.clip(np.array((104, 116, 132)) + grain, 0, 255)
    rows, columns = np.mgrid[:side, :side]
    depths = {"n": rows, "s": side - 1 - rows, "w": columns, "e": side - 1 - columns}
    near = {one: depth < (5 if one == "n" else 3) for one, depth in depths.items()}
    rims = [near[one] for one in bare if one != "n"] + ([near["n"]] if "n" in bare else [])
    rims += [near[nook[0]] & near[nook[1]]] if nook else []
    for rim in rims:
        tile[rim, :3] = (178, 196, 170) if rim is near["n"] or "n" in nook else (60, 66, 84)
    for one in bare:
        tile[depths[one] < 1] = 0
    return tile


@pytest.mark.parametrize("side", [16, 20, 32])
@pytest.mark.parametrize("order", ["round a hole", "as they come"])
def test_small_inner_corners_are_found_and_more_of_the_inside_is_none(side, order):
    random = np.random.default_rng(side)
    grain = random.integers(-9, 10, (side, side, 1))
    sheet = np.zeros((3, 9, side, side, 4), np.uint8)
    for row, column in np.ndindex(3, 3):
        bare = {0: "n", 2: "s"}.get(row, "") + {0: "w", 2: "e"}.get(column, "")
        sheet[row, column] = rock(side, grain, bare)
    places = [(1, 5), (1, 4), (0, 4), (0, 5)] if order == "round a hole" else [(0, 4), (1, 4), (1, 5), (0, 5)]
    for name, place in zip(_CORNERS, places, strict=True):
        sheet[place] = rock(side, grain, nook=name)
    # A pebble somewhere amid more of the inside.
    sheet[0, 7] = rock(side, grain)
    sheet[0, 7, side // 2 - 2 : side // 2 + 1, side // 2 : side // 2 + 3, :3] = 60, 66, 84
    found = max(find_sets(sheet, sheet[..., 3].any(axis=(2, 3))), key=lambda one: len(one.cells))
    labels = dict(zip(map(tuple, found.cells.tolist()), found.labels.tolist(), strict=True))
    for number, (row, column) in enumerate(places):
        assert labels[column, row] == [int(corner != number) for corner in range(4)] + [1] * 5
    assert labels[7, 0] == [1] * 9
