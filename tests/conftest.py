"""Fixtures that all tests share."""

import gc
import os

import pytest
from hypothesis import settings

from knitground.core.project.document import Document
from making import make_document

# Times differ between machines; speed is measured in bench/. What 40 cases don't find, those of the next run may.
settings.register_profile("here", deadline=None, max_examples=40)
settings.load_profile("here")
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


@pytest.fixture
def document() -> Document:
    return make_document()


@pytest.fixture(autouse=True)
def _own_folders(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    """Settings, logs and copies of the tests never touch those of the user."""
    home = tmp_path_factory.mktemp("home")
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME"):
        monkeypatch.setenv(name, str(home))


def pytest_collection_finish() -> None:
    """What was imported stays; looking through all of it for what is unused takes a fifth of the tests' time."""
    gc.collect()
    gc.freeze()
