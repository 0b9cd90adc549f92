"""What is served while the loops that draw are compiled, once on a machine: how far that is, on every address."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

_AGAIN_S = 1
"""Seconds after which the page asks again."""

_PAGE = """<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="refresh" content="{again}">
<title>Getting ready - Velvet Drum</title>
<style>
  :root {{ color-scheme: light dark; }}
  body {{ margin: 0; min-height: 100vh; display: grid; place-content: center;
         font: 1.05rem/1.5 system-ui, sans-serif; background: light-dark(#f6f3fa, #17131d);
         color: light-dark(#221c2b, #efeaf6); }}
  main {{ display: grid; gap: 0.9rem; padding: 1rem; }}
  h1 {{ margin: 0; font: 600 2rem/1.2 Georgia, serif; }}
  p {{ margin: 0; max-width: 34rem; }}
  progress {{ width: 100%; height: 0.8rem; accent-color: light-dark(#6b3fa0, #b48ae6); }}
</style>
<main>
  <h1>Velvet Drum is getting ready.</h1>
  <p>The loops that draw are compiled for this machine, once{far}. It takes a minute or two; this page
     opens by itself then.</p>
  <progress {value} aria-label="Loops compiled"></progress>
</main>
</html>
"""


class GettingReady:
    """How far it is."""

    def __init__(self) -> None:
        self.done, self.total = 0, 0

    def tell(self, done: int, total: int) -> None:
        """So many of so many loops are compiled."""
        self.done, self.total = done, total

    @property
    def page(self) -> bytes:
        """The page as it is now."""
        far, value = "", ""
        if self.total:
            far, value = f": {self.done} of {self.total}", f'max="{self.total}" value="{self.done}"'
        return _PAGE.format(far=far, value=value, again=_AGAIN_S).encode()


@contextmanager
def getting_ready(host: str, port: int) -> Iterator[GettingReady]:
    """Serve the page at an address for as long as the block lasts; nothing where the address can't be had: what comes
    after says why."""
    state = GettingReady()

    class Handler(BaseHTTPRequestHandler):
        timeout = 5

        def do_GET(self) -> None:
            page = state.page
            self.send_response(503)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            self.send_header("Content-Length", str(len(page)))
            self.send_header("Retry-After", str(_AGAIN_S))
            self.send_header("Cache-Control", "no-store")
            self.send_header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
            self.end_headers()
            self.wfile.write(page)

        def log_message(self, format: str, *values: object) -> None:
            """Requests are not logged."""

    try:
        server = ThreadingHTTPServer((host, port), Handler)
    except OSError:
        yield state
        return
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.1}, daemon=True).start()
    try:
        yield state
    finally:
        server.shutdown()
        server.server_close()
