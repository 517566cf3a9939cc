"""Steam from a vent: one puff that rises, thins and drifts, in six frames of 16 x 24 pixels."""

import numpy as np

from art.brush import rgb

FRAMES, WIDTH, HEIGHT = 6, 16, 24


def steam() -> np.ndarray:
    """The frames side by side."""
    sheet = np.zeros((HEIGHT, FRAMES * WIDTH, 4), dtype=np.uint8)
    ys, xs = np.mgrid[0:HEIGHT, 0:WIDTH] + 0.5
    for frame in range(FRAMES):
        alpha = np.zeros((HEIGHT, WIDTH))
        for puff in range(3):
            age = (frame / FRAMES + puff / 3) % 1
            x, y = 8 + 2.5 * np.sin(age * 5 + puff * 2), HEIGHT - 3 - 18 * age
            near = ((xs - x) / (2 + 3.4 * age)) ** 2 + ((ys - y) / (1.8 + 2.6 * age)) ** 2 <= 1
            # In a few steps, as a pixel artist would: no soft gradient.
            alpha = np.maximum(alpha, np.where(near, np.ceil((1 - age) * 4) / 4 * 190, 0))
        part = sheet[:, frame * WIDTH : (frame + 1) * WIDTH]
        part[alpha > 0, :3] = rgb("cream")
        part[..., 3] = alpha.astype(np.uint8)
    return sheet
