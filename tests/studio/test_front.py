"""The server in front: bodies are refused by their headers, and what never ends keeps nobody waiting."""

import socket
import threading
import time
import urllib.request
from pathlib import Path

import pytest
from flask import Flask, request

from velvetdrum.studio.app import create_app
from velvetdrum.studio.http import server as http_server
from velvetdrum.studio.http.page_header import MARK
from velvetdrum.studio.http.server import Gate, make_server


@pytest.fixture(scope="module")
def port(tmp_path_factory):
    patch = pytest.MonkeyPatch()
    for name, value in (("HEADER_S", 1.0), ("IDLE_S", 1.0), ("_GRACE_S", 2.0), ("MOST_UNFINISHED", 12)):
        patch.setattr(http_server, name, value)
    app = create_app(tmp_path_factory.mktemp("data"), upload_limit=30_000_000)
    with socket.create_server(("127.0.0.1", 0)) as free:
        number = free.getsockname()[1]
    server = make_server(app, Gate(app, MARK, lambda headers: True).judge, host="127.0.0.1", port=number)
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


def chunked(path: str, *more: str) -> bytes:
    lines = [
        f"POST {path} HTTP/1.1",
        "Host: localhost",
        "Transfer-Encoding: chunked",
        "Accept: application/json",
        *more,
    ]
    return ("\r\n".join(lines) + "\r\n\r\n").encode()


def pour(port, text: bytes, piece: bytes, most: int) -> tuple[int, bytes]:
    """Send a piece again and again until the server closes the connection: bytes that were sent, and its answer."""
    sent = 0
    with socket.create_connection(("127.0.0.1", port), timeout=20) as made:
        made.sendall(text)
        try:
            while sent < most:
                made.sendall(piece)
                sent += len(piece)
        except OSError:
            pass
        try:
            return sent, made.recv(65536)
        except OSError:
            return sent, b""


def spooled() -> int:
    """Bytes of files without a name that this process holds open: bodies on their way."""
    total = 0
    for link in Path("/proc/self/fd").iterdir():
        try:
            if str(link.readlink()).endswith("(deleted)"):
                total += link.stat().st_blocks * 512
        except OSError:
            continue
    return total


@pytest.mark.parametrize(
    ("path", "more", "limit"),
    [
        ("/sign-in", (), 1 << 16),
        ("/palettes/read", (f"{MARK}: 1",), 1 << 20),
        ("/sounds", (f"{MARK}: 1",), 30_000_000),
        ("/nowhere", (), 1 << 16),
    ],
)
def test_a_body_in_chunks_is_held_to_the_same_limit_as_it_comes(port, path, more, limit):
    piece = b"20000\r\n" + b"x" * 0x20000 + b"\r\n"
    before = spooled()
    sent, answer = pour(port, chunked(path, *more), piece, 80_000_000)
    # Beyond the limit only what was on its way is sent: the system's buffers.
    assert sent < limit + 16_000_000 and spooled() - before < 1_000_000
    assert answer == b"" or answer.split(b" ", 2)[1] in (b"413", b"404", b"403")


@pytest.mark.parametrize("piece", [b"1\r\nx\r\n" * 3000, b"1;a=" + b"b" * 60_000, b"0\r\n" + b"a: b\r\n" * 9000])
def test_chunks_that_hide_bytes_beside_what_they_hold_are_refused(port, piece):
    sent, _ = pour(port, chunked("/sign-in"), piece, 60_000_000)
    assert sent < 20_000_000


def test_a_body_in_chunks_within_its_limit_is_taken(port):
    body = b'{"clicks_s": [0, 1, 2, 3], "taps_s": [0.1, 1.1, 2.1, 3.1]}'
    text = chunked("/tap-delay", f"{MARK}: 1", "Connection: close")
    answer = talk(port, text + b"%x\r\n%s\r\n0\r\n\r\n" % (len(body), body))
    assert answer.split(b" ", 2)[1] == b"200" and b'"delay_s":0.1' in answer, answer


@pytest.mark.parametrize(
    "text",
    [
        b"GET http://[::1/ HTTP/1.1\r\nHost: localhost\r\n\r\n",
        b"GET //[ HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n",
        b"POST /sounds HTTP/1.1\r\nHost: localhost\r\nContent-Length: " + b"9" * 5000 + b"\r\n\r\n",
        b"POST /sounds HTTP/1.1\r\nHost: localhost\r\nContent-Length: -1\r\n\r\n",
        b"\x00\x01\x02\r\n\r\n",
        b"GET / HTTP/9.9\r\nHost: \xff\xfe\r\n\r\n",
    ],
)
def test_request_lines_that_cannot_be_read_get_an_answer(port, text):
    answer = talk(port, text)
    assert answer.startswith(b"HTTP/1.") and 400 <= int(answer.split(b" ", 2)[1]) < 500 and b"Traceback" not in answer


@pytest.mark.parametrize("value", ["\u00b2", "413", "403", "x", "\u0663"])
def test_a_refusal_can_not_be_told_from_outside(port, value):
    text = f"GET /palettes HTTP/1.1\r\nHost: localhost\r\nVelvetdrum-Refused: {value}\r\nConnection: close\r\n\r\n"
    assert talk(port, text.encode()).split(b" ", 2)[1] == b"200"


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


@pytest.mark.parametrize(("behind", "said"), [(True, b"203.0.113.7"), (False, b"127.0.0.1")])
def test_clients_behind_the_own_proxy_are_told_apart(behind, said):
    app = Flask("address")
    app.config["BEHIND_TLS"] = behind
    app.add_url_rule("/", view_func=lambda: request.remote_addr)
    with socket.create_server(("127.0.0.1", 0)) as free:
        number = free.getsockname()[1]
    server = make_server(app, lambda *_: http_server.Verdict(0), host="127.0.0.1", port=number)
    threading.Thread(target=server.run, daemon=True).start()
    try:
        asked = b"GET / HTTP/1.1\r\nHost: localhost\r\nX-Forwarded-For: 198.51.100.1, 203.0.113.7\r\nConnection: close\r\n\r\n"
        assert talk(number, asked).endswith(said)
    finally:
        server.close()
