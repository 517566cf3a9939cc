"""What has a name in a project, which of it a sentence names, and what has to be at hand to work on each."""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from knitground.core.check.check import Stage
from knitground.core.layers.props import as_props
from knitground.core.project.model import Project

_NAME = re.compile(r"“([^“”]+)”")


@dataclass(frozen=True)
class Named:
    """Something that has a name.

    Attributes
    ----------
    what : str
        Its kind, in a word; of stitches their number, too, as not all have names.
    name : str
    stage : str
        Where one works on it.
    at_hand : mapping of str to ids
        By the names of choices, what brings it to hand.
    of : str
        The name of what it is a part of, if it is one.
    at : (x, y), optional
        In pixels of its ground, where it is something placed.
    """

    what: str
    name: str
    stage: Stage
    at_hand: Mapping[str, str | frozenset[str]]
    of: str = ""
    at: tuple[float, float] | None = None

    @property
    def title(self) -> str:
        """What it is, in words."""
        own = f" “{self.name}”" if self.name else ""
        return f"{self.what.capitalize()}{own}" + (f" of “{self.of}”" if self.of else "")


def everything(project: Project) -> list[Named]:
    """All that has a name, and stitches by their numbers; in the order of the work within each kind."""
    stitches = [
        Named(
            f"stitch {number}", one.name, "stitches", {"stitch_set_id": owner.id, "stitch_id": one.id}, owner.name
        )
        for owner in project.stitch_sets
        for number, one in enumerate(owner.stitches, start=1)
    ]  # fmt: skip
    things = [
        Named(
            "thing", one.name, "ground",
            {"ground_id": ground.id, "layer_id": layer.id, "things": frozenset({one.id})}, ground.name, (one.x, one.y),
        )
        for ground in project.grounds
        for layer in ground.layers
        if (props := as_props(layer)) is not None
        for one in props.things
        if one.name
    ]  # fmt: skip
    deliveries = [Named("delivery", one.name, "deliver", {}) for one in project.deliveries]
    return [*_things(project, [ground.id for ground in project.grounds]), *stitches, *things, *deliveries]


def named(project: Project, sentence: str, ground_id: str = "") -> list[list[Named]]:
    """What a sentence names in quotes.

    Parameters
    ----------
    project : Project
    sentence : str
    ground_id : str
        The ground whose layers are meant where the sentence names no ground.

    Returns
    -------
    named : list of lists of Named
        For each name that something bears, in the order of the sentence, all that bears it.
    """
    names = list(dict.fromkeys(_NAME.findall(sentence)))
    told = [ground.id for ground in project.grounds if ground.name in names]
    every = [one for one in _things(project, told or [ground_id]) if one.name in names]
    layers = {one.name for one in every if one.what == "layer"} if told else set()
    if layers:
        # A ground is told to say where a layer is, so that nothing else of the layer's name is meant.
        every = [one for one in every if one.what != "ground" and (one.what == "layer" or one.name not in layers)]
    return [found for name in names if (found := [one for one in every if one.name == name])]


def _things(project: Project, ground_ids: list[str]) -> Iterator[Named]:
    """Everything that has a name and a place in the window; of layers those of some grounds."""
    for ground in project.grounds:
        yield Named("ground", ground.name, "ground", {"ground_id": ground.id})
        for layer in ground.layers if ground.id in ground_ids else ():
            yield Named("layer", layer.name, "ground", {"ground_id": ground.id, "layer_id": layer.id}, ground.name)
    for sheet in project.sheets:
        yield Named("sheet", sheet.id, "sheet", {"sheet_id": sheet.id})
    for join_set in project.join_sets:
        yield Named("join set", join_set.name, "joins", {"join_set_id": join_set.id})
    for stitch_set in project.stitch_sets:
        yield Named("stitch set", stitch_set.name, "stitches", {"stitch_set_id": stitch_set.id})
    for mix in project.mixes:
        yield Named("mix", mix.name, "grow", {"mix_id": mix.id})
    for recipe in project.recipes:
        yield Named("recipe", recipe.name, "grow", {"ground_id": recipe.ground})
