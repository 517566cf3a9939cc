"""Keeping unsaved work through a crash: a copy of the project in a folder of the running program.

A folder is named after its process; one whose process is gone holds work that was never saved.
"""

import os
import shutil
from pathlib import Path

from knitground.core.errors import KnitGroundError
from knitground.core.project.document import Document
from knitground.core.project.file import FILE_NAME, save_project
from knitground.core.project.model import Palette, State

_ORIGIN = "origin.txt"


class Recovery:
    """The copy of this process, below a folder that all processes share."""

    def __init__(self, root: Path) -> None:
        self._root = root
        self._mine = root / str(os.getpid())

    def keep(self, state: State, palette: Palette, origin: Path | None) -> None:
        """Writes the copy; raises CannotWrite if it can't."""
        save_project(self._mine, state, palette)
        (self._mine / _ORIGIN).write_text(str(origin) if origin else "", encoding="utf-8")

    def forget(self) -> None:
        """Removes the copy: the work is saved, or was thrown away on purpose."""
        shutil.rmtree(self._mine, ignore_errors=True)

    def left_behind(self) -> list[Path]:
        """Copies of processes that ended without saving, the newest first."""
        if not self._root.is_dir():
            return []
        found = [
            folder
            for folder in self._root.iterdir()
            if folder.name.isdigit() and not _runs(int(folder.name)) and (folder / FILE_NAME).exists()
        ]
        return sorted(found, key=lambda folder: -(folder / FILE_NAME).stat().st_mtime)

    def restore(self, folder: Path) -> Document | None:
        """The document of a copy as unsaved work; None if the copy is damaged. The copy stays until `drop`."""
        try:
            document = Document.load(folder)
        except KnitGroundError:
            return None
        origin = (folder / _ORIGIN).read_text(encoding="utf-8") if (folder / _ORIGIN).exists() else ""
        document.folder = Path(origin) if origin and Path(origin).is_dir() else None
        document.mark_unsaved()
        return document

    def drop(self, folder: Path) -> None:
        """Throws a copy away."""
        shutil.rmtree(folder, ignore_errors=True)


def _runs(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True
