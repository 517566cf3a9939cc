"""Stitches read cell by cell, as `docs/file-format.md` tells them, from what a file holds; slow and plain."""

import zlib

from knitground.core.chance import chance, chance_bits


def seed_of(seed, name):
    return (seed & 0xFFFFFFFF) ^ zlib.crc32(name.encode())


def turned(rows, orientation):
    """A grid of things as a tile is turned: mirrored left to right, then in quarter turns clockwise."""
    if orientation & 4:
        rows = [row[::-1] for row in rows]
    for _ in range(orientation & 3):
        rows = [list(row) for row in zip(*rows[::-1], strict=True)]
    return rows


def step_turned(y, x, orientation):
    if orientation & 4:
        x = -x
    for _ in range(orientation & 3):
        y, x = x, -y
    return y, x


def both(first, then):
    """The orientation of a tile in one orientation that is laid in another, found by trying it on a tile."""
    tile = [[1, 2], [3, 4]]
    wanted = turned(turned(tile, first), then)
    return next(o for o in range(8) if turned(tile, o) == wanted)


def orientations(stitch):
    turns, x, y = (stitch.get(name, False) for name in ("turns", "mirrors_x", "mirrors_y"))
    found = {0}
    while True:
        more = set(found)
        for one in found:
            more |= {both(one, 1)} if turns else set()
            more |= {both(one, 4)} if x else set()
            more |= {both(one, 6)} if y else set()
        if more == found:
            return sorted(found)
        found = more


class Slow:
    """A set as it lays a plan, on a board that says where cells lie."""

    def __init__(self, stitch_set, plan, board, seed, seen, mixes, code):
        """
        seen: for each view the function (row, column) -> (what lies there, numbers that it is, numbers that it bears)
        code: (tile, orientation) -> what is written for it
        """
        self.set, self.plan, self.board, self.seed, self.seen, self.mixes, self.code = (
            stitch_set, plan, board, seed, seen, mixes, code
        )  # fmt: skip
        self.height, self.width = plan.shape
        self.parts = ["", *stitch_set.get("parts", [])]
        self.laid = {part: {} for part in self.parts}
        self.held = {part: set() for part in self.parts}
        self.met = set()

    def cells(self):
        return [(row, column) for row in range(self.height) for column in range(self.width)]

    def to(self, cell, down, right):
        """The cell a step away, and whether it lies on the map; round where the ground goes round."""
        y, x = self.board.flat("cells", *cell)
        row, column = (int(n) for n in self.board.stored("cells", y + down, x + right))
        row = row % self.height if self.board.wraps_y else row
        column = column % self.width if self.board.wraps_x else column
        return (row, column), 0 <= row < self.height and 0 <= column < self.width

    def what(self, of, cell):
        row, column = min(max(cell[0], 0), self.height - 1), min(max(cell[1], 0), self.width - 1)
        if not of:
            mark = int(self.plan[row, column])
            return mark, {mark}, {mark}
        return self.seen[of](row, column, self)

    def fits(self, cell, charts):
        for of, rows in charts:
            for y, row in enumerate(rows):
                for x, word in enumerate(row):
                    there, on_map = self.to(cell, y - len(rows) // 2, x - len(row) // 2)
                    if word == ".":
                        continue
                    what, is_, bears = self.what(of, there)
                    if word in "V-":
                        if (what == self.what(of, cell)[0]) != (word == "V"):
                            return False
                        continue
                    found = False
                    for part in word.removeprefix("!").split("/"):
                        if part == "x":
                            found |= not on_map
                        elif part.endswith("~"):
                            found |= int(part[:-1]) in bears
                        else:
                            found |= int(part) in is_
                    if found == word.startswith("!"):
                        return False
        return True

    def variants(self, stitch):
        drawn = [(chart.get("of", ""), [row.split(" ") for row in chart["rows"]]) for chart in stitch.get("charts", [])]
        found, seen = [], []
        for o in orientations(stitch):
            charts = [(of, turned(rows, o)) for of, rows in drawn]
            if charts in seen:
                continue
            seen.append(charts)
            form = stitch.get("forms", {}).get(str(o)) if o else None
            pieces = []
            for piece in stitch.get("pieces", []) if form is None else form:
                turn = o if form is None else 0
                pieces.append((piece, self.places(piece, turn, stitch.get("as_drawn", False))))
            found.append((charts, pieces))
        return found

    def places(self, piece, turn, as_drawn):
        """Where each cell of a piece lies, and its tile and orientation."""
        own = {}
        down, across = piece.get("down", 0), piece.get("across", 0)
        if "rows" in piece:
            for y, row in enumerate(piece["rows"]):
                for x, word in enumerate(row.split(" ")):
                    if word != "-":
                        number, _, o = word.partition(".")
                        own[y + down, x + across] = piece["tiles"][int(number) - 1], int(o or 0)
        else:
            own[down, across] = piece.get("tile"), piece.get("orientation", 0)
        return {step_turned(*step, turn): (tile, o if as_drawn else both(o, turn)) for step, (tile, o) in own.items()}

    def chances(self, stitch, cell):
        place = {"rows": 1, "columns": 1, "first_row": 0, "first_column": 0, "chequered": False} | stitch.get(
            "places", {}
        )
        down, right = cell[0] - place["first_row"], cell[1] - place["first_column"]
        if down % place["rows"] or right % place["columns"]:
            return False
        if place["chequered"] and (down // place["rows"] + right // place["columns"]) % 2:
            return False
        percent = stitch.get("chance", 100)
        return percent >= 100 or chance(seed_of(self.seed, stitch["id"]), *cell) * 100 < percent

    def thinned(self, stitch, cells):
        apart = stitch.get("apart", 0)
        if not apart:
            return cells
        own = seed_of(self.seed, stitch["id"] + " apart")
        order = {cell: (int(chance_bits(own, *cell)), *cell) for cell in cells}

        def near(one, other):
            away = [abs(one[n] - other[n]) for n in (0, 1)]
            for n, (wraps, size) in enumerate(((self.board.wraps_y, self.height), (self.board.wraps_x, self.width))):
                away[n] = min(away[n], size - away[n]) if wraps else away[n]
            return max(away) <= apart

        return [cell for cell in cells if all(order[cell] <= order[one] for one in cells if near(cell, one))]

    def run(self):
        for course in self.set.get("courses", []):
            if course.get("active", True):
                self.course([one for one in course.get("stitches", []) if one.get("active", True)])
        for cell in self.cells():
            mark = int(self.plan[cell])
            if mark and cell not in self.met:
                piece = self.set.get("otherwise", {}).get(str(mark))
                self.laid[""][cell] = "gap" if piece is None else self.thrown(piece, f"otherwise {mark}", cell, 0)
        return self

    def thrown(self, piece, name, cell, orientation):
        if "mix" not in piece:
            return self.code(piece.get("tile"), orientation)
        parts = self.mixes.get(piece["mix"], [])
        number, total = float(chance(seed_of(self.seed, name), *cell)), sum(weight for _, weight in parts)
        for tile, weight in parts:
            number -= weight / total
            if number < 0:
                return self.code(tile, orientation)
        return self.code(parts[-1][0], orientation)

    def course(self, stitches):
        done, taken = set(), {part: set() for part in self.parts}
        self.before = {part: dict(laid) for part, laid in self.laid.items()}
        for stitch in stitches:
            variants = self.variants(stitch)
            ways = {}
            for cell in self.cells():
                if cell in done:
                    continue
                way = next((n for n, (charts, _) in enumerate(variants) if self.fits(cell, charts)), None)
                if way is not None and self.chances(stitch, cell):
                    ways[cell] = way
            cells = self.thinned(stitch, list(ways))
            for number, (_, pieces) in enumerate(variants):
                mine = self.in_order([cell for cell in cells if ways[cell] == number], pieces)
                fired = []
                for cell in mine:
                    covers = [
                        (piece.get("onto", ""), *self.to(cell, *step), tile)
                        for piece, own in pieces if len(own) > 1 for step, tile in own.items()
                    ]  # fmt: skip
                    if any(on and (to in taken[part] or to in self.held[part]) for part, to, on, _ in covers):
                        continue
                    fired.append(cell)
                    for part, to, on, tile in covers:
                        if on:
                            self.laid[part][to] = self.code(*tile)
                            taken[part].add(to)
                            self.held[part].add(to)
                            if not part:
                                done.add(to)
                                self.met.add(to)
                done |= set(fired)
                self.met |= set(fired)
                for at, (piece, own) in enumerate(pieces):
                    part = piece.get("onto", "")
                    for cell in fired if len(own) == 1 else []:
                        ((step, (ref, o)),) = own.items()
                        to, on = self.to(cell, *step)
                        spared = stitch.get("spares_blocks", False) and to in self.held[part]
                        if not on or to in taken[part] or spared:
                            continue
                        self.laid[part][to] = self.thrown({**piece, "tile": ref}, f"{stitch['id']} mix {at}", cell, o)
                        taken[part].add(to)
                        if not part:
                            done.add(to)
                            self.met.add(to)

    def in_order(self, cells, pieces):
        steps = [step for _, own in pieces if len(own) > 1 for step in own]
        if not steps:
            return cells
        high = max(y for y, _ in steps) - min(y for y, _ in steps) + 1
        wide = max(x for _, x in steps) - min(x for _, x in steps) + 1

        def key(cell):
            y, x = self.board.flat("cells", *cell)
            return int(y) % high, int(x) % wide, *cell

        return sorted(cells, key=key)
