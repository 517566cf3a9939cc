"""The registry of actions: what one can do in the window, by name, with its keys and when it applies.

Parts of the window contribute their own commands; the window only gathers them. Menus, the finder, tooltips and the
keys all come from here, so that an action has one name and one key everywhere.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Literal, Protocol

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QWidget

Where = Literal["window", "ground"]
_OF_TILES = {"Ctrl+A", "Delete"}
"""Keys that could mean the tiles of a sheet as well as what is selected on the ground."""


@dataclass(frozen=True)
class Command:
    """Something that one can do.

    Attributes
    ----------
    name : str
        How the finder and menus call it; unique.
    act : callable
    keys : tuple of str
        In the way of `QKeySequence`; the first is told in tooltips.
    where : Where
        Whether the keys count in all of the window, or only while the ground has the focus.
    refused : callable
        Says why it can't be done now; nothing if it can.
    """

    name: str
    act: Callable[[], object]
    keys: tuple[str, ...] = ()
    where: Where = "window"
    refused: Callable[[], str] = str


class Contributor(Protocol):
    """A part of the window that has commands."""

    def commands(self) -> list[Command]:
        """What one can do with it."""


class Commands:
    """All commands of a window, as actions of Qt."""

    def __init__(self, window: QWidget, ground: QWidget) -> None:
        self._window, self._ground = window, ground
        self._commands: dict[str, Command] = {}
        self._actions: dict[str, QAction] = {}
        self._keys: dict[tuple[str, Where], str] = {}

    def extend(self, commands: Iterable[Command]) -> None:
        """Adds commands; ValueError if a name or key is taken."""
        for command in commands:
            self._add(command)

    def action(self, name: str) -> QAction:
        """The action of a command; KeyError if there is none."""
        return self._actions[name]

    @property
    def actions(self) -> list[QAction]:
        """All actions, in the order in which they came."""
        return list(self._actions.values())

    def lend_keys(self, part: QWidget) -> None:
        """Lets keys of the ground count where tiles are chosen too, but for those that might mean the tiles."""
        for name, command in self._commands.items():
            if command.where == "ground" and command.keys and not _OF_TILES & set(command.keys):
                part.addAction(self._actions[name])

    def refresh(self) -> None:
        """Lets every action tell whether it can be done now."""
        for name, command in self._commands.items():
            why_not = command.refused()
            self._actions[name].setEnabled(not why_not)
            self._actions[name].setToolTip(why_not or name)

    def _add(self, command: Command) -> None:
        if command.name in self._commands:
            raise ValueError(f"two commands are called {command.name}")
        for key in command.keys:
            taken = [self._keys.get((key, where)) for where in ("window", "ground")]
            if any(taken):
                raise ValueError(f"{command.name} and {next(filter(None, taken))} have the same key {key}")
            self._keys[key, command.where] = command.name
        owner = self._ground if command.where == "ground" else self._window
        action = QAction(command.name, owner)
        action.setShortcuts([QKeySequence(key) for key in command.keys])
        if command.where == "ground":
            action.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        action.triggered.connect(lambda checked=False: command.act())
        owner.addAction(action)
        self._commands[command.name], self._actions[command.name] = command, action
