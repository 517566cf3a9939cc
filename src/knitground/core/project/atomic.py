"""Writing files so that a crash or a full disk never leaves a half."""

import errno
import os
import tempfile
from pathlib import Path

from knitground.core.errors import CannotWrite


def write_atomically(path: Path, data: bytes, *, keep: Path | None = None) -> None:
    """Puts a file in place in one step: temporary file in the same folder, fsync, rename.

    Parameters
    ----------
    path : Path
    data : bytes
    keep : Path, optional
        Where to keep what the file held before.

    Raises
    ------
    CannotWrite
        If it can't; the old file is then as it was.
    """
    temporary: Path | None = None
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
        temporary = Path(name)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        os.chmod(temporary, _mode(path))
        if keep is not None and path.exists():
            keep.unlink(missing_ok=True)
            os.link(path, keep)
        os.replace(temporary, path)
        _sync_folder(path.parent)
    except OSError as problem:
        if temporary is not None:
            temporary.unlink(missing_ok=True)
        raise CannotWrite(_sentence(path, problem)) from problem


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


def _sentence(path: Path, problem: OSError) -> str:
    if problem.errno in (errno.ENOSPC, errno.EDQUOT):
        return f"The disk is full, so {path.name} was not written and the old file is untouched; free some space."
    return f"{path} could not be written ({problem.strerror}); choose another place."
