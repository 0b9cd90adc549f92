"""The HTTP server in front of the application: waitress, with what it leaves open closed.

A request is judged by its headers before its body is read: by the route's limit of bytes, the page's mark, and who is
signed in. Headers and bodies that come too slowly are dropped, and of one client's unfinished requests only so many
are held, with and without a part of their body: those that sent least go first, then the oldest.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar
from urllib.parse import unquote_to_bytes

from flask import Flask
from waitress.adjustments import Adjustments
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import MultiSocketServer, TcpWSGIServer
from waitress.task import ThreadedTaskDispatcher
from werkzeug.exceptions import HTTPException

from velvetdrum.studio.requests import UPLOAD_LIMIT, asked_of

REFUSED = "HTTP_VELVETDRUM_REFUSED"
"""In the environment of a request that was refused before its body was read: the status code."""

HEADER_S, IDLE_S, KEEP_S = 10.0, 20.0, 75.0
SLOWEST = 8_000
"""Bytes a second that a body must bring on average after half a minute."""

_GRACE_S = 30.0
MOST_UNFINISHED = 32

Judge = Callable[[str, str, Mapping[str, str]], int]
"""From method, path and headers (as waitress keeps them) to a status code that refuses the request, or 0."""


class FrontParser(HTTPRequestParser):
    """A request whose headers are judged before its body is read."""

    judge: ClassVar[Judge]

    def parse_header(self, header_plus: bytes) -> None:
        super().parse_header(header_plus)
        if self.content_length or self.chunked:
            path = unquote_to_bytes(self.path).decode("utf-8", "replace")
            code = type(self).judge(self.command, path, {**self.headers, "LENGTH": str(self.content_length)})
            if code:
                self.refuse(code)

    def refuse(self, code: int) -> None:
        """Hand the request on without its body; the application says why."""
        self.headers["VELVETDRUM_REFUSED"] = str(code)
        self.headers["CONTENT_LENGTH"] = "0"
        # What follows on this connection is the body, not another request.
        self.headers["CONNECTION"] = "close"
        self.content_length, self.chunked, self.body_rcv = 0, False, None
        self.expect_continue, self.connection_close = False, True


class FrontChannel(HTTPChannel):
    """A connection that knows how long its request has been coming."""

    began = 0.0

    @property
    def unfinished(self) -> bool:
        """True while a request has begun to come, or none has come at all yet, and nothing is being answered."""
        return not self.requests and not self.total_outbufs_len and (self.request is not None or self.began == 0.0)

    @property
    def brought(self) -> int:
        """Bytes of the body that has come so far."""
        return int(self.request.body_bytes_received) if self.request is not None else 0

    @property
    def in_body(self) -> bool:
        """True while a request's body is on its way."""
        return self.request is not None and self.request.headers_finished

    def received(self, data: bytes) -> Any:
        if self.request is None:
            self.began = time.time()
        return super().received(data)

    def too_slow(self, now: float) -> bool:
        """True when its request comes too slowly to be waited for."""
        if self.requests or self.total_outbufs_len:
            return False
        if self.request is None:
            return now - self.last_activity > (KEEP_S if self.began else HEADER_S)
        waited = now - self.began
        if not self.in_body:
            return waited > HEADER_S
        return now - self.last_activity > IDLE_S or (waited > _GRACE_S and self.brought < SLOWEST * waited)


class FrontServer(TcpWSGIServer):
    """A listening socket that holds only so much of what one client leaves unfinished."""

    channel_class = FrontChannel

    def handle_accept(self) -> None:
        """Take a new connection, if there is room for one more."""
        super().handle_accept()
        # Those that have brought a body are counted apart: beside them a new one, which had no time to bring anything,
        # would always be the least.
        held: dict[tuple[Any, bool], list[FrontChannel]] = {}
        for channel in list(self.active_channels.values()):
            if channel.unfinished and not channel.will_close:
                client = channel.addr[0] if channel.addr else ""
                held.setdefault((client, channel.brought > 0), []).append(channel)
        for channels in held.values():
            for channel in sorted(channels, key=lambda item: (item.brought, item.creation_time))[:-MOST_UNFINISHED]:
                channel.will_close = True

    def maintenance(self, now: float) -> None:
        super().maintenance(now)
        for channel in list(self.active_channels.values()):
            if channel.too_slow(now):
                channel.will_close = True


@dataclass(frozen=True)
class Gate:
    """Judges requests by what the application's routes declare."""

    app: Flask
    mark: str
    may_enter: Callable[[Mapping[str, str]], bool]
    """Whether the cookies in a request's headers are of somebody who may come in."""

    def judge(self, method: str, path: str, headers: Mapping[str, str]) -> int:
        """Why a request is refused before its body is read: a status code; None to let it in."""
        try:
            endpoint, _ = self.app.url_map.bind("localhost").match(path, method=method)
        except HTTPException as problem:
            return problem.code or 404
        asked = asked_of(self.app.view_functions[endpoint])
        if endpoint != "access.sign_in":
            if headers.get(self.mark.upper().replace("-", "_")) != "1":
                return 403
            if not self.may_enter(headers):
                return 401
        limit = self.app.config["UPLOAD_LIMIT"] if asked.most_bytes == UPLOAD_LIMIT else asked.most_bytes
        length = headers.get("LENGTH", "0")
        return 413 if int(length) > max(limit, 1 << 16) else 0


def make_server(app: Flask, gate: Gate, *, host: str, port: int, threads: int = 12) -> Any:
    """A server that is ready to run. Raises OSError when the address can't be taken."""
    adjustments = Adjustments(
        host=host,
        port=port,
        threads=threads,
        max_request_body_size=UPLOAD_LIMIT,
        channel_timeout=600,
        ident="",
        cleanup_interval=2,
        connection_limit=900,
        asyncore_use_poll=True,
        max_request_header_size=1 << 16,
    )
    dispatcher = ThreadedTaskDispatcher()
    dispatcher.set_thread_count(adjustments.threads)
    sockets: dict[int, Any] = {}
    servers: list[FrontServer] = []

    def judged(command: str, path: str, headers: Mapping[str, str]) -> int:
        return gate.judge(command, path, headers)

    parser = type("Parser", (FrontParser,), {"judge": staticmethod(judged)})
    channel = type("Channel", (FrontChannel,), {"parser_class": parser})
    kind = type("Server", (FrontServer,), {"channel_class": channel})
    for info in adjustments.listen:
        servers.append(kind(app, sockets, True, None, dispatcher=dispatcher, adj=adjustments, sockinfo=info))
    if len(servers) == 1:
        return servers[0]
    places = [(server.effective_host, server.effective_port) for server in servers]
    return MultiSocketServer(sockets, adjustments, places, dispatcher)
