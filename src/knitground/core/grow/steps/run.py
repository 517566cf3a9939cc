"""Running a set: the tiles that a layer's stitches, joins or mix lay there become tiles of their own."""

from dataclasses import dataclass, field
from typing import ClassVar, Literal

from knitground.core.grow.steps.step import LEFT, Canvas, Marks, Role, Step


@dataclass(frozen=True)
class RunStep(Step):
    """Lays what another layer shows as of this step, wherever it shows a tile."""

    reads: str = field(default="", kw_only=True)
    kind: Literal["run"] = field(default="run", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Run a set"
    says: ClassVar[str] = "lays the tiles that stitches, joins or a mix lay on another layer"
    takes_tiles: ClassVar[bool] = True
    takes_areas: ClassVar[bool] = False
    roles: ClassVar[tuple[Role, ...]] = ()

    @property
    def read_layer(self) -> str | None:
        return self.reads

    def marks(self, canvas: Canvas) -> Marks:
        codes = canvas.tools.shown(self.reads).copy()
        codes[codes <= 0] = LEFT
        return codes
