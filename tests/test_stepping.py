"""Going about a sheet and a ground in steps."""

from hypothesis import given
from hypothesis import strategies as some

from knitground.core.ground import stepping as on_ground
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.stepping import place_beside
from making import make_document

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


@given(some.floats(-5, 25), some.floats(-5, 25), some.booleans())
def test_on_a_ground_one_goes_from_cell_to_cell_or_from_point_to_point_and_never_off_it(row, column, points):
    ground = make_document().project.grounds[0]
    at = on_ground.place_beside(ground, (row, column), (0, 0), points=points)
    middle = 0 if points else 0.5
    for step in ((0, 1), (1, 0), (0, -1), (-1, 0)):
        to = on_ground.place_beside(ground, at, step, points=points)
        assert all(abs(new - old) in (0, 1) for new, old in zip(to, at, strict=True))
        assert all((place - middle).is_integer() for place in to)
        assert 0 <= to[0] <= ground.height
        assert 0 <= to[1] <= ground.width
    last = on_ground.place_beside(ground, at, (99, 99), points=points)
    assert last == (ground.height - middle, ground.width - middle)
