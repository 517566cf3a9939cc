"""Programs that never heard of this one, opening what it delivers; tests that need one are skipped where it is not."""

import importlib.util
import json
import os
import shutil
import subprocess
import tempfile
from pathlib import Path

import numpy as np
import pytest
from filelock import FileLock
from PIL import Image

VALIDATOR = Path(__file__).resolve().parents[1] / ".venv" / "node" / "node_modules" / "gltf-validator"
READERS = Path(__file__).resolve().parents[1] / "share" / "readers"
CHROMIUM = (
    "chromium", "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync", "--hide-scrollbars",
    "--force-device-scale-factor=1", "--allow-file-access-from-files",
)  # fmt: skip


def needs(program: str) -> pytest.MarkDecorator:
    """Skips a test where a program is not installed."""
    there = shutil.which(program) is not None
    return pytest.mark.skipif(not there, reason=f"{program} is not installed; see scripts/setup-readers")


needs_validator = pytest.mark.skipif(
    not VALIDATOR.is_dir() or shutil.which("node") is None, reason="the validator is not there; see setup-readers"
)


def run(*command: object, cwd: Path | None = None, within: int = 60, **env: str) -> str:
    """What a program prints; a test that waits for it in vain fails."""
    result = subprocess.run(
        [*map(str, command)],
        capture_output=True,
        text=True,
        timeout=within,
        check=True,
        cwd=cwd,
        env={**os.environ, **env},
    )
    return result.stdout


def seen_in_browser(path: Path, size: tuple[int, int], tmp_path: Path) -> np.ndarray:
    """What a browser shows of a file, (H, W, 4)."""
    shot = tmp_path / "shot.png"
    with tempfile.TemporaryDirectory() as profile:
        run(*CHROMIUM, f"--user-data-dir={profile}", "--default-background-color=00000000",
            f"--window-size={size[0]},{size[1]}", f"--screenshot={shot}", path.as_uri())  # fmt: skip
    return np.asarray(Image.open(shot).convert("RGBA"))


def painted(path: Path, tmp_path: Path) -> np.ndarray:
    """What a paint program makes of a layered file, (H, W, 4)."""
    flat = tmp_path / "flat.png"
    # It takes what begins with a slash for an option.
    # A second one at the same time would hand its work to the first, and now and then it waits for nothing or
    # falls over by itself; what it can't read it can't read six times.
    with FileLock(Path(tempfile.gettempdir()) / "knitground-tests-paint.lock"):
        for once_more in reversed(range(6)):
            try:
                paths = path.name, flat.name
                run("lazpaint", *paths, cwd=tmp_path, within=6, QT_QPA_PLATFORM="offscreen", HOME=str(tmp_path))
                break
            except subprocess.SubprocessError as error:
                flat.unlink(missing_ok=True)
                if not once_more:
                    raise AssertionError(f"{path.name} isn't read: {error} {error.stderr}") from error
    return np.asarray(Image.open(flat).convert("RGBA"))


def issues_of_gltf(path: Path) -> dict:
    """What the standard's validator says of a binary glTF file."""
    script = (
        f"const v=require({json.dumps(str(VALIDATOR))}),fs=require('fs');"
        f"v.validateBytes(new Uint8Array(fs.readFileSync({json.dumps(str(path))})))"
        ".then(r=>console.log(JSON.stringify(r)))"
    )
    return json.loads(run("node", "-e", script))


def drawn(path: Path) -> np.ndarray:
    """What the reader in Python that ships draws of a delivered map, (H, W, 4) with straight alpha."""
    spec = importlib.util.spec_from_file_location("knitground_reader", READERS / "knitground_reader.py")
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module.draw(path)


def apart(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """By how many levels the pixels of two pictures differ, as they would show on black, (H, W)."""
    assert one.shape == other.shape
    shown = [
        np.concatenate([part[..., :3] * (part[..., 3:] / 255), part[..., 3:]], axis=2)
        for part in (one.astype(float), other.astype(float))
    ]
    return np.abs(shown[0] - shown[1]).max(axis=2)
