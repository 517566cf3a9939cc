"""Stitches that can never fire."""

from collections.abc import Iterator

from knitground.core.check.check import DefinitionCheck, Facts, Finding
from knitground.core.stitches.match import dead_stitches
from knitground.core.stitches.rules import StitchSet


def _find(facts: Facts, stitch_set: StitchSet) -> Iterator[Finding]:
    for dead in dead_stitches(stitch_set.stitches, len(stitch_set.marks)):
        hiding = " and ".join(str(index + 1) for index in dead.hidden_by)
        yield Finding(
            "dead stitch", "stitches", f"{stitch_set.name}: stitch {dead.index + 1} never fires, hidden by {hiding}",
            stitch_set.id, index=dead.index, mend="Move it above the stitches that hide it, or take it out.",
        )  # fmt: skip


CHECK = DefinitionCheck(
    "stitches", lambda facts: facts.stitch_sets, lambda facts, one: (one,), lambda *of: tuple(_find(*of))
)
