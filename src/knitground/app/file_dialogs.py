"""Asking for files and folders: each question begins where its last answer was, today or the time before."""

from pathlib import Path
from typing import Literal

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QFileDialog, QWidget

from knitground.core.project.file import FILE_NAME

What = Literal["art", "pictures", "projects", "deliveries"]
"""What is asked for: images of tiles, pictures and rows that stand for maps, projects, or what is handed over."""


def ask_file(over: QWidget, title: str, kinds: str, what: What = "art") -> Path | None:
    """Asks for a file to read."""
    name, _ = QFileDialog.getOpenFileName(over, title, str(_begin(what)), kinds)
    return _noted(name, what)


def ask_files(over: QWidget, title: str, kinds: str, what: What = "art") -> list[Path]:
    """Asks for files to read."""
    names, _ = QFileDialog.getOpenFileNames(over, title, str(_begin(what)), kinds)
    return [path for name in names if (path := _noted(name, what)) is not None]


def ask_folder(over: QWidget, title: str, what: What = "art", begin: Path | None = None) -> Path | None:
    """Asks for a folder; begins in a given one, if there is one."""
    name = QFileDialog.getExistingDirectory(over, title, str(begin or _begin(what)))
    if not name:
        return None
    QSettings().setValue(_key(what), str(Path(name) if what == "art" else Path(name).parent))
    return Path(name)


def ask_where(
    over: QWidget, title: str, name: str, kinds: str, what: What = "pictures", begin: Path | None = None
) -> Path | None:
    """Asks where to write a file, for which a name is proposed; begins in a given folder, if there is one."""
    chosen, _ = QFileDialog.getSaveFileName(over, title, str((begin or _begin(what)) / name), kinds)
    return _noted(chosen, what)


def ask_project(over: QWidget, title: str, name: str) -> Path | None:
    """Asks where to save a project, for which a name is proposed: a folder of its own, which need not be there yet."""
    chosen = ask_where(over, title, name, f"Projects ({FILE_NAME})", "projects")
    if chosen is None or chosen.name != FILE_NAME:
        return chosen
    return _noted(str(chosen.parent), "projects")


def _begin(what: What) -> Path:
    folder = Path(str(QSettings().value(_key(what), "")))
    # A stick that was taken out, or a folder that is gone.
    return folder if folder.is_absolute() and folder.is_dir() else Path.home()


def _noted(name: str, what: What) -> Path | None:
    if not name:
        return None
    QSettings().setValue(_key(what), str(Path(name).absolute().parent))
    return Path(name)


def _key(what: What) -> str:
    return f"folders/{what}"
