"""Writing files so that a crash or a full disk never leaves a half."""

import os
import tempfile
from pathlib import Path

from knitground.core.errors import CannotWrite, refusal

HALF = ".part"
"""Ending of files that are being written; what is left of them after a crash may go."""


def write_atomically(path: Path, data: bytes) -> None:
    """Puts a file in place in one step: temporary file in the same folder, fsync, rename.

    Raises
    ------
    CannotWrite
        If it can't; the old file is then as it was.
    """
    temporary: Path | None = None
    try:
        if path.exists() and not path.is_file():
            # Putting a file in its place would take a device away from the whole system.
            raise OSError(0, "it is no ordinary file")
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(prefix=".knitground-", suffix=HALF, dir=path.parent)
        temporary = Path(name)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        os.chmod(temporary, _mode(path))
        os.replace(temporary, path)
        _sync_folder(path.parent)
    except (OSError, ValueError) as problem:
        if temporary is not None:
            temporary.unlink(missing_ok=True)
        reason = problem if isinstance(problem, OSError) else OSError(0, "the name holds a NUL")
        raise CannotWrite(refusal(reason, path)) from problem


def clear_halves(*folders: Path) -> None:
    """Removes what an earlier run was writing when it was ended; only for who holds the project's lock."""
    for folder in folders:
        try:
            for half in folder.glob(f".knitground-*{HALF}"):
                half.unlink(missing_ok=True)
        except OSError:
            continue  # they do no harm where they are


def _mode(path: Path) -> int:
    """Permissions of the file that is replaced, or those that a new file would get."""
    if path.exists():
        return path.stat().st_mode & 0o777
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask


def _sync_folder(folder: Path) -> None:
    descriptor = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)
