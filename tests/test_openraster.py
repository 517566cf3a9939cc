"""What paint programs keep in layers comes in: as sheets, or as a drawn map with as many layers."""

import io
import zipfile
from pathlib import Path

import numpy as np
import pytest

from knitground.core.deliver import EXPORTERS
from knitground.core.edits.image_files import insert_reads, layers_as_images, read_images
from knitground.core.edits.painted import add_as_map
from knitground.core.errors import BadRequest, BadSheet
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.sheet.openraster import is_openraster, read_layers
from knitground.core.sheet.picture import encode_png

DEMO = Path(__file__).resolve().parents[1] / "demo" / "apiary"


def zipped(stack: str, **entries: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr("stack.xml", stack)
        for name, data in entries.items():
            archive.writestr(f"data/{name}.png", data)
    return out.getvalue()


def painted(seed: int, width: int = 32, height: int = 32) -> np.ndarray:
    pixels = np.random.default_rng(seed).integers(0, 256, (height, width, 4), dtype=np.uint8)
    pixels[..., 3] = 255
    return pixels


STACK = """<?xml version='1.0'?><image w="32" h="32"><stack>
<layer name="Top" src="data/a.png" x="-8" y="24" opacity="0.5"/>
<stack name="Floor" visibility="hidden"><layer name="Low" src="data/b.png"/></stack></stack></image>"""


def test_layers_come_with_names_places_opacity_and_groups():
    top, low = painted(1), painted(2)
    data = zipped(STACK, a=encode_png(top), b=encode_png(low))
    assert is_openraster(data)
    below, above = read_layers(data, "x.ora")
    assert (below.name, below.visible, below.opacity) == ("Floor/Low", False, 1.0)
    assert (above.name, above.visible, above.opacity) == ("Top", True, 0.5)
    assert np.array_equal(below.pixels, low)
    assert np.array_equal(above.pixels[24:, :24], top[:8, 8:])
    assert not above.pixels[:24].any()


def test_what_was_delivered_in_layers_comes_back_as_a_map_that_looks_the_same(tmp_path):
    demo = Derived(Document.load(DEMO))
    EXPORTERS["ora"].write(demo, "chimneys", tmp_path / "c.ora")
    document = Document()
    layers = read_layers((tmp_path / "c.ora").read_bytes(), "c.ora")
    ground = add_as_map(document, "Chimneys", layers, 16, 16)
    made = document.project.grounds[0]
    names = [layer.name for layer in demo.knitted("chimneys").ground.layers if layer.holds_tiles or layer.knits]
    assert [layer.name for layer in made.layers] == ["Background", *names]
    pictures = []
    for derived, name in ((demo, "chimneys"), (Derived(document), ground)):
        (path,) = EXPORTERS["png"].write(derived, name, tmp_path / f"{len(pictures)}.png")
        pictures.append(path.read_bytes())
    assert pictures[0] == pictures[1]
    document.undo()
    assert not document.project.grounds


def test_layers_come_as_sheets():
    document = Document()
    layers = read_layers(zipped(STACK, a=encode_png(painted(1)), b=encode_png(painted(2))), "x.ora")
    assert len(insert_reads(document, read_images(layers_as_images(layers)).read)) == 2
    document.undo()
    assert not document.project.sheets
    with pytest.raises(BadRequest, match="No layer"):
        layers_as_images([one._replace(pixels=np.zeros_like(one.pixels)) for one in layers])


@pytest.mark.parametrize(
    "data",
    [
        b"PKnonsense",
        zipped("<image"),
        zipped("<other/>"),
        zipped("<image w='0' h='4'><stack/></image>"),
        zipped("<image w='99999' h='99999'><stack/></image>"),
        zipped("<image w='x' h='4'><stack/></image>"),
        zipped(STACK),
        zipped(STACK, a=b"no picture", b=b""),
        zipped("<image w='4' h='4'>" + "<stack>" * 200 + "</stack>" * 200 + "</image>"),
        zipped("<!DOCTYPE a [<!ENTITY b 'c'><!ENTITY d '&b;&b;&b;'>]><image w='4' h='4'>&d;</image>"),
        zipped("<image w='4' h='4'><stack>" + "<layer src='data/a.png' opacity='nan'/>" * 300 + "</stack></image>"),
    ],
)
def test_what_is_damaged_or_too_large_is_told(data):
    with pytest.raises(BadSheet, match=r"\.$"):
        read_layers(data, "x.ora")


def test_a_file_that_unpacks_to_far_too_much_is_not_unpacked():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("stack.xml", b" " * 2**24)
    with pytest.raises(BadSheet, match="larger than"):
        read_layers(out.getvalue(), "x.ora")
