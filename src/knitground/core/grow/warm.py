"""Whether the compiled loops are there already: the first time on a machine they take seconds to be made."""

import numpy as np

from knitground.core.grow.agreeing import SIDE_STEPS
from knitground.core.grow.fitting import Rules, fill, rect_field


class _Known:
    warm = False


def is_warm() -> bool:
    """Whether what is compiled can be called at once."""
    return _Known.warm


def warm_up() -> None:
    """Compiles the loops, or takes them from where they were kept; best done beside the interface."""
    from knitground.core.grow.unlike import unlike

    field = rect_field(2, 2, SIDE_STEPS, wraps=False)
    # There are loops for few patterns, and others for more than fit one number.
    for count in (2, 65):
        fill(Rules(np.ones((4, count, count), dtype=bool), np.ones(count)), field, None, 1)
    unlike(field.beside, np.ones(2), np.zeros(4))
    _Known.warm = True
