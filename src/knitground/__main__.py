"""Runs the program with ``python -m knitground``."""

from knitground.cli import main

main()
