"""Calls of the program from the command line, and what it says to them."""

import io
import sys
from contextlib import redirect_stderr, redirect_stdout
from typing import NamedTuple
from unittest import mock

import pytest

from knitground.cli import main


class Ran(NamedTuple):
    returncode: int
    stdout: str
    stderr: str


def knitground(*arguments: object) -> Ran:
    """Runs the program by its entry point; starting a process for each would take most of the time."""
    said, told = io.StringIO(), io.StringIO()
    with (
        mock.patch.object(sys, "argv", ["knitground", *map(str, arguments)]),
        redirect_stdout(said),
        redirect_stderr(told),
        pytest.raises(SystemExit) as ended,
    ):
        main()
    return Ran(int(ended.value.code or 0), said.getvalue(), told.getvalue())


def fails_with_one_sentence(result: Ran) -> str:
    assert result.returncode == 2, result
    assert result.stdout == ""
    lines = result.stderr.strip().splitlines()
    assert len(lines) == 1, result.stderr
    assert lines[0].startswith("knitground: ")
    assert lines[0].endswith((".", "!"))
    return lines[0]
