"""The live link: what a reader is told is the newest state of the map, and who has no business here is refused."""

import base64
import json
import socket
import urllib.error
import urllib.request
from contextlib import ExitStack
from dataclasses import replace

import numpy as np
import pytest
from websockets.exceptions import ConnectionClosed, InvalidStatus
from websockets.sync.client import connect

from knitground.core.deliver.hub import Hub, Reader
from knitground.core.deliver.link import MOST_BYTES, MOST_READERS, Link
from knitground.core.deliver.run import files_of
from knitground.core.edits.grounds import remove_ground
from knitground.core.edits.layers import put_layer
from knitground.core.edits.notes import set_weight
from knitground.core.errors import BadRequest
from knitground.core.layers.props import PropLayer
from knitground.core.layers.thing import Thing
from knitground.core.project.delivery import Delivery
from knitground.core.project.derived import Derived
from knitground.core.project.document import Change, Document
from knitground.core.project.model import Picture
from knitground.core.sheet.picture import decode_picture, encode_png
from making import SIDE, poke, tile


class Follower:
    """One who keeps the map as a reader does, from messages alone."""

    def __init__(self, hub: Hub) -> None:
        self.hub, self.reader = hub, Reader(lambda: None)
        self.heard: list[dict] = []
        hub.join(self.reader)
        hub.follow()

    def listen(self) -> list[dict]:
        messages = self.hub.messages(self.reader)
        for message in json.loads(json.dumps(messages)):
            getattr(self, message["type"])(message)
        self.heard += messages
        return messages

    def hello(self, message: dict) -> None:
        self.grounds = [one["name"] for one in message["grounds"]]

    def whole(self, message: dict) -> None:
        self.map, self.given = message["map"], {}
        self.images = message["images"]

    def tiles(self, message: dict) -> None:
        self.given |= {one["number"]: one for one in message["tiles"]}

    def cells(self, message: dict) -> None:
        rows = self.map["layers"][message["layer"]]["rows"]
        for down, row in enumerate(message["rows"]):
            rows[message["top"] + down][message["left"] : message["left"] + len(row)] = row

    def things(self, message: dict) -> None:
        layer = self.map["layers"][message["layer"]]
        kept = {one["id"]: one for one in layer.get("things", ()) if one["id"] not in message["gone"]}
        kept |= {one["id"]: one for one in message["put"]}
        layer["things"] = sorted(kept.values(), key=lambda one: one["y"])
        if "order" in message:
            layer["things"] = [kept[name] for name in message["order"]]

    def defined(self, message: dict) -> None:
        layers = [
            {**header, **{k: old[k] for k in ("rows", "things") if k in old}}
            for header, old in zip(message["map"]["layers"], self.map["layers"], strict=True)
        ]
        kept = {name: self.map[name] for name in ("tileset", "tiles")}
        self.map = {**message["map"], **kept, "layers": layers}

    def said(self, message: dict) -> None:
        self.sentence = message["sentence"]


def as_delivered(document: Document) -> dict:
    """The map as it would be delivered now."""
    files = files_of(Derived(document), Delivery("d", "D", "json"))
    return next(json.loads(file.data) for file in files if file.name.endswith(".json"))


def same_map(follower: Follower, document: Document) -> None:
    """What a follower keeps is what would be delivered now, though tiles may have other numbers."""
    expected, renumbered = as_delivered(document), {}
    apart = ("layers", "tiles", "tileset")
    assert {k: v for k, v in follower.map.items() if k not in apart} == {
        k: v for k, v in expected.items() if k not in apart
    }
    for mine, theirs in zip(follower.map["layers"], expected["layers"], strict=True):
        headers = [{k: v for k, v in one.items() if k not in ("rows", "things")} for one in (mine, theirs)]
        assert headers[0] == headers[1]
        if "rows" in theirs and "kind" not in theirs:
            for one, other in zip(np.ravel(mine["rows"]).tolist(), np.ravel(theirs["rows"]).tolist(), strict=True):
                assert renumbered.setdefault(one, other) == other
        elif "rows" in theirs:
            assert mine["rows"] == theirs["rows"]
        bare = [
            [{k: v for k, v in one.items() if k not in ("tile", "picture")} for one in layer.get("things", ())]
            for layer in (mine, theirs)
        ]
        assert bare[0] == bare[1]
    assert len(set(renumbered.values())) == len(renumbered)


@pytest.fixture
def followed(document):
    derived = Derived(document)
    hub = Hub(derived)
    document.listeners.append(hub.update)
    follower = Follower(hub)
    follower.listen()
    return document, follower


def test_one_who_joins_is_told_all_of_it(followed):
    document, follower = followed
    assert [message["type"] for message in follower.heard] == ["hello", "whole"]
    same_map(follower, document)
    assert follower.listen() == []


def test_any_edits_lead_to_the_same_map_in_messages_as_small_as_they(followed):
    document, follower = followed
    rng = np.random.default_rng(8)
    codes = [0, *(document.palette.code(tile(column, 3)) for column in (3, 4, 6, 9))]
    for number in range(30):
        y, x = rng.integers(0, 13), rng.integers(0, 18)
        if number % 3 == 0:
            poke(document, "areas", "corners", np.s_[y : y + 2, x : x + 2], rng.integers(1, 4))
        else:
            code = codes[rng.integers(0, 5)]
            poke(
                document,
                "things",
                "cells",
                np.s_[y : y + 2, x : x + 2],
                code | (int(rng.integers(8)) << 24) * bool(code),
            )
        if number % 5 == 4:
            document.undo()
        if rng.random() < 0.6:
            messages = follower.listen()
            told = sum(len(np.ravel(one["rows"])) for one in messages if one["type"] == "cells")
            assert told <= 400
            assert all(one["type"] in ("cells", "tiles") for one in messages)
    follower.listen()
    same_map(follower, document)


def test_a_slow_reader_gets_the_newest_state_and_no_queue(followed):
    document, follower = followed
    code = document.palette.code(tile(6, 3))
    for number in range(400):
        poke(document, "things", "cells", np.s_[number % 15, number % 20], code * (number % 2))
    messages = follower.listen()
    assert len(messages) < 20
    same_map(follower, document)


def test_what_is_new_has_its_picture_told_before_it_is_laid(followed):
    document, follower = followed
    before = follower.map["tileset"]["tiles"]
    poke(document, "things", "cells", np.s_[2, 2], document.palette.code(tile(6, 3)))
    kinds = [message["type"] for message in follower.listen()]
    assert kinds == ["tiles", "cells"]
    number = follower.map["layers"][3]["rows"][2][2]
    assert number > before
    assert follower.given[number]["png"]
    late = Follower(follower.hub)
    late.listen()
    same_map(late, document)
    assert number in late.given


def test_definitions_tell_what_they_did_and_no_more(followed):
    document, follower = followed
    poke(document, "areas", "corners", np.s_[3:9, 3:9], 2)
    follower.listen()
    areas = document.project.join_sets[0]
    set_weight(document, next(iter(areas.labels)), 0.25)
    assert all(message["type"] in ("cells", "tiles") for message in follower.listen())
    same_map(follower, document)
    put_layer(document, "ground", "hide", replace(document.project.grounds[0].layers[0], visible=False))
    assert [message["type"] for message in follower.listen()] == ["whole"]
    same_map(follower, document)


def test_what_is_said_of_a_layer_is_told_without_what_lies_on_it(followed):
    document, follower = followed
    poke(document, "areas", "corners", np.s_[3:9, 3:9], 2)
    follower.listen()
    areas = document.project.grounds[0].layers[0]
    put_layer(document, "ground", "x", replace(areas, opacity=0.5, tint="#ff8800", offset_x=3, name="Else"))
    ground = document.project.grounds[0]
    named = replace(ground, name="Other", background="#102030", tags=("cold",))
    document.define("x", replace(document.project, grounds=(named,)))
    messages = follower.listen()
    assert [one["type"] for one in messages] == ["hello", "defined"]
    assert len(json.dumps(messages)) < 2000
    same_map(follower, document)
    late = Follower(follower.hub)
    late.listen()
    same_map(late, document)


def test_a_redrawn_sheet_tells_the_pictures_that_look_otherwise(followed):
    document, follower = followed
    poke(document, "things", "cells", np.s_[2, 2], document.palette.code(tile(6, 3)))
    follower.listen()
    pixels = document.state.pictures["art"].pixels.copy()
    pixels[3 * SIDE : 4 * SIDE, 6 * SIDE : 7 * SIDE] = (1, 2, 3, 255)
    document.redrawn(document.project.sheets[0], Picture(encode_png(pixels), pixels))
    (message,) = follower.listen()
    assert message["type"] == "tiles"
    assert [one["number"] for one in message["tiles"]] == [follower.map["layers"][3]["rows"][2][2]]
    drawn = decode_picture(base64.b64decode(message["tiles"][0]["png"]), "x")
    assert (drawn == (1, 2, 3, 255)).all()


def test_things_are_told_one_by_one(followed):
    document, follower = followed
    ground = document.project.grounds[0]
    props = PropLayer("props", "Props", tuple(Thing(str(n), 8.0 * n, 20.0 + n, tile=tile(6, 3)) for n in range(9)))
    state = document.state
    planes = {"ground": {**state.planes["ground"], "props": {}}}
    grounds = (replace(ground, layers=(*ground.layers, props)),)
    fresh = Document(state._replace(project=replace(state.project, grounds=grounds), planes=planes), document.palette)
    hub = Hub(Derived(fresh))
    fresh.listeners.append(hub.update)
    follower = Follower(hub)
    follower.listen()
    moved = replace(props, things=(replace(props.things[0], x=99.0), *props.things[2:]))
    put_layer(fresh, "ground", "move", moved)
    (message,) = follower.listen()
    assert ([one["id"] for one in message["put"]], message["gone"]) == (["0"], ["1"])
    same_map(follower, fresh)


def test_a_ground_that_is_gone_and_one_that_never_was(followed):
    document, follower = followed
    follower.hub.want(follower.reader, "nowhere")
    follower.listen()
    assert "nowhere" in follower.sentence
    second = replace(document.project.grounds[0], id="second", name="Second")
    state = document.state
    planes = {**state.planes, "second": state.planes["ground"]}
    both = Document(
        state._replace(project=replace(state.project, grounds=(*state.project.grounds, second)), planes=planes),
        document.palette,
    )
    hub = Hub(Derived(both))
    both.listeners.append(hub.update)
    follower = Follower(hub)
    follower.hub.want(follower.reader, "second")
    follower.hub.follow()
    follower.listen()
    assert follower.map["name"] == "Second"
    remove_ground(both, "second")
    follower.listen()
    assert (follower.map["name"], follower.grounds) == ("Ground", ["Ground"])


def test_a_project_that_is_opened_anew_is_told_by_what_differs(followed, tmp_path):
    document, follower = followed
    poke(document, "things", "cells", np.s_[2, 2], document.palette.code(tile(6, 3)))
    follower.listen()
    document.save(tmp_path / "p")
    other = Document.load(tmp_path / "p")
    poke(other, "things", "cells", np.s_[4, 4], other.palette.code(tile(9, 3)))
    follower.hub.update(Change(True), Derived(other))
    kinds = {message["type"] for message in follower.listen()}
    assert "whole" not in kinds
    same_map(follower, other)


@pytest.fixture
def link(document):
    hub = Hub(Derived(document))
    document.listeners.append(hub.update)
    said: list[dict] = []
    made = Link(hub, hub.follow, said.append, lambda: None)
    made.heard = said
    made.start()
    yield made
    made.stop()


def test_a_game_follows_over_the_wire_and_catches_up_when_it_comes_back(link, document):
    for _ in range(2):
        with connect(link.socket_address, max_size=2**26) as game:
            kinds = [json.loads(game.recv(timeout=10))["type"] for _ in range(2)]
            assert kinds == ["hello", "whole"]
            poke(document, "areas", "corners", np.s_[2:5, 2:5], 2)
            assert json.loads(game.recv(timeout=10))["type"] in ("cells", "tiles")
            document.undo()


def test_what_a_game_says_is_heard_and_nonsense_is_answered(link):
    with connect(link.socket_address, max_size=2**26) as game:
        [game.recv(timeout=10) for _ in range(2)]
        game.send(json.dumps({"type": "look", "x": 5, "y": 7.5}))
        for nonsense in (
            "{",
            "[]",
            '{"type": "here", "x": "a", "y": 1}',
            '{"type": "look", "x": 1e999, "y": 0}',
            "[" * 9000,
        ):
            game.send(nonsense)
            assert "not understood" in json.loads(game.recv(timeout=10))["sentence"]
    assert link.heard == [{"ground": "ground", "type": "look", "x": 5.0, "y": 7.5}]


def test_who_has_no_business_here_is_refused(link):
    for address, headers, status in (
        (link.socket_address[:-3], {}, 401),
        (f"ws://127.0.0.1:{link.port}/", {}, 401),
        (link.socket_address, {"Origin": "http://elsewhere.example"}, 403),
        (link.socket_address, {"Origin": "http://127.0.0.1.elsewhere.example"}, 403),
        (link.socket_address, {"Origin": "http://[::"}, 403),
    ):
        with pytest.raises(InvalidStatus) as refused, connect(address, additional_headers=headers):
            pass
        assert refused.value.response.status_code == status
    request = urllib.request.Request(link.address, headers={"Host": "elsewhere.example"})
    with pytest.raises(urllib.error.HTTPError, match="403"):
        urllib.request.urlopen(request)
    with connect(link.socket_address, additional_headers={"Origin": f"http://localhost:{link.port}"}, max_size=2**26):
        pass


def test_readers_and_messages_are_limited(link):
    with ExitStack() as all_of_them:
        games = [all_of_them.enter_context(connect(link.socket_address, max_size=2**26)) for _ in range(MOST_READERS)]
        with pytest.raises(InvalidStatus) as refused, connect(link.socket_address):
            pass
        assert refused.value.response.status_code == 503
        games[0].send("x" * (MOST_BYTES + 1))
        with pytest.raises(ConnectionClosed):
            [games[0].recv(timeout=10) for _ in range(5)]


def test_the_address_gives_the_page_and_a_taken_port_the_next_one(link, document):
    page = urllib.request.urlopen(link.address).read().decode()
    assert "Knit Ground reader" in page
    other = Link(Hub(Derived(document)), lambda: None, lambda said: None, lambda: None)
    other.start(link.port)
    assert other.port > link.port
    assert other.token != link.token
    other.stop()
    with pytest.raises(BadRequest, match="no port"):
        Link(Hub(Derived(document)), lambda: None, lambda said: None, lambda: None).start(70_000)


def test_only_this_machine_is_served(link):
    with socket.socket() as other:
        other.settimeout(2)
        assert other.connect_ex(("127.0.0.1", link.port)) == 0
    addresses = {info[4][0] for info in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET)}
    for address in addresses - {"127.0.0.1", "127.0.1.1"}:
        with socket.socket() as other:
            other.settimeout(2)
            assert other.connect_ex((address, link.port)) != 0


def test_a_reader_that_never_reads_keeps_nobody_waiting(link, document):
    with socket.create_connection(("127.0.0.1", link.port)) as lazy:
        path = link.socket_address.partition(str(link.port))[2]
        lazy.sendall(
            f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n"
            "Sec-WebSocket-Version: 13\r\nSec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\n\r\n".encode()
        )
        assert lazy.recv(12) == b"HTTP/1.1 101"
        with connect(link.socket_address, max_size=2**26, close_timeout=0.2) as quick:
            [quick.recv(timeout=10) for _ in range(2)]
            code = document.palette.code(tile(6, 3))
            for number in range(60):
                poke(document, "things", "cells", np.s_[number % 15, number % 20], code)
            assert json.loads(quick.recv(timeout=10))["type"] in ("tiles", "cells")
