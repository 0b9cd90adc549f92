"""The server in front: bodies are refused by their headers, and what never ends keeps nobody waiting."""

import socket
import threading
import time
import urllib.request

import pytest

from velvetdrum.studio import http_server
from velvetdrum.studio.app import create_app
from velvetdrum.studio.http_server import Gate, make_server
from velvetdrum.studio.page_header import MARK


@pytest.fixture(scope="module")
def port(tmp_path_factory):
    patch = pytest.MonkeyPatch()
    for name, value in (("HEADER_S", 1.0), ("IDLE_S", 1.0), ("_GRACE_S", 2.0), ("MOST_UNFINISHED", 12)):
        patch.setattr(http_server, name, value)
    app = create_app(tmp_path_factory.mktemp("data"), upload_limit=30_000_000)
    with socket.create_server(("127.0.0.1", 0)) as free:
        number = free.getsockname()[1]
    server = make_server(app, Gate(app, MARK, lambda headers: True), host="127.0.0.1", port=number)
    server.adj.cleanup_interval = 0.3
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield number
    patch.undo()
    app.extensions["services"].close()
    server.close()


def talk(port, text: bytes, seconds: float = 5.0) -> bytes:
    """What is answered to raw bytes, up to the end of the connection."""
    with socket.create_connection(("127.0.0.1", port), timeout=seconds) as made:
        made.sendall(text)
        out = b""
        while piece := made.recv(65536):
            out += piece
        return out


def head(path: str, length: int, *more: str) -> bytes:
    lines = [f"POST {path} HTTP/1.1", "Host: localhost", f"Content-Length: {length}", "Accept: application/json", *more]
    return ("\r\n".join(lines) + "\r\n\r\n").encode()


@pytest.mark.parametrize(
    ("path", "length", "more", "code", "said"),
    [
        ("/sounds", 9_000_000_000, [f"{MARK}: 1"], b"413", b""),
        ("/sounds", 40_000_000, [f"{MARK}: 1"], b"413", b"larger than what is taken"),
        ("/palettes/read", 3_000_000, [f"{MARK}: 1"], b"413", b"larger than what is taken"),
        ("/sounds", 20_000_000, [], b"403", b"own page"),
        ("/nowhere", 20_000_000, [f"{MARK}: 1"], b"404", b"nothing at this address"),
    ],
)
def test_a_body_is_refused_before_it_comes(port, path, length, more, code, said):
    answer = talk(port, head(path, length, *more))
    assert answer.split(b" ", 2)[1] == code
    assert said in answer


def test_what_is_never_finished_is_dropped_and_keeps_nobody_waiting(port):
    slow = []
    for number in range(99):
        made = socket.create_connection(("127.0.0.1", port), timeout=20)
        made.sendall(
            head("/sounds", 5_000_000, f"{MARK}: 1") + b"x" * 10 if number % 2 else b"POST /sounds HTTP/1.1\r\n"
        )
        slow.append(made)
    begun = time.monotonic()
    for _ in range(5):
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/palettes", timeout=5) as answer:
            assert answer.status == 200
    assert time.monotonic() - begun < 5
    for made in slow:
        # Each is closed by the server: by the number of them, or by its time.
        made.settimeout(20)
        try:
            while made.recv(1000):
                pass
        except ConnectionResetError:
            pass
        made.close()


def test_an_upload_that_only_trickles_is_dropped(port):
    with socket.create_connection(("127.0.0.1", port), timeout=20) as made:
        made.sendall(head("/sounds", 5_000_000, f"{MARK}: 1"))
        begun = time.monotonic()
        with pytest.raises((ConnectionError, TimeoutError)):  # noqa: PT012
            while time.monotonic() - begun < 15:
                made.sendall(b"x" * 10)
                time.sleep(0.1)
            raise TimeoutError
        assert time.monotonic() - begun < 14
