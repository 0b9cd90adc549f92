"""Starting the studio: waitress in front of the application."""

from __future__ import annotations

import errno
import signal
import sys
from pathlib import Path
from types import FrameType

import waitress

from velvetdrum.deliver.errors import DeliverError
from velvetdrum.studio.app import UPLOAD_LIMIT, create_app


def run_server(data: Path, *, host: str = "127.0.0.1", port: int = 8765, demo: bool = False) -> None:
    """Serve until interrupted. Prints the address once pages can be asked for.

    Raises DeliverError with a sentence when the port is taken.
    """
    app = create_app(data, hosts=[] if host in ("127.0.0.1", "localhost") else [host])
    services = app.extensions["services"]
    if demo:
        from velvetdrum.demo.install import install_demo

        install_demo(services)
    try:
        server = waitress.create_server(
            app, host=host, port=port, threads=12, max_request_body_size=UPLOAD_LIMIT, channel_timeout=600,
            ident="", send_bytes=1 << 16,
        )  # fmt: skip
    except OSError as problem:
        if problem.errno == errno.EADDRINUSE:
            raise DeliverError(
                f"Port {port} is in use. Stop what runs there, or choose another with --port."
            ) from problem
        raise
    services.workers.warm()
    services.resume()
    print(f"Velvet Drum is at http://{host}:{port}/  (Ctrl+C stops it)", flush=True)

    def stop(number: int, frame: FrameType | None) -> None:
        sys.exit(0)

    signal.signal(signal.SIGTERM, stop)
    try:
        server.run()
    finally:
        services.close()
