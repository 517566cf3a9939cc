"""What the demo project defines: how its sheets are cut, what meets what, stitches, mixes and the recipe."""

from art.basins import arounds
from art.paving import COLUMNS, COMBINATIONS
from art.paving import VARIANTS as PAVING_VARIANTS
from art.sheets import ARMS, ROOF_COLUMNS, VARIANTS, corner_combinations
from art.terrains import TERRAINS
from art.yard import PLACES, yard
from chimneys_ground import CHIMNEYS, ledges
from chimneys_ground import HEIGHT as SIDE_HEIGHT
from chimneys_ground import WIDTH as SIDE_WIDTH
from knitground.core.ground.ground import Ground
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.region import Where
from knitground.core.grow.steps import ConnectStep, DressStep, ExampleStep, FloodStep, NoiseStep, ScatterStep, TidyStep
from knitground.core.joins.sets import JoinSet, Terrain
from knitground.core.layers.blocking import BlockRules, TerrainOf
from knitground.core.layers.cells import CellLayer
from knitground.core.layers.onto import OntoLayer
from knitground.core.layers.props import PropLayer
from knitground.core.layers.shade import ShadeLayer
from knitground.core.layers.stitched import StitchedLayer
from knitground.core.layers.terrain import TerrainLayer
from knitground.core.layers.thing import Corner, Thing, ThingKind
from knitground.core.layers.tiles import TileLayer
from knitground.core.project.delivery import Delivery
from knitground.core.project.model import Project
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.pieces import find_pieces
from knitground.core.tiles.notes import Frame, Point, Property, TileNotes
from knitground.core.tiles.shape_kinds import SIGHT
from knitground.core.tiles.tile import TileRef
from terrace_ground import CORNER, HEIGHT, TERRACE, WIDTH
from wall_stitches import PARAPET, SKYLIGHT, walls

SLATE, MOSS, GRAVEL, SOIL = 1, 2, 3, 4
WATER = 1
GROUND = "long-roof"
HIVES = [(y, x) for y in (7, 11, 17) for x in range(5, 26, 3) if (y, x) not in ((11, 14), (17, 14), (17, 17))]
"""Row and column of each hive."""
GLASSHOUSE = "glasshouse"
STEAM = TileRef("steam", "frames", 0, 0)
_PIECES = tuple(find_pieces(yard(), gap=1))
_HIVE_FOOT = ((3, 8), (13, 8), (13, 14), (3, 14))
TRIM_COLUMNS = 8
_WEIGHTS = {"slate": (22, 9, 2, 1.5, 0.25), "moss": (8, 4, 3, 1), "gravel": (8, 3, 1), "soil": (3, 3, 3, 2)}


def project() -> Project:
    """All definitions of the rooftop apiary."""
    return Project(
        name="Rooftop Apiary",
        seed=2718,
        sheets=(
            Sheet("roofs", "sheets/roofs.png", (Cut("tops", 16, 16),)),
            Sheet("trims", "sheets/trims.png", (Cut("lines", 16, 16),)),
            Sheet("props", "sheets/props.png", (Cut("things", 16, 16, 3, 3, 2, 2),), ("#ff2ed0",)),
            Sheet("yard", "sheets/yard.png", (Cut("pieces", 16, 16, pieces=_PIECES, gap=1, anchor="bottom"),)),
            Sheet("glasshouse", "sheets/glasshouse.png",
                  (Cut("parts", 32, 40, 0, 0, 2, 2, anchor="bottom", shape="isometric"),)),
            Sheet("paving", "sheets/paving.png", (Cut("tops", 32, 16, 0, 0, 2, 2, anchor="bottom", shape="isometric"),)),
            Sheet("basins", "sheets/basins.png", (Cut("water", 16, 16),)),
            Sheet("comb", "sheets/comb.png", (Cut("cells", 24, 36, anchor="bottom"),)),
            Sheet("fittings", "sheets/fittings.png", (Cut("parts", 16, 16),)),
            Sheet("steam", "sheets/steam.png", (Cut("frames", 16, 24, anchor="bottom", offset_y=-9),)),
        ),
        tiles=_weights() | _said(),
        join_sets=(_cover(), _lines("gutters", "Copper gutters", "Gutter", "C", "#df9a60", 0),
                   _lines("walks", "Plank walks", "Planks", "P", "#d3a868", 16), _paving(), _basins()),
        stitch_sets=(walls(),),
        mixes=_mixes(),
        thing_kinds=(
            ThingKind("way-in", "Way in", "#3f7f8f", {"faces": Property("text", "south"), "role": Property("text", "spawn")}),
            ThingKind("round", "Hive to tend", "#8a5a9a", {"role": Property("text", "goal")}),
            ThingKind("gutter", "Gutter to stand on", "#df9a60", {"one-way": Property("yes-no", True)}),
            ThingKind("brambles", "Brambles", "#5a7d2a", {"blocks": Property("yes-no", True)}),
            ThingKind("flight", "Flight of bees", "#b8862b", {"bees": Property("whole", 40), "calm": Property("yes-no", True)}),
        ),
        blocks=BlockRules(terrains=(
            TerrainOf("walls", PARAPET), TerrainOf("walls", SKYLIGHT), TerrainOf("basins", WATER),
        )),
        recipes=(
            Recipe("weathering", "Weathering", GROUND, 41, (
                NoiseStep("cover", MOSS, scale=11.0, amount=0.33, octaves=3, over=SLATE),
                NoiseStep("cover", GRAVEL, scale=6.0, amount=0.05, octaves=2, over=SLATE),
                TidyStep("cover", MOSS, does="smooth", elsewhere=SLATE),
                TidyStep("cover", MOSS, 6, does="specks", elsewhere=SLATE),
                ConnectStep("cover", GRAVEL, where=Where("cover", SOIL, inside=1, outside=True)),
                FloodStep("plants", mix="meadow", where=Where("cover", MOSS)),
                DressStep("plants", mix="tufts", amount=0.3, where=Where("cover", GRAVEL)),
                FloodStep("plants", mix="nothing", where=Where("walks")),
                FloodStep("plants", mix="nothing", where=Where("gutters")),
                FloodStep("plants", mix="nothing", where=Where("walls")),
                FloodStep("plants", mix="nothing", where=Where("props")),
            )),
            Recipe("more-of-the-corner", "More of the corner", TERRACE, 12, (
                ExampleStep("cover", rows=len(CORNER), columns=len(CORNER[0]), blocks=3),
                FloodStep("plants", mix="meadow", where=Where("cover", MOSS)),
                ScatterStep("pots", mix="pots", apart=3.5, where=Where("cover", GRAVEL)),
            ), alive=True),
        ),
        deliveries=(
            Delivery("game", "For the game", "json", when="save", unit=16.0, options={"edge": 1}),
            Delivery("poster", "Poster of the roof", "png", ("long-roof",), pattern="{ground}-poster",
                     options={"scale": 2}),
            Delivery("layers", "Layers to paint over", "ora", ("glasshouse",), pattern="paint/{ground}"),
            Delivery("steam", "Steam and bees", "gif", ("long-roof",), folder="delivered/moving",
                     options={"left": 144, "top": 400, "width": 128, "height": 96, "seconds": 3.0, "scale": 2}),
        ),
        grounds=(
            Ground(GROUND, "Long Roof", 64, 48, 16, 16, (
                TerrainLayer("cover", "Cover", "cover", "corner"),
                TerrainLayer("gutters", "Gutters", "gutters", "edge"),
                TerrainLayer("walks", "Walks", "walks", "edge"),
                CellLayer("basins", "Basins", "basins"),
                ShadeLayer("dusk", "Dusk", (Terrain("Under the wall", "U", "#8f90b8"),)),
                OntoLayer("shade", "Shade of the walls", "walls", "Shade"),
                StitchedLayer("walls", "Walls", "walls"),
                OntoLayer("dressing", "Along the walls", "walls", "Dressing"),
                TileLayer("plants", "Plants"),
                TileLayer("props", "Props", stands="foot"),
                PropLayer("yard", "Yard", things=_yard()),
                OntoLayer("tops", "Tops of the walls", "walls", "Tops"),
                TileLayer("air", "Air", stands="over"),
            )),
            Ground(GLASSHOUSE, "Glasshouse", 18, 14, 32, 16, (
                TerrainLayer("floor", "Floor", "paving", "corner"),
                TileLayer("back-walls", "Back walls", stacking="depth", group="House"),
                TileLayer("plants", "Plants", stacking="depth", group="House"),
                TileLayer("walls", "Walls", stacking="depth", group="House"),
                TileLayer("doors", "Doors", stacking="depth", group="House"),
                TileLayer("roof", "Roof", opacity=0.55, group="House"),
                PropLayer("lamps", "Lamps", stacking="depth"),
                ShadeLayer("evening", "Evening", (
                    Terrain("Evening", "E", "#8d8fb4"), Terrain("Shadow", "S", "#6a6e9c"),
                )),
            ), "diamond"),
            Ground(CHIMNEYS, "Chimneys", SIDE_WIDTH, SIDE_HEIGHT, 16, 16, (
                TileLayer("far", "Far chimneys", opacity=0.35, parallax_x=0.5, solid="none"),
                TileLayer("wall", "Wall", solid="whole"),
                TerrainLayer("gutters", "Gutters", "gutters", "edge"),
                TileLayer("chimneys", "Chimneys", solid="whole"),
                PropLayer("ledges", "Ledges", things=ledges()),
            ), background="#c9d6df", properties={"view": Property("text", "side")}),
            Ground(TERRACE, "Terrace", WIDTH, HEIGHT, 16, 16, (
                TerrainLayer("cover", "Cover", "cover", "corner"),
                TileLayer("plants", "Plants"),
                PropLayer("pots", "Pots", stacking="depth"),
            )),
            Ground("comb", "Frame of comb", 26, 22, 24, 28, (
                TileLayer("cells", "Cells"),
                ShadeLayer("shadow", "Shadow of the frame", (Terrain("Shadow", "S", "#b8a8bd"),), on="cells"),
                TileLayer("bees", "Bees", stacking="depth"),
            ), "hex-pointed", background="#35252a"),
        ),
    )  # fmt: skip


def _yard() -> tuple[Thing, ...]:
    """What stands about the yard, where a game begins, and where bees fly."""
    stood = (
        ("bench", 336, 326, False), ("bench", 372, 330, True), ("crates", 424, 300, False), ("barrel", 96, 356, False),
        ("barrel", 108, 362, True), ("basket", 232, 148, False), ("gloves", 500, 420, True),
    )  # fmt: skip
    sprites = [
        Thing(str(number), float(x), float(y), tile=piece(name), mirrored=mirrored)
        for number, (name, x, y, mirrored) in enumerate(stood, start=1)
    ]
    flown = tuple(Corner(x, y) for x, y in ((0.0, 0.0), (150.0, -14.0), (236.0, 40.0), (120.0, 74.0), (-24.0, 60.0)))
    hives = tuple(
        Thing(str(number), float(x * 16 + 8), float(y * 16 + 21), "point", name=f"Hive {number - 99}", kind="round")
        for number, (y, x) in enumerate(HIVES, start=100)
    )
    grown_over = Thing(
        "24", 24.0 * 16 - 8, 17.5 * 16 + 8, "round", width=64.0, height=46.0, kind="brambles", name="Brambles"
    )
    return (
        *sprites,
        *hives,
        grown_over,
        Thing("20", 264.0, 470.0, "point", name="Ladder", kind="way-in"),
        Thing("21", 880.0, 216.0, "point", name="Glasshouse door", kind="way-in",
              properties={"faces": Property("text", "west")}),
        Thing("22", 120.0, 96.0, "polygon", points=flown, kind="flight"),
        Thing("23", 720.0, 560.0, "round", width=180.0, height=110.0, kind="flight",
              properties={"calm": Property("yes-no", False)}),
    )  # fmt: skip


def part(column: int, row: int) -> TileRef:
    """A tile of the glasshouse sheet."""
    return TileRef("glasshouse", "parts", column, row)


def prop(column: int, row: int) -> TileRef:
    """A tile of the props sheet."""
    return TileRef("props", "things", column, row)


def piece(name: str) -> TileRef:
    """A thing of the yard sheet."""
    x, y = PLACES[name]
    number = next(n for n, p in enumerate(_PIECES) if 0 <= p.x - x < 6 and 0 <= p.y - y < 6)
    return TileRef("yard", "pieces", number, 0)


def _said() -> dict[TileRef, TileNotes]:
    """What the single things are: what blocks, what moves, and what a game would ask of hives."""
    said = {}
    for column, paint in ((2, "#f7efda"), (3, "#f3bf45"), (4, "#a9d9e2")):
        said[prop(column, 0)] = TileNotes(
            tags=("hive", "wood"), walkable=False, collision=(tuple(Point(x, y) for x, y in _HIVE_FOOT),),
            properties={"honey": Property("whole", 4 + 3 * column), "paint": Property("colour", paint)},
        )  # fmt: skip
    said[prop(0, 1)] = TileNotes(tags=("hive",), walkable=False, collision="whole",
                                 properties={"honey": Property("whole", 31), "swarms": Property("yes-no", True)})  # fmt: skip
    said[prop(1, 1)] = TileNotes(tags=("brick",), walkable=False, collision="whole")
    said |= {prop(column, row): TileNotes(walkable=False) for column, row in ((6, 0), (7, 0), (7, 1), (6, 1))}
    said |= {part(*palm): TileNotes(tags=("plant",), shapes={SIGHT: "whole"}) for palm in ((5, 3), (4, 4))}
    said[prop(5, 2)] = TileNotes(tags=("bees",), frames=(Frame(prop(5, 2), 160), Frame(prop(6, 2), 160)))
    said[prop(6, 2)] = TileNotes(tags=("bees",), frames=(Frame(prop(6, 2), 160), Frame(prop(5, 2), 160)))
    said[STEAM] = TileNotes(frames=tuple(Frame(STEAM._replace(column=number), 150) for number in range(6)), apart=True)
    said |= {piece(name): TileNotes(walkable=False) for name in ("tank", "fig", "barrel", "crates", "beds")}
    return said


def _weights() -> dict[TileRef, TileNotes]:
    weights = {}
    for terrain, refs in _plain_tiles().items():
        weights |= {ref: TileNotes(weight) for ref, weight in zip(refs, _WEIGHTS[terrain], strict=True)}
    rare = {0: 14.0, 15: 9.0, 16: 0.7, 17: 1.2, 18: 0.8, 19: 0.8, 20: 0.7, 21: 0.9, 22: 5.0, 23: 5.0}
    weights[TileRef("basins", "water", 7, 5)] = TileNotes(0.08)
    weights |= {TileRef("paving", "tops", n % COLUMNS, n // COLUMNS): TileNotes(weight) for n, weight in rare.items()}
    return weights


def _plain_tiles() -> dict[str, list[TileRef]]:
    """The whole tiles of each terrain: the one among the meetings first, then its variants."""
    combinations = corner_combinations()
    place = len(combinations)
    tiles = {}
    for terrain, count in VARIANTS.items():
        numbers = [combinations.index((terrain,) * 4), *range(place, place + count - 1)]
        tiles[terrain] = [TileRef("roofs", "tops", n % ROOF_COLUMNS, n // ROOF_COLUMNS) for n in numbers]
        place += count - 1
    return tiles


def _cover() -> JoinSet:
    labels = {}
    for number, corners in enumerate(corner_combinations()):
        ref = TileRef("roofs", "tops", number % ROOF_COLUMNS, number // ROOF_COLUMNS)
        labels[ref] = tuple(TERRAINS.index(corner) + 1 for corner in corners)
    for terrain, refs in _plain_tiles().items():
        labels |= {ref: (TERRAINS.index(terrain) + 1,) * 4 for ref in refs}
    colours = ("#9db4d8", "#a5cf4f", "#e8cf9a", "#b07a5c")
    terrains = tuple(
        Terrain(name.capitalize(), name[0].upper() if name != "soil" else "O", colour)
        for name, colour in zip(TERRAINS, colours, strict=True)
    )
    return JoinSet("cover", "Roof cover", "corner", terrains, False, labels)


def _lines(name: str, title: str, terrain: str, letter: str, colour: str, first: int) -> JoinSet:
    labels = {
        _trim(first + number): tuple(int(arm) for arm in arms)
        for number, arms in enumerate(ARMS)
        if any(arms) and not (name == "walks" and all(arms))
    }
    return JoinSet(name, title, "edge", (Terrain(terrain, letter, colour),), True, labels)


def _paving() -> JoinSet:
    tiles = [*COMBINATIONS, *((terrain,) * 4 for terrain, count in PAVING_VARIANTS.items() for _ in range(count))]
    labels = {TileRef("paving", "tops", n % COLUMNS, n // COLUMNS): corners for n, corners in enumerate(tiles)}
    terrains = Terrain("Slabs", "B", "#dfcfae"), Terrain("Lawn", "L", "#94b650")
    return JoinSet("paving", "Paving", "corner", terrains, False, labels)


def _basins() -> JoinSet:
    every = arounds()
    rows = [(*map(int, around), WATER) for around in (*every, every[-1])]
    labels = {TileRef("basins", "water", n % 8, n // 8): row for n, row in enumerate(rows)}
    return JoinSet("basins", "Water basins", "cell", (Terrain("Water", "W", "#79bba6"),), True, labels)


def _mixes() -> tuple[Mix, ...]:
    meadow = (MixPart(None, 58), MixPart(prop(0, 2), 10), MixPart(prop(1, 2), 9), MixPart(prop(2, 2), 14),
              MixPart(prop(3, 2), 4), MixPart(prop(7, 2), 5))  # fmt: skip
    hives = (MixPart(prop(2, 0), 3), MixPart(prop(3, 0), 3), MixPart(prop(4, 0), 2))
    pots = (MixPart(piece("basket"), 3), MixPart(piece("barrel"), 2), MixPart(None, 2))
    tufts = (MixPart(prop(2, 2), 3), MixPart(prop(0, 2), 1))
    return (Mix("meadow", "Meadow", meadow), Mix("hives", "Hives", hives), Mix("tufts", "Tufts", tufts), Mix("pots", "Pots", pots),
            Mix("nothing", "Nothing", (MixPart(None, 1),)))  # fmt: skip


def _trim(number: int) -> TileRef:
    return TileRef("trims", "lines", number % TRIM_COLUMNS, number // TRIM_COLUMNS)
