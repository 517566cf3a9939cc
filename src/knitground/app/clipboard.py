"""What goes over the clipboard: text of our own kind, which other windows and projects can read, and a picture."""

from PySide6.QtCore import QMimeData
from PySide6.QtWidgets import QApplication

BLOCK = "application/x-knitground-block+json"
"""The kind of text that a block of a ground is."""


def clip(kind: str, text: str, picture: object | None = None) -> None:
    """Puts a text of a kind on the clipboard, as plain text too, and a picture for paint programs."""
    data = QMimeData()
    data.setData(kind, text.encode())
    data.setText(text)
    if picture is not None:
        data.setImageData(picture)
    QApplication.clipboard().setMimeData(data)


def clipped(kind: str) -> str:
    """The text of a kind that lies on the clipboard, or any text; nothing if there is none."""
    data = QApplication.clipboard().mimeData()
    # Where nothing was ever copied, some systems have no data at all.
    if data is None:
        return ""
    return bytes(data.data(kind).data()).decode(errors="replace") if data.hasFormat(kind) else data.text()
