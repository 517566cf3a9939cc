"""What can be done with the courses of a stitch set."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtWidgets import QInputDialog, QMenu, QWidget

from knitground.app.allowed import a_menu
from knitground.app.session import Session
from knitground.core.edits.stitching import course_added, course_copied, course_moved, with_course
from knitground.core.stitches.rules import StitchSet

Do = Callable[[Callable[[StitchSet], StitchSet], str], object]


class Courses:
    """Adds, renames, copies, moves and removes courses of the set at hand."""

    def __init__(self, session: Session, parent: QWidget, do: Do) -> None:
        self._session, self._parent, self._do = session, parent, do

    def menu(self, number: int) -> QMenu:
        """What can be done with one of them."""
        owner = self._session.stitch_set
        menu = a_menu(self._parent)
        menu.addAction("Add a course below…", lambda: self._add(number))
        if owner is not None and number < len(owner.courses):
            menu.addAction("Rename this course…", lambda: self.rename(number))
            menu.addAction("Copy this course", lambda: self._do(lambda one: course_copied(one, number), "copy course"))
            menu.addAction("Run it earlier", lambda: self.move(number, -1))
            menu.addAction("Run it later", lambda: self.move(number, 1))
            menu.addAction(
                "Remove it with its stitches",
                lambda: self._do(lambda one: with_course(one, number, lambda course: None), "remove course"),
            )
        return menu

    def move(self, number: int, by: int) -> None:
        """Lets a course run so many places earlier or later."""

        def moved(one: StitchSet) -> StitchSet:
            for place in range(abs(by)):
                step = 1 if by > 0 else -1
                one = course_moved(one, number + place * step, step)
            return one

        self._do(moved, "move course")

    def rename(self, number: int) -> None:
        """Asks for another name of a course."""
        owner = self._session.stitch_set
        if owner is None or number >= len(owner.courses):
            return
        name, ok = QInputDialog.getText(self._parent, "Rename", "Name of the course", text=owner.courses[number].name)
        if ok and name.strip():
            self._do(
                lambda one: with_course(one, number, lambda course: replace(course, name=name.strip()[:60])),
                "rename course",
            )

    def _add(self, after: int) -> None:
        name, ok = QInputDialog.getText(self._parent, "Add a course", "Name", text="Dressing")
        if ok and name.strip():
            self._do(lambda one: course_added(one, name.strip()[:60], after), "add course")
