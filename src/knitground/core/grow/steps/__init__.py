"""Steps of recipes: one module for each kind, behind one interface (`Step`).

A new kind is a module here, a line in `KINDS` and its test; the window makes its form of what the kind tells.
"""

from typing import TYPE_CHECKING, Annotated, Union

from pydantic import Field

from knitground.core.grow.steps.caves import CavesStep
from knitground.core.grow.steps.connect import ConnectStep
from knitground.core.grow.steps.dress import DressStep
from knitground.core.grow.steps.example import ExampleStep
from knitground.core.grow.steps.fit import FitStep
from knitground.core.grow.steps.flood import FloodStep
from knitground.core.grow.steps.island import IslandStep
from knitground.core.grow.steps.maze import MazeStep
from knitground.core.grow.steps.mirror import MirrorStep
from knitground.core.grow.steps.noise import NoiseStep
from knitground.core.grow.steps.path import PathStep
from knitground.core.grow.steps.picture import PictureStep
from knitground.core.grow.steps.rooms import RoomsStep
from knitground.core.grow.steps.run import RunStep
from knitground.core.grow.steps.scatter import ScatterStep
from knitground.core.grow.steps.step import Step
from knitground.core.grow.steps.tidy import TidyStep

KINDS: tuple[type[Step], ...] = (
    NoiseStep, CavesStep, RoomsStep, IslandStep, PathStep, MazeStep, PictureStep, TidyStep, ConnectStep, MirrorStep,
    ScatterStep, DressStep, FloodStep, RunStep, FitStep, ExampleStep,
)  # fmt: skip

if TYPE_CHECKING:
    FiledStep = Step
else:
    # Any kind of step, as files hold it.
    FiledStep = Annotated[Union[KINDS], Field(discriminator="kind")]  # noqa: UP007
