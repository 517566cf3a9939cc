"""The live link: a WebSocket (RFC 6455) on this machine alone, by which readers follow a project.

Who connects has to know the token, must not come from a page of elsewhere, and may only say little; a browser that
opens the address itself gets the page that draws the map.
"""

import asyncio
import errno
import http
import json
import secrets
import sys
import threading
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit

from websockets.asyncio.server import Server, ServerConnection, serve
from websockets.datastructures import Headers
from websockets.exceptions import ConnectionClosed
from websockets.http11 import Request, Response

from knitground.core.deliver.hub import Hub, Reader
from knitground.core.errors import BadRequest

HOST = "127.0.0.1"
USUAL_PORT = 17440
MOST_READERS = 8
MOST_BYTES = 2**14
_MORE_PORTS = 20
_PATIENCE_S = 0.5
"""How long a reader is waited for that does not answer when the link ends."""
_HERE = ("127.0.0.1", "localhost")
_NO_PAGE = (None, "null", "file://")
"""Where programs come from, and pages that were opened as files."""
_PAGE = "knitground_reader.html"
Said = Callable[[dict[str, Any]], None]


class Link:
    """Serves a hub from a thread of its own.

    Parameters
    ----------
    hub : Hub
    need : callable
        Asked, from that thread, to let `Hub.follow` be called where the project is worked on.
    said : callable
        Told, from that thread, what a game says: `look` and `here`, with `x` and `y` in pixels of a ground.
    changed : callable
        Told, from that thread, that a reader came or went.
    """

    def __init__(self, hub: Hub, need: Callable[[], None], said: Said, changed: Callable[[], None]) -> None:
        self.hub, self._need, self._said, self._changed = hub, need, said, changed
        self.token = secrets.token_urlsafe(12)
        self.port = 0
        self._loop = asyncio.new_event_loop()
        self._server: Server | None = None
        self._thread = threading.Thread(target=self._loop.run_forever, name="live link", daemon=True)

    @property
    def address(self) -> str:
        """What a browser opens to see the map."""
        return f"http://{HOST}:{self.port}/?token={self.token}"

    @property
    def socket_address(self) -> str:
        """What a game connects to."""
        return f"ws://{HOST}:{self.port}/?token={self.token}"

    def start(self, port: int = USUAL_PORT) -> int:
        """Begins to serve, on the next free port if this one is taken; returns the port.

        Raises
        ------
        BadRequest
            If none of the next ports is free, or it is no port.
        """
        if not 1 <= port <= 65535:
            raise BadRequest(f"{port} is no port; give a number from 1024 to 65535.")
        self._thread.start()
        for tried in range(port, min(port + _MORE_PORTS, 65536)):
            try:
                self._server = asyncio.run_coroutine_threadsafe(self._serving(tried), self._loop).result()
                self.port = tried
                return tried
            except OSError as problem:
                if problem.errno not in (errno.EADDRINUSE, errno.EACCES):
                    self._end()
                    raise
        self._end()
        raise BadRequest(f"No port from {port} to {tried} is free; close what uses them, or give another --port.")

    async def _serving(self, port: int) -> Server:
        return await serve(
            self._follow, HOST, port, process_request=self._admit, max_size=MOST_BYTES, max_queue=4,
            server_header=None, ping_interval=20, close_timeout=_PATIENCE_S,
        )  # fmt: skip

    def stop(self) -> None:
        """Ends all connections."""
        server = self._server
        if server is not None:

            async def close() -> None:
                server.close(close_connections=True)
                # A browser may keep a connection open on which it never says anything.
                with suppress(TimeoutError):
                    await asyncio.wait_for(server.wait_closed(), 2 * _PATIENCE_S)

            # Whoever does not let go by then goes with the thread.
            with suppress(TimeoutError):
                asyncio.run_coroutine_threadsafe(close(), self._loop).result(timeout=5)
            self._server = None
            self._end()

    def _end(self) -> None:
        async def leave() -> None:
            others = asyncio.all_tasks() - {asyncio.current_task()}
            for one in others:
                one.cancel()
            await asyncio.gather(*others, return_exceptions=True)

        with suppress(TimeoutError):
            asyncio.run_coroutine_threadsafe(leave(), self._loop).result(timeout=5)
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(timeout=5)
        if not self._thread.is_alive():
            self._loop.close()

    def _admit(self, connection: ServerConnection, request: Request) -> Response | None:
        """Refuses who has no business here; gives the page to a browser that asks for it."""
        host, origin = request.headers.get("Host", ""), request.headers.get("Origin")
        if not (_is_near(f"//{host}") and (origin in _NO_PAGE or _is_near(origin or ""))):
            return connection.respond(http.HTTPStatus.FORBIDDEN, "Only what runs on this machine may follow.\n")
        token = parse_qs(request.path.partition("?")[2]).get("token", [""])[0]
        if not secrets.compare_digest(token.encode(), self.token.encode()):
            return connection.respond(
                http.HTTPStatus.UNAUTHORIZED, "The token is missing or wrong; take the address shown.\n"
            )
        if "websocket" not in request.headers.get("Upgrade", "").lower():
            return _page()
        if self.hub.count >= MOST_READERS:
            return connection.respond(http.HTTPStatus.SERVICE_UNAVAILABLE, f"{MOST_READERS} readers follow already.\n")
        return None

    async def _follow(self, connection: ServerConnection) -> None:
        ready = asyncio.Event()

        def wake() -> None:
            with suppress(RuntimeError):  # the link has ended
                self._loop.call_soon_threadsafe(ready.set)

        reader = Reader(wake)
        self.hub.join(reader)
        hearing = asyncio.create_task(self._hear(connection, reader))
        try:
            self._changed()
            ready.set()
            await asyncio.to_thread(self._need)
            while not hearing.done():
                waiting = asyncio.create_task(ready.wait())
                await asyncio.wait({waiting, hearing}, return_when=asyncio.FIRST_COMPLETED)
                waiting.cancel()
                ready.clear()
                # Messages are made where nothing else waits for them; sending waits for the reader.
                for text in await asyncio.to_thread(self._texts, reader):
                    await connection.send(text)
        except ConnectionClosed:
            pass  # it went
        finally:
            hearing.cancel()
            self.hub.leave(reader)
            self._changed()

    def _texts(self, reader: Reader) -> list[str]:
        """What a reader is to be told now, as it is sent."""
        messages = self.hub.messages(reader)
        return [json.dumps(message, ensure_ascii=False, separators=(",", ":")) for message in messages]

    async def _hear(self, connection: ServerConnection, reader: Reader) -> None:
        """What a reader says: which ground it wants, where to look, where the player is."""
        try:
            async for text in connection:
                message = _understood(text)
                if message is None:
                    reader.say("This was not understood; say want, look or here, as the manual tells.")
                    reader.wake()
                elif message["type"] == "want":
                    self.hub.want(reader, str(message["ground"]))
                    await asyncio.to_thread(self._need)
                else:
                    self._said({"ground": reader.ground, **message})
        except ConnectionClosed:
            pass  # it went


def _understood(text: str | bytes) -> dict[str, Any] | None:
    """A message of a reader, if it is one."""
    try:
        message = json.loads(text)
        kind = message["type"]
        if kind == "want" and isinstance(message["ground"], str):
            return {"type": kind, "ground": message["ground"]}
        if kind in ("look", "here"):
            x, y = float(message["x"]), float(message["y"])
            if abs(x) < 2**24 and abs(y) < 2**24:
                ground = message.get("ground")
                return {"type": kind, "x": x, "y": y} | ({"ground": ground} if isinstance(ground, str) else {})
    except (ValueError, TypeError, KeyError, RecursionError, OverflowError):
        return None
    return None


def _is_near(address: str) -> bool:
    """Whether an address is of this machine."""
    try:
        return urlsplit(address).hostname in _HERE
    except ValueError:
        return False


def reader_page() -> Path | None:
    """The page that draws delivered maps, where it was installed or where it lies in the sources."""
    top = Path(__file__).resolve().parents[4]
    for folder in (Path(sys.prefix) / "share" / "knitground" / "readers", top / "share" / "readers"):
        if (folder / _PAGE).is_file():
            return folder / _PAGE
    return None


def _page() -> Response:
    path = reader_page()
    body = path.read_bytes() if path is not None else b"The page that draws maps is not installed.\n"
    kind = "text/html; charset=utf-8" if path is not None else "text/plain; charset=utf-8"
    headers = Headers(
        {"Content-Type": kind, "Content-Length": str(len(body)), "Connection": "close", "Cache-Control": "no-store",
         "Referrer-Policy": "no-referrer", "X-Frame-Options": "DENY"}
    )  # fmt: skip
    return Response(200 if path is not None else 404, "OK" if path is not None else "Not Found", headers, body)
