"""Finding what is meant by some words: names that hold them, or hold what the trade calls so, or come near."""

from collections.abc import Iterator, Mapping, Sequence
from difflib import get_close_matches

_SHORTEST = 3
_NEAR = 0.72
_MOST_NEAR = 12
_BINDING = frozenset({"a", "an", "and", "for", "from", "i", "in", "my", "of", "on", "the", "to", "with"})

OTHER_WORDS: Mapping[str, tuple[str, ...]] = {
    "add": ("new",),
    "animation": ("animat",),
    "another": ("exchange", "new", "add"),
    "autotiling": ("join", "stitch"),
    "background": ("clear the colour",),
    "blob": ("join",),
    "blocked": ("blocks",),
    "brush": ("draw", "symmetry"),
    "bucket": ("tool: fill",),
    "bugs": ("finding",),
    "check": ("finding",),
    "clone": ("duplicate", "copy"),
    "collider": ("shape", "blocks"),
    "collision": ("shape", "blocks"),
    "connected": ("hangs together",),
    "create": ("new", "add", "make"),
    "decoration": ("scatter", "mix"),
    "delete": ("remove", "clear", "erase", "take"),
    "deselect": ("select nothing",),
    "dropper": ("pick",),
    "dungeon": ("recipe", "grow"),
    "duplicates": ("look the same",),
    "engine": ("deliver", "live link"),
    "enlarge": ("name and size",),
    "entity": ("thing",),
    "errors": ("finding",),
    "export": ("deliver",),
    "eyedropper": ("pick",),
    "favourite": ("tray",),
    "fit": ("whole", "size of"),
    "flip": ("mirror",),
    "flood": ("fill",),
    "frames": ("animat",),
    "freeze": ("hold", "lock"),
    "fullscreen": ("only the ground",),
    "game": ("deliver", "walk", "live link"),
    "generate": ("grow", "recipe", "make missing", "throw"),
    "height": ("on top", "look, place"),
    "hitbox": ("shape", "blocks"),
    "import": ("add", "open", "drawn map"),
    "invert": ("all others",),
    "island": ("hangs together",),
    "level": ("ground",),
    "lift": ("on top",),
    "load": ("open", "add"),
    "map": ("ground",),
    "margin": ("numbers of the cut", "cut"),
    "marquee": ("select",),
    "minimap": ("overview",),
    "navigator": ("overview",),
    "new": ("add",),
    "noise": ("recipe", "step"),
    "object": ("thing",),
    "offset": ("place", "cut"),
    "opacity": ("look, place",),
    "optimize": ("pack", "look the same"),
    "order": ("front", "back", "layer"),
    "output": ("deliver",),
    "pattern": ("block", "stitch", "tray"),
    "path": ("way", "route"),
    "pencil": ("draw",),
    "play": ("walk",),
    "playtest": ("walk",),
    "preset": ("recipe", "tray"),
    "preview": ("proof", "walk"),
    "problems": ("finding",),
    "procedural": ("recipe", "grow"),
    "publish": ("deliver",),
    "quality": ("how good",),
    "raise": ("on top",),
    "random": ("throw", "mix", "chance", "scatter"),
    "reach": ("hangs together",),
    "rectangle": ("area", "select"),
    "replace": ("exchange",),
    "reroll": ("throw",),
    "resize": ("name and size", "crop"),
    "reskin": ("exchange",),
    "roof": ("on top",),
    "rotate": ("turn",),
    "rubber": ("erase",),
    "rule": ("stitch",),
    "seed": ("throw",),
    "settings": ("project's menu", "background"),
    "shadow": ("layer",),
    "shuffle": ("throw",),
    "slice": ("cut",),
    "solid": ("blocks", "shape"),
    "spacing": ("numbers of the cut", "cut"),
    "sprite": ("sheet", "thing"),
    "spritesheet": ("sheet",),
    "storey": ("on top",),
    "swap": ("exchange",),
    "test": ("walk", "proof"),
    "thing": ("prop layer",),
    "texture": ("sheet", "picture"),
    "tileable": ("goes round",),
    "tilemap": ("ground",),
    "tileset": ("sheet",),
    "transparency": ("clear the colour", "cut the sheet", "background", "look, place"),
    "unreachable": ("hangs together", "dead ends"),
    "validate": ("finding",),
    "variants": ("mix", "look the same"),
    "variation": ("mix", "throw"),
    "visible": ("show or hide",),
    "warnings": ("finding",),
    "weight": ("mix",),
    "wrap": ("goes round", "going round"),
    "world": ("maps beside", "ground"),
}
"""Words of the trade, and what bears the like in this program, as a part of its name."""


def found(text: str, names: Sequence[str]) -> list[int]:
    """Which names hold all words of a text, those first that begin with the first of them, or nearly so.

    Parameters
    ----------
    names : sequence of str

    Returns
    -------
    places : list of int
        In `names`; all where there is no word.
    """
    words = text.lower().split()
    places = [place for place, name in enumerate(names) if all(word in name.lower() for word in words)]
    return sorted(places, key=lambda place: names[place].lower().find(words[0])) if words else places


def meant(text: str, names: Sequence[str]) -> list[int]:
    """Which names hold all words of a text or, in place of some, what the trade calls so (`OTHER_WORDS`).

    Parameters
    ----------
    names : sequence of str

    Returns
    -------
    places : list of int
        In `names`, those first that hold the most of the words themselves; none that holds all of them.
    """
    words, lower = _telling(text), [name.lower() for name in names]
    known = [(word, *_other_words(word)) for word in words]
    held = [sum(word in name for word in words) for name in lower]
    whole = set(found(text, names))
    places = [
        place
        for place, name in enumerate(lower)
        if place not in whole and all(any(one in name for one in several) for several in known)
    ]
    return sorted(places, key=lambda place: -held[place])


def near(text: str, names: Sequence[str]) -> list[int]:
    """The names that come nearest to a text, where none holds all its words: misspelt ones, or with some of them.

    Parameters
    ----------
    names : sequence of str

    Returns
    -------
    places : list of int
        In `names`, the nearest first; none where nothing comes near.
    """
    spelt = {word for name in names for word in _words(name)} | OTHER_WORDS.keys()
    words = [next(iter(get_close_matches(word, spelt, 1, _NEAR)), word) for word in _telling(text)]
    if not words:
        return []
    whole = _all(" ".join(words), names)
    if whole:
        return whole[:_MOST_NEAR]
    holding = [set(_all(word, names)) for word in words]
    held = [sum(place in one for one in holding) for place in range(len(names))]
    most = max(held, default=0)
    return [place for place, count in enumerate(held) if count == most > 0][:_MOST_NEAR]


def _all(text: str, names: Sequence[str]) -> list[int]:
    return found(text, names) + meant(text, names)


def _other_words(word: str) -> Iterator[str]:
    """What else a word may stand for; it may be begun, or be one of several."""
    if len(word) > _SHORTEST and word.endswith("s"):
        yield word[:-1]
    if len(word) >= _SHORTEST:
        for other, several in OTHER_WORDS.items():
            if other.startswith(word) or word in (f"{other}s", f"{other}es"):
                yield from several


def _telling(text: str) -> list[str]:
    """The words of a text without those that only bind others, if any are left then."""
    words = text.lower().split()
    return [word for word in words if word not in _BINDING] or words


def _words(name: str) -> Iterator[str]:
    return (word.strip("…:,?.“”()").lower() for word in name.split())
