"""Running deliveries: what they write, how large it is, and putting it there.

Everything is made in memory first. A file appears whole or not at all, what did not change is not written again, and
nothing is written outside the folder of the delivery or over the project's own files.
"""

from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from knitground.core.deliver import EXPORTERS
from knitground.core.deliver.exporter import Exporter, File, Order, Progress
from knitground.core.deliver.naming import checked_pattern, inside_folder, namer
from knitground.core.deliver.options import checked_options
from knitground.core.deliver.picked import has_any, picked
from knitground.core.errors import BadRequest, readable
from knitground.core.ground.ground import Ground
from knitground.core.project.atomic import write_atomically
from knitground.core.project.delivery import Delivery
from knitground.core.project.derived import Derived
from knitground.core.project.file import FILE_NAME, PREVIOUS_NAME


class Planned(NamedTuple):
    """A file that a delivery makes: its path, how many bytes it has, and whether it differs from what lies there."""

    path: Path
    size: int
    changed: bool


def exporter_of(delivery: Delivery) -> Exporter:
    """The exporter of a delivery's format; raises BadRequest if there is none."""
    if delivery.format not in EXPORTERS:
        raise BadRequest(
            f"“{readable(delivery.name)}” has the format “{readable(delivery.format)}”, which there is not; choose one "
            f"of {', '.join(EXPORTERS)}."
        )
    return EXPORTERS[delivery.format]


def folder_of(delivery: Delivery, project_folder: Path | None) -> Path:
    """The folder that a delivery writes into; raises BadRequest where the project has none yet to look from."""
    folder = Path(delivery.folder)
    if "\x00" in delivery.folder or not delivery.folder.strip():
        raise BadRequest(f"“{readable(delivery.name)}” has no folder to write to; choose one.")
    if folder.is_absolute():
        return folder
    if project_folder is None:
        raise BadRequest("Save the project first: its deliveries lie beside it, in folders seen from its own.")
    return project_folder / folder


def is_outside(delivery: Delivery, project_folder: Path | None) -> bool:
    """Whether a delivery writes outside the project's own folder."""
    if project_folder is None:
        return True
    try:
        return not folder_of(delivery, project_folder).resolve().is_relative_to(project_folder.resolve())
    except (OSError, RuntimeError, ValueError, BadRequest):
        return True


def grounds_of(derived: Derived, delivery: Delivery) -> list[Ground]:
    """The grounds that a delivery holds; raises BadRequest if there is none."""
    grounds = derived.document.project.grounds
    wanted = [one for one in grounds if not delivery.grounds or one.id in delivery.grounds]
    found = [one for one in wanted if has_any(one, delivery.layers)]
    if not found:
        what = "layers" if wanted else "ground"
        raise BadRequest(f"“{readable(delivery.name)}” has no {what} to deliver any more; choose what goes into it.")
    return found[:1] if exporter_of(delivery).of_project else found


def files_of(derived: Derived, delivery: Delivery, progress: Progress = lambda share: None) -> Iterator[File]:
    """The files of a delivery, named from its folder.

    Raises
    ------
    BadRequest
        If there is no such format or option, or nothing to deliver.
    """
    exporter = exporter_of(delivery)
    checked_pattern(delivery.pattern)
    options = checked_options(exporter.options, delivery.options)
    grounds = grounds_of(derived, delivery)
    project, taken = derived.document.project, set[str]()
    # A large ground takes most of the time, however many small ones there are.
    cells = [ground.width * ground.height for ground in grounds]
    for number, ground in enumerate(grounds):

        def part(share: float, number: int = number) -> None:
            progress((sum(cells[:number]) + share * cells[number]) / sum(cells))

        words = {"project": project.name, "ground": project.name if exporter.of_project else ground.name}
        name = namer(delivery.pattern, words, taken)
        source = picked(derived, ground.id, delivery.layers)
        yield from exporter.make(Order(source, ground.id, options, name, part, delivery.per_unit(ground)))
        part(1.0)


def look(
    derived: Derived, delivery: Delivery, project_folder: Path | None, progress: Progress = lambda share: None
) -> list[Planned]:
    """What a delivery would write now; nothing is written."""
    folder = folder_of(delivery, project_folder)
    return [_planned(folder, file) for file in files_of(derived, delivery, progress)]


def run(
    derived: Derived, delivery: Delivery, project_folder: Path | None, progress: Progress = lambda share: None
) -> list[Planned]:
    """Writes the files of a delivery that changed; returns all that it holds.

    Raises
    ------
    BadRequest
        If it can't be made.
    CannotWrite
        If a file can't be written; those before it are there, and whole.
    """
    folder = folder_of(delivery, project_folder)
    done = []
    for file in files_of(derived, delivery, progress):
        planned = _planned(folder, file)
        _check_free(planned.path, derived, project_folder)
        if planned.changed:
            write_atomically(planned.path, file.data)
        done.append(planned)
    return done


def summary(planned: list[Planned]) -> str:
    """What a run did, in a few words."""
    changed = [one for one in planned if one.changed]
    same = len(planned) - len(changed)
    size = said_size(sum(one.size for one in changed))
    wrote = f"wrote {len(changed)} file{'s' * (len(changed) != 1)}, {size}" if changed else "nothing to write"
    return wrote + (f"; {same} as before" if same else "")


def said_size(size: int) -> str:
    """A number of bytes as people say it."""
    for unit, least in (("MB", 10**6), ("kB", 10**3)):
        if size >= least:
            return f"{size / least:.1f} {unit}"
    return f"{size} bytes"


def _planned(folder: Path, file: File) -> Planned:
    path = inside_folder(folder, file.name)
    try:
        same = path.stat().st_size == len(file.data) and path.read_bytes() == file.data
    except (OSError, ValueError):
        same = False
    return Planned(path, len(file.data), not same)


def _check_free(path: Path, derived: Derived, project_folder: Path | None) -> None:
    """Raises BadRequest where a file would take the place of one of the project's own."""
    if project_folder is None:
        return
    own = {FILE_NAME, PREVIOUS_NAME, *(name for sheet in derived.document.project.sheets for name in sheet.files)}
    taken = {(project_folder / name).resolve() for name in own}
    if path.resolve() in taken:
        raise BadRequest(
            f"{readable(path.name)} is one of the project's own files, and was left alone; choose another folder or "
            "pattern for the delivery."
        )
