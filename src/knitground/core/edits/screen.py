"""How much of a ground the game shows."""

from dataclasses import replace

from knitground.core.project.document import Document
from knitground.core.walk.camera import Screen


def set_screen(document: Document, screen: Screen | None) -> None:
    """Says how much of a ground the game shows, or with None that it is not known."""
    if screen != document.project.screen:
        document.define("screen of the game", replace(document.project, screen=screen))
