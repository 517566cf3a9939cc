"""Going about a sheet in steps."""

from hypothesis import given
from hypothesis import strategies as some

from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.stepping import place_beside

SIDES, GAPS = some.integers(3, 40), some.integers(0, 9)


@given(SIDES, SIDES, GAPS, GAPS, some.integers(1, 6), some.integers(1, 6), some.data())
def test_three_steps_lead_to_the_next_tile_and_there_is_always_a_place_inside_a_tile(
    width, height, margin, spacing, columns, rows, data
):
    cut = Cut("c", width, height, margin, margin, spacing, spacing)
    size = margin + columns * (width + spacing), margin + rows * (height + spacing)
    at = data.draw(some.floats(0, size[0] - 1)), data.draw(some.floats(0, size[1] - 1))
    x, y = place_beside(cut, size, at, (0, 0), whole=False)
    for _ in range(3 * columns):
        assert (x - margin) % (width + spacing) < width
        assert (y - margin) % (height + spacing) < height
        across = place_beside(cut, size, (x, y), (1, 0), whole=False)[0]
        tile_on = place_beside(cut, size, (x, y), (1, 0), whole=True)[0]
        assert x <= across <= tile_on
        x = across
    assert (x - margin) // (width + spacing) == columns - 1
    assert place_beside(cut, size, (x, y), (5, 0), whole=True) == (x, y)


def test_nine_places_of_a_tile_and_parts_and_pieces():
    cut = Cut("c", 9, 9, region=Rect(20, 10, 18, 18))
    assert place_beside(cut, (64, 64), (0, 0), (0, 0), whole=False) == (21.5, 11.5)
    assert place_beside(cut, (64, 64), (21.5, 11.5), (1, 2), whole=False) == (24.5, 17.5)
    assert place_beside(cut, (64, 64), (21.5, 11.5), (1, 1), whole=True) == (30.5, 20.5)
    loose = Cut("c", 9, 9, pieces=(Rect(0, 0, 5, 5),))
    assert place_beside(loose, (64, 64), (60, 4), (1, -1), whole=False) == (63, 0)
