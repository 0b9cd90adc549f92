"""The HTTP server in front of the application: waitress, with what it leaves open closed.

A request is judged by its headers before its body is read: by the route's limit of bytes, the page's mark, and who is
signed in. A body whose length its headers do not say is held to the same limit as it comes. Headers and bodies that
come too slowly are dropped, and of one client's unfinished requests only so many are held, with and without a part of
their body: those that sent least go first, then the oldest.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, NamedTuple
from urllib.parse import unquote_to_bytes

from flask import Flask
from waitress.adjustments import Adjustments
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser, ParsingError
from waitress.server import MultiSocketServer, TcpWSGIServer
from waitress.task import ThreadedTaskDispatcher, WSGITask
from werkzeug.exceptions import HTTPException

from velvetdrum.studio.http.requests import UPLOAD_LIMIT, requested_by

REFUSED = "velvetdrum.refused"
"""In the environment of a request that was refused before its body was read: the status code. No header of a request
can have this name."""

HEADER_S, IDLE_S, KEEP_S = 10.0, 20.0, 75.0
SLOWEST = 8_000
"""Bytes a second that a body must bring on average after half a minute."""

_GRACE_S = 30.0
MOST_UNFINISHED = 32

LEAST_BODY = 1 << 16
"""Bytes that any body may have: what is longer than its route takes is refused by the route, with its own sentence."""

_FRAMING = 4
"""How many times its own length a body in chunks may take on its way: chunks of a byte each take six."""
_LONGEST_LINE = 4096
"""Of a chunk's head, and of what follows the last one."""


class Verdict(NamedTuple):
    """What is decided of a request by its headers: a status code that refuses it, or 0; and the bytes that its body may
    have."""

    code: int
    most_bytes: int = LEAST_BODY


Judge = Callable[[str, str, Mapping[str, str]], Verdict]
"""From method, path and headers (as waitress keeps them) to what is decided."""


class FrontParser(HTTPRequestParser):
    """A request whose headers are judged before its body is read, and whose body is measured as it comes."""

    judge: ClassVar[Judge]
    refused = 0
    """The status code that refuses it."""
    most_bytes = 0

    def parse_header(self, header_plus: bytes) -> None:
        try:
            super().parse_header(header_plus)
        except (ValueError, IndexError) as problem:
            # Addresses and numbers that the library does not expect.
            raise ParsingError("The request line or a header can't be read") from problem
        if self.content_length or self.chunked:
            path = unquote_to_bytes(self.path).decode("utf-8", "replace")
            headers = {**self.headers, "LENGTH": str(self.content_length)}
            code, self.most_bytes = type(self).judge(self.command, path, headers)
            if code:
                self.refuse(code)

    def received(self, data: bytes) -> int:
        body = self.body_rcv
        consumed = int(super().received(data))
        if body is not None and self.chunked and not self.error and self._oversized(body):
            body.getbuf().close()
            self.refuse(413)
            self.completed = True
        return consumed

    def _oversized(self, body: Any) -> bool:
        """True for a body in chunks that is longer than it may be, or that hides bytes beside what it is made of."""
        return (
            len(body) > self.most_bytes
            or self.body_bytes_received > _FRAMING * self.most_bytes
            or max(len(body.control_line), len(body.trailer)) > _LONGEST_LINE
        )

    def refuse(self, code: int) -> None:
        """Hand the request on without its body; the application says why."""
        self.refused = code
        self.headers["CONTENT_LENGTH"] = "0"
        # What follows on this connection is the body, not another request.
        self.headers["CONNECTION"] = "close"
        self.content_length, self.chunked, self.body_rcv = 0, False, None
        self.expect_continue, self.connection_close = False, True


class FrontTask(WSGITask):
    """A request on its way to the application, with what was decided of it."""

    def get_environment(self) -> dict[str, Any]:
        environment: dict[str, Any] = super().get_environment()
        environment[REFUSED] = self.request.refused
        return environment


class FrontChannel(HTTPChannel):
    """A connection that knows how long its request has been coming."""

    task_class = FrontTask
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

    def judge(self, method: str, path: str, headers: Mapping[str, str]) -> Verdict:
        """Whether a request is let in, and how long its body may be."""
        try:
            endpoint, _ = self.app.url_map.bind("localhost").match(path, method=method)
        except HTTPException as problem:
            return Verdict(problem.code or 404)
        asked = requested_by(self.app.view_functions[endpoint])
        if endpoint != "access.sign_in":
            if headers.get(self.mark.upper().replace("-", "_")) != "1":
                return Verdict(403)
            try:
                if not self.may_enter(headers):
                    return Verdict(401)
            except Exception:
                # This is the thread that all connections share: it goes on, whatever the data folder is up to.
                logging.getLogger(__name__).exception("sessions")
                return Verdict(503)
        limit = self.app.config["UPLOAD_LIMIT"] if asked.most_bytes == UPLOAD_LIMIT else asked.most_bytes
        limit = max(limit, LEAST_BODY)
        return Verdict(413 if int(headers.get("LENGTH", "0")) > limit else 0, limit)


def make_server(app: Flask, judge: Judge, *, host: str, port: int, threads: int = 12) -> Any:
    """A server that is ready to run; `judge` decides of requests that have a body. Raises OSError when the address
    can't be taken."""
    # Behind the own proxy all clients have its address: the one that it says last is who asks. Whoever gets past the
    # proxy can say any; all clients together have a limit of their own.
    told = {"trusted_proxy": "*", "trusted_proxy_count": 1, "trusted_proxy_headers": {"x-forwarded-for"}}
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
        **(told if app.config.get("BEHIND_TLS") else {}),
    )
    dispatcher = ThreadedTaskDispatcher()
    dispatcher.set_thread_count(adjustments.threads)
    sockets: dict[int, Any] = {}
    servers: list[FrontServer] = []

    def judged(command: str, path: str, headers: Mapping[str, str]) -> Verdict:
        return judge(command, path, headers)

    parser = type("Parser", (FrontParser,), {"judge": staticmethod(judged)})
    channel = type("Channel", (FrontChannel,), {"parser_class": parser})
    kind = type("Server", (FrontServer,), {"channel_class": channel})
    for info in adjustments.listen:
        servers.append(kind(app, sockets, True, None, dispatcher=dispatcher, adj=adjustments, sockinfo=info))
    if len(servers) == 1:
        return servers[0]
    places = [(server.effective_host, server.effective_port) for server in servers]
    return MultiSocketServer(sockets, adjustments, places, dispatcher)
