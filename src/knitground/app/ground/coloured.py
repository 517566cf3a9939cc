"""A layer as a picture of colours or as rows of names: painted by one, and written as one, with files asked for."""

from dataclasses import replace

from PySide6.QtWidgets import QWidget

from knitground.app.asking import answered
from knitground.app.file_dialogs import ask_file, ask_where
from knitground.app.ground.colour_dialog import ColourDialog
from knitground.app.session import Session
from knitground.core.edits.colours import colours_in, paint_from, picture_of
from knitground.core.edits.painting import paintable
from knitground.core.edits.rows import paint_rows, read_text, rows_of
from knitground.core.layers.layer import Layer
from knitground.core.project.atomic import write_atomically
from knitground.core.sheet.picture import decode_picture, encode_indexed_png, read_file

_IMAGES = "Pictures (*.png *.gif *.webp *.bmp)"
_ROWS = "CSV (*.csv)"


def paint_by_picture(parent: QWidget, session: Session, layer: Layer) -> None:
    """Asks for a picture and what its colours stand for, and paints a layer by it, as one step."""
    document, ground_id = session.document, session.choices.ground_id
    paintable(document, ground_id, layer.id)
    path = ask_file(parent, f"Paint “{layer.name}” by a picture", _IMAGES, "pictures")
    if path is None:
        return
    picture = decode_picture(read_file(path), path.name)
    known = dict(document.project.colours)
    table = known
    if not layer.holds_tiles:
        dialog = ColourDialog(parent, colours_in(picture), layer.terrains(document.project), known)
        if not answered(dialog):
            return
        table = {**known, **dialog.table}
    with document.step("paint from a picture"):
        count = paint_from(document, ground_id, layer.id, picture, table)
        _remember(session, table)
    session.say(f"{count:,} places of “{layer.name}” were painted by the picture.")


def write_picture(parent: QWidget, session: Session, layer: Layer) -> None:
    """Asks for a file, and writes a layer as an indexed PNG; the project remembers which colour is what."""
    document = session.document
    path = ask_where(parent, f"Write “{layer.name}” as a picture", f"{layer.name}.png", "PNG (*.png)")
    if path is None:
        return
    indices, colours, table = picture_of(document, session.choices.ground_id, layer.id, dict(document.project.colours))
    write_atomically(path, encode_indexed_png(indices, colours))
    _remember(session, table)
    session.say(f"“{layer.name}” was written in {len(colours)} colours; the project remembers what they stand for.")


def paint_by_rows(parent: QWidget, session: Session, layer: Layer) -> None:
    """Asks for a CSV, and paints a layer by the names or numbers in it, as one step."""
    ground_id = session.choices.ground_id
    paintable(session.document, ground_id, layer.id)
    path = ask_file(parent, f"Paint “{layer.name}” by rows", _ROWS, "pictures")
    if path is not None:
        count = paint_rows(session.document, ground_id, layer.id, read_text(path))
        session.say(f"{count:,} places of “{layer.name}” were painted by the rows.")


def write_rows(parent: QWidget, session: Session, layer: Layer) -> None:
    """Asks for a file, and writes a layer as a line for each row, by the names of what lies there."""
    path = ask_where(parent, f"Write “{layer.name}” as rows", f"{layer.name}.csv", _ROWS)
    if path is not None:
        write_atomically(path, rows_of(session.document, session.choices.ground_id, layer.id).encode())
        session.say(f"“{layer.name}” was written row by row.")


def _remember(session: Session, table: dict[str, str]) -> None:
    project = session.document.project
    if dict(project.colours) != table:
        session.document.define("remember colours", replace(project, colours=table))
