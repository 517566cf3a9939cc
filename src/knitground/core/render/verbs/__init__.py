"""How draw items become pixels, a module for each verb.

A new verb is a kind of draw items (`knitground.core.layers.items`), a module here, a line below, and its test.
"""

from collections.abc import Mapping

from knitground.core.render.scene import Drawn
from knitground.core.render.verbs.shade import Shades
from knitground.core.render.verbs.things import Things
from knitground.core.render.verbs.tiles import Tiles
from knitground.core.render.verbs.verb import Verb

VERBS: Mapping[str, Verb] = {"tiles": Tiles(), "shade": Shades(), "things": Things()}


def verb_of(drawn: Drawn) -> Verb:
    """How the items of a layer become pixels."""
    return VERBS[drawn.items.verb]
