"""A browser without a screen, told what to do over its own protocol, and a server for the files it opens."""

import functools
import http.server
import json
import subprocess
import threading
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from websockets.sync.client import connect

from readers import CHROMIUM

_PATIENCE_S = 30


class Browser:
    """One page of a browser."""

    def __init__(self, socket: Any) -> None:
        self._socket, self._number = socket, 0

    def ask(self, method: str, **said: Any) -> dict[str, Any]:
        """Sends a command, and gives its answer."""
        self._number += 1
        self._socket.send(json.dumps({"id": self._number, "method": method, "params": said}))
        while True:
            answer = json.loads(self._socket.recv(timeout=_PATIENCE_S))
            if answer.get("id") == self._number:
                return answer["result"]

    def value(self, script: str) -> Any:
        """What an expression comes to, waited for if it is a promise."""
        answer = self.ask("Runtime.evaluate", expression=script, awaitPromise=True, returnByValue=True)
        assert "exceptionDetails" not in answer, answer["exceptionDetails"]
        return answer["result"].get("value")

    def wait_for(self, script: str) -> None:
        """Waits until an expression is true."""
        end = time.monotonic() + _PATIENCE_S
        while not self.value(script):
            assert time.monotonic() < end, f"waited in vain for {script}"
            time.sleep(0.02)

    def open(self, address: str) -> None:
        """Goes to a page."""
        self.ask("Page.navigate", url=address)
        self.wait_for(f"location.href === {json.dumps(address)} && document.readyState === 'complete'")


@contextmanager
def a_browser(profile: Path) -> Iterator[Browser]:
    """A browser while it is needed."""
    command = [*CHROMIUM, f"--user-data-dir={profile}", "--remote-debugging-port=0", "--remote-allow-origins=*",
               "--window-size=800,600", "about:blank"]  # fmt: skip
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        port, end = profile / "DevToolsActivePort", time.monotonic() + _PATIENCE_S
        while not (port.exists() and port.read_text().count("\n") >= 1):
            assert time.monotonic() < end, "the browser did not start"
            time.sleep(0.02)
        with urllib.request.urlopen(f"http://127.0.0.1:{port.read_text().split()[0]}/json/list") as answer:
            page = next(one for one in json.load(answer) if one["type"] == "page")
        with connect(page["webSocketDebuggerUrl"], max_size=2**28) as socket:
            yield Browser(socket)
    finally:
        process.kill()
        process.wait()


class _Quiet(http.server.SimpleHTTPRequestHandler):
    def log_message(self, *_: Any) -> None:
        """Says nothing."""


@contextmanager
def served(folder: Path) -> Iterator[str]:
    """The address at which the files of a folder can be had."""
    handler = functools.partial(_Quiet, directory=str(folder))
    with http.server.ThreadingHTTPServer(("127.0.0.1", 0), handler) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}"
        server.shutdown()
