"""Checks: what can be wrong with a project, one module each.

A new check is a module here that makes a `CHECK`, a line in one of the two lists below, and its test. `stitches.py` is
the example of a check of definitions, `unmet.py` that of a check of grounds.
"""

from knitground.core.check import (
    bled,
    coverage,
    diamonds,
    feet,
    frames,
    look_alikes,
    lost,
    pictures,
    platforms,
    reach,
    routes,
    shapes,
    sheets,
    stitches,
    stitches_laid,
    tile_sizes,
    unmet,
    upright,
    views,
    visible_seams,
)
from knitground.core.check.check import DefinitionCheck, GroundCheck

DEFINITION_CHECKS: tuple[DefinitionCheck, ...] = (
    sheets.CHECK, pictures.CHECK, bled.CHECK, coverage.CHECK, stitches.CHECK, visible_seams.CHECK, views.CHECK,
    reach.CHECK, platforms.CHECK, routes.CHECK, shapes.CHECK, shapes.VARIANTS, look_alikes.CHECK,
    diamonds.CHECK, feet.CHECK, upright.CHECK, frames.CHECK,
)  # fmt: skip
GROUND_CHECKS: tuple[GroundCheck, ...] = (
    lost.CHECK, tile_sizes.CHECK, unmet.CHECK, stitches_laid.CHECK
)  # fmt: skip
