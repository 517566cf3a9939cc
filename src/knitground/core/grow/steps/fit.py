"""Filling to fit as a step: tiles of a join set so that every neighbour agrees."""

from dataclasses import dataclass, field
from typing import ClassVar, Literal

from knitground.core.errors import BadRecipe
from knitground.core.grow.steps.step import Canvas, Choice, Marks, Role, Step


@dataclass(frozen=True)
class FitStep(Step):
    """Fills a layer with a join set: see `knitground.core.edits.filling`, which lays it."""

    join_set: str = field(default="", kw_only=True)
    held: bool = field(default=False, kw_only=True)
    kind: Literal["fit"] = field(default="fit", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Fill to fit"
    says: ClassVar[str] = "lays a join set so that every neighbour agrees"
    takes_tiles: ClassVar[bool] = True
    takes_runs: ClassVar[bool] = True
    roles: ClassVar[tuple[Role, ...]] = ()
    choices: ClassVar[tuple[Choice, ...]] = (
        Choice("held", "What lies there", (("is laid anew", False), ("is held", True))),
    )

    @property
    def set_id(self) -> str | None:
        return self.join_set

    @property
    def compiled(self) -> bool:
        return True

    def marks(self, canvas: Canvas) -> Marks:
        raise BadRecipe("This step fills by a join set; name one that the project has.")
