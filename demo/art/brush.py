"""A small pixel brush: shapes on a tile, in colours of one limited palette, light from the upper left."""

import numpy as np

SIZE = 16

PALETTE = {
    "ink": "#1f1b2b",
    "slate1": "#363e55", "slate2": "#46516a", "slate3": "#586580", "slate4": "#7485a0",
    "moss1": "#2c4a35", "moss2": "#437038", "moss3": "#64933f", "moss4": "#94b650", "moss5": "#c6d477",
    "stone1": "#83715f", "stone2": "#a38e72", "stone3": "#c2ac8a", "stone4": "#dfcfae",
    "soil1": "#35252a", "soil2": "#4d3632", "soil3": "#68493c", "soil4": "#876350",
    "copper1": "#6d3426", "copper2": "#a95a38", "copper3": "#df9a60",
    "verdigris1": "#3f7f78", "verdigris2": "#79bba6",
    "brick1": "#5d2a31", "brick2": "#8c4440", "brick3": "#b4674f", "brick4": "#d99775",
    "wood1": "#6e4a36", "wood2": "#a37648", "wood3": "#d3a868", "wood4": "#efd49a",
    "cream": "#f7efda", "sky": "#a9d9e2", "honey": "#f3bf45", "rose": "#dd6e86",
}  # fmt: skip
KEY = (255, 46, 208)


def rgb(name: str) -> tuple[int, int, int]:
    """Red, green and blue of a palette colour."""
    text = PALETTE[name].lstrip("#")
    return int(text[0:2], 16), int(text[2:4], 16), int(text[4:6], 16)


class Tile:
    """A transparent tile to draw on; coordinates are (x, y) from the top left."""

    def __init__(self, width: int = SIZE, height: int = SIZE, ground: str | None = None) -> None:
        self.pixels = np.zeros((height, width, 4), dtype=np.uint8)
        if ground:
            self.rect(0, 0, width, height, ground)

    def dot(self, colour: str, *places: tuple[int, int]) -> "Tile":
        """Single pixels."""
        for x, y in places:
            if 0 <= x < self.pixels.shape[1] and 0 <= y < self.pixels.shape[0]:
                self.pixels[y, x] = (*rgb(colour), 255)
        return self

    def rect(self, x: int, y: int, width: int, height: int, colour: str) -> "Tile":
        """A filled rectangle."""
        self.pixels[max(y, 0) : max(y + height, 0), max(x, 0) : max(x + width, 0)] = (*rgb(colour), 255)
        return self

    def ellipse(self, cx: float, cy: float, rx: float, ry: float, colour: str) -> "Tile":
        """A filled ellipse; centres between pixels end in .5."""
        ys, xs = np.mgrid[0 : self.pixels.shape[0], 0 : self.pixels.shape[1]]
        inside = ((xs - cx) / rx) ** 2 + ((ys - cy) / ry) ** 2 <= 1
        self.pixels[inside] = (*rgb(colour), 255)
        return self

    def poly(self, colour: str, *corners: tuple[float, float]) -> "Tile":
        """A filled convex shape; a pixel belongs to it if its middle does."""
        ys, xs = np.mgrid[0 : self.pixels.shape[0], 0 : self.pixels.shape[1]] + 0.5
        sides = [
            (bx - ax) * (ys - ay) - (by - ay) * (xs - ax)
            for (ax, ay), (bx, by) in zip(corners, (*corners[1:], corners[0]), strict=True)
        ]
        inside = np.all([side >= 0 for side in sides], axis=0) | np.all([side <= 0 for side in sides], axis=0)
        self.pixels[inside] = (*rgb(colour), 255)
        return self

    def line(self, colour: str, start: tuple[float, float], end: tuple[float, float]) -> "Tile":
        """A line one pixel wide."""
        count = int(max(abs(end[0] - start[0]), abs(end[1] - start[1]))) + 1
        xs, ys = np.linspace(start[0], end[0], count), np.linspace(start[1], end[1], count)
        return self.dot(colour, *((int(x), int(y)) for x, y in zip(xs, ys, strict=True)))

    def shadow(self, right: int = 2, down: int = 1, alpha: int = 96) -> "Tile":
        """What is drawn throws a soft shadow to the lower right."""
        solid = self.pixels[..., 3] == 255
        cast = np.zeros_like(solid)
        for step in range(1, max(down, right) + 1):
            dx, dy = min(step, right), min(step, down)
            cast[dy:, dx:] |= solid[: solid.shape[0] - dy, : solid.shape[1] - dx]
        self.pixels[cast & (self.pixels[..., 3] == 0)] = (*rgb("ink"), alpha)
        return self

    def outline(self, colour: str = "ink") -> "Tile":
        """A dark line round what is drawn, inside the tile."""
        solid = self.pixels[..., 3] == 255
        near = np.zeros_like(solid)
        near[1:] |= solid[:-1]
        near[:-1] |= solid[1:]
        near[:, 1:] |= solid[:, :-1]
        near[:, :-1] |= solid[:, 1:]
        self.pixels[near & ~solid] = (*rgb(colour), 255)
        return self


def grain(seed: int, height: int = SIZE, width: int = SIZE) -> np.ndarray:
    """Fixed random numbers in [0, 1), one per pixel."""
    return np.random.Generator(np.random.PCG64(seed)).random((height, width))


def soft(seed: int, size: int, smooth: int) -> np.ndarray:
    """Smooth noise around 0 that wraps after `size` pixels, standard deviation 1."""
    field = grain(seed, size, size)
    for _ in range(smooth):
        field = sum(np.roll(field, shift, (0, 1)) for shift in ((0, 0), (0, 1), (1, 0), (0, -1), (-1, 0))) / 5
    return (field - field.mean()) / field.std()
