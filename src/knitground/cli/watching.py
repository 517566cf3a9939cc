"""The command that lets readers follow a project live."""

import json
from pathlib import Path
from typing import Annotated, Any

import typer

from knitground.cli.common import ProjectFolder, opened
from knitground.core.errors import KnitGroundError, readable


def watch(
    project: ProjectFolder,
    port: Annotated[int, typer.Option("--port", metavar="N", help="serve on this port, or the next free one")] = 0,
) -> None:
    """Let games and browsers of this machine follow a project live, as it is saved; Ctrl+C ends it.

    Prints the address that a browser opens to see the map, and the one that a game connects to. What a game says (look,
    here) is printed as a line of JSON.
    """
    from watchfiles import watch as changes

    from knitground.core.deliver.hub import Hub
    from knitground.core.deliver.link import USUAL_PORT, Link
    from knitground.core.project.document import Change
    from knitground.core.project.file import FILE_NAME

    derived = opened(project)
    folder = derived.document.folder or project
    hub = Hub(derived)
    link = Link(hub, hub.follow, _said, lambda: None)
    wanted = port or USUAL_PORT
    link.start(wanted)
    try:
        if link.port != wanted:
            typer.echo(f"port {wanted} is in use, so {link.port} is taken")
        typer.echo(f"open {link.address}")
        typer.echo(f"connect to {link.socket_address}")
        for found in changes(folder, debounce=100, step=20, recursive=True):
            if not any(Path(name).name == FILE_NAME or Path(name).suffix == ".png" for _, name in found):
                continue
            try:
                derived = opened(project)
            except KnitGroundError as problem:
                # It may be in the middle of being written; the next change tells.
                typer.echo(f"knitground: {readable(problem)}", err=True)
                continue
            hub.update(Change(True), derived)
    finally:
        link.stop()


def _said(message: dict[str, Any]) -> None:
    typer.echo(json.dumps(message, ensure_ascii=False))
