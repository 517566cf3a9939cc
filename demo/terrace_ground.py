"""Lays the terrace: a corner by hand, and more of it from a recipe that stays alive, with pots strewn on its gravel."""

import numpy as np

from knitground.core.edits.growing import grow
from knitground.core.ground.ground import by_id
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document

TERRACE = "terrace"
WIDTH, HEIGHT = 44, 32
CORNER = (
    "GGGGGGGGGGGGGGGGGGGG",
    "GGGGGGGGGGGGGGGGGGGG",
    "GGOOGGGMMGGGOOGOOGGG",
    "GGOOGGGMMGGGOOGOOGGG",
    "GGGGGGGGGGGGGGGGGGGG",
    "GGGGGGGGGGGGGGGGGGGG",
    "GGMMGGGOOGOOGGGMMGGG",
    "GGMMMGGOOGOOGGMMMGGG",
    "GGGMMGGGGGGGGGMMGGGG",
    "GGGGGGGGMMGGGGGGGGGG",
    "GGOOGGGMMMMGGGGOOGGG",
    "GGOOGGGMMMMGGGGOOGGG",
    "GGGGGGGGMMGGGGGGGGGG",
    "GGOOGGGGGGGGMMGOOGGG",
    "GGOOGGMMGOOGMMGOOGGG",
    "GGGGGGMMGOOGGGGGGGGG",
    "GGGGGGGGGGGGGGGGGGGG",
    "GGGGGGGGGGGGGGGGGGGG",
)
"""What lies at each point, by the letters of the terrains."""


def lay_terrace(document: Document) -> None:
    """Paints the corner, and grows the rest."""
    letters = {terrain.letter: number for number, terrain in enumerate(document.project.join_sets[0].terrains, start=1)}
    values = np.array([[letters[letter] for letter in row] for row in CORNER], dtype=np.uint8)
    board = by_id(document.project.grounds, TERRACE).board
    shape = board.box("corners", (0, 0), (len(CORNER) - 1, len(CORNER[0]) - 1))
    document.paint("paint", TERRACE, "cover", "corners", shape, values)
    grow(Derived(document), by_id(document.project.recipes, "more-of-the-corner"))
