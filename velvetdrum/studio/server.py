"""Starting the studio."""

from __future__ import annotations

import errno
import ipaddress
import os
import signal
import sqlite3
import sys
import threading
from pathlib import Path
from types import FrameType
from typing import Any

from velvetdrum.deliver.errors import DeliverError
from velvetdrum.store.db import StoreError
from velvetdrum.studio.app import create_app
from velvetdrum.studio.http.access import may_enter
from velvetdrum.studio.http.page_header import MARK
from velvetdrum.studio.http.server import Gate, make_server

_LAST_S = 4.0
"""After so long a server that was told to stop ends, whatever still runs in it."""


def run_server(
    data: Path,
    *,
    host: str = "127.0.0.1",
    port: int = 8765,
    demo: bool = False,
    hosts: tuple[str, ...] = (),
    behind_tls: bool = False,
) -> None:
    """Serve until interrupted. Prints the address once pages can be asked for; on any other address than loopback a
    password is asked for, which is made and printed at the first start.

    Raises DeliverError with a sentence when the port is taken or the data folder can't be used.
    """
    guarded = not is_loopback(host)
    try:
        app = create_app(data, hosts=list(hosts), guarded=guarded, behind_tls=behind_tls)
    except (sqlite3.Error, OSError) as problem:
        reason = getattr(problem, "strerror", None) or problem
        raise DeliverError(f"The data folder {data} can't be used: {reason}. Choose another with --data.") from problem
    except StoreError as problem:
        raise DeliverError(str(problem)) from problem
    services = app.extensions["services"]
    try:
        server = _server(app, host, port)
    except BaseException:
        services.close()
        raise
    passwords = app.extensions["passwords"]
    if guarded and not passwords.is_set:
        print(f"The password is {passwords.make()}  (it is not shown again; `velvetdrum password` sets another)")
    threading.Thread(target=services.workers.warm, daemon=True, name="warm").start()
    services.resume()
    if demo:
        services.bring_demo()
    shown = f"[{host}]" if ":" in host else host
    print(f"Velvet Drum is at http://{shown}:{port}/  (Ctrl+C stops it)", flush=True)

    def stop(number: int, frame: FrameType | None) -> None:
        last = threading.Timer(_LAST_S, os._exit, (0,))
        last.daemon = True
        last.start()
        sys.exit(0)

    signal.signal(signal.SIGTERM, stop)
    try:
        server.run()
    finally:
        services.close()


def is_loopback(host: str) -> bool:
    """True for an address that only this machine can reach."""
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        return False


def _server(app: Any, host: str, port: int) -> Any:
    judge = Gate(app, MARK, lambda headers: may_enter(app, headers)).judge
    try:
        return make_server(app, judge, host=host, port=port)
    except (OSError, ValueError) as problem:
        if getattr(problem, "errno", None) == errno.EADDRINUSE:
            raise DeliverError(
                f"Port {port} is in use. Stop what runs there, or choose another with --port."
            ) from problem
        raise DeliverError(f"{host} is no address of this machine. Choose another with --host.") from problem
