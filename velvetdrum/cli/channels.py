"""A command for the service that stands in for channels."""

from __future__ import annotations

import tempfile
from collections.abc import Mapping
from pathlib import Path

import click

from velvetdrum.channels.limits import ChannelError, read_channels
from velvetdrum.channels.service import Faults, create_service, most_body
from velvetdrum.cli.sentences import SOUND, Sentence, sentences
from velvetdrum.studio.http.server import Verdict, make_server

PORT = 8790


@click.command("channels")
@click.option("--port", type=click.IntRange(0, 65535), default=PORT, show_default=True, help="0 takes a free one.")
@click.option("--limits", type=SOUND, help="Other channels than those that ship, as a JSON file.")
@click.option("--folder", type=click.Path(file_okay=False, path_type=Path), help="Where what comes is kept.")
@click.option("--late", type=click.FloatRange(0, 600), default=0.0, metavar="S", help="Answer so late.")
@click.option("--refuse-every", type=click.IntRange(0, 1000), default=0, metavar="N", help="Refuse every nth piece.")
@click.option("--garbled", is_flag=True, help="Answer in a way that nobody understands.")
def channels_command(
    port: int, limits: Path | None, folder: Path | None, late: float, refuse_every: int, garbled: bool
) -> None:
    """Stand in for channels: publish their limits, take files in pieces, decode them, and say why one is refused.
    Everything stays on this machine."""
    with sentences():
        path = limits or Path(__file__).parent.parent / "channels" / "limits.json"
        described = path.read_bytes()
        try:
            known = read_channels(described)
        except ChannelError as problem:
            raise Sentence(str(problem)) from problem
        kept = folder or Path(tempfile.mkdtemp(prefix="velvetdrum-channels-"))
        app = create_service(known, described, kept, Faults(late, refuse_every, garbled))
        try:
            server = make_server(app, by_length, host="127.0.0.1", port=port)
        except OSError as problem:
            raise Sentence(f"Port {port} is in use. Stop what runs there, or choose another with --port.") from problem
    click.echo(f"Channels are at http://127.0.0.1:{server.effective_port}  (Ctrl+C stops them); files in {kept}")
    server.run()


def by_length(method: str, path: str, headers: Mapping[str, str]) -> Verdict:
    """What the service takes of a request's body; no longer one is read."""
    limit = most_body(method, path)
    return Verdict(413 if int(headers.get("LENGTH", "0")) > limit else 0, limit)
