"""One writer for each project: a lock on its folder that the system lets go of when the program ends.

The lock lies on an open file, not on a process id, so that an id that is in use again means nothing.
"""

from pathlib import Path

from filelock import FileLock, Timeout

NAME = ".knitground.lock"


class ProjectLock:
    """The lock of a project's folder, while it is held."""

    def __init__(self, folder: Path) -> None:
        self._lock = FileLock(folder / NAME, timeout=0, thread_local=False)

    def take(self) -> bool:
        """Whether nobody else writes this project; where no lock can be made, saving will tell."""
        try:
            self._lock.acquire()
        except Timeout:
            return False
        except (OSError, NotImplementedError):
            return True
        return True

    def release(self) -> None:
        """Lets others write the project."""
        self._lock.release()
