"""Commands that start the studio and keep its door."""

from __future__ import annotations

from pathlib import Path

import click
import platformdirs

import velvetdrum
from velvetdrum.cli.sentences import Sentence, sentences

_DATA_HELP = "Folder for projects, recordings and exports; without it `data` in a checkout, else the user's own."


def default_data() -> Path:
    """Where data is kept when nobody says: `data` where the program runs from a checkout, else the platform's folder
    for a user's data."""
    if (Path(velvetdrum.__file__).parents[1] / "pyproject.toml").exists():
        return Path("data")
    return platformdirs.user_data_path("velvetdrum", appauthor=False)


@click.command("serve")
@click.option("--demo", is_flag=True, help="Put the demo project into the data folder if it is not there.")
@click.option("--host", default="127.0.0.1", show_default=True, help="Address to listen on.")
@click.option("--port", default=8765, show_default=True, type=click.IntRange(1, 65535), help="Port to listen on.")
@click.option(
    "--data",
    type=click.Path(file_okay=False, path_type=Path),
    help=_DATA_HELP,
)
@click.option("--allow-host", "hosts", multiple=True, metavar="NAME", help="A further name that it is opened under.")
@click.option("--behind-tls", is_flag=True, help="Other machines reach it through TLS: its cookie goes no other way.")
def serve_command(
    demo: bool, host: str, port: int, data: Path | None, hosts: tuple[str, ...], behind_tls: bool
) -> None:
    """Start the studio and print its address. On any other address than loopback it asks for a password."""
    from velvetdrum.limits.process import worker_context
    from velvetdrum.picture.raster.kernels.build import is_complete, keep_in
    from velvetdrum.picture.raster.kernels.preparation import prepare
    from velvetdrum.studio import WORKERS_IMPORT
    from velvetdrum.studio.getting_ready import getting_ready

    if data is None:
        data = default_data()
        click.echo(f"Projects are kept in {data}", err=True)
    # Before anything that draws is loaded: compiling takes a while, and this says so.
    keep_in(data / "kernels")
    if not is_complete():
        click.echo(f"It is getting ready; http://{host}:{port}/ says how far it is.", err=True)
        with getting_ready(host, port) as state:
            prepare(lambda line: click.echo(line, err=True), state.tell)
    worker_context(*WORKERS_IMPORT)
    from velvetdrum.studio.server import run_server

    with sentences():
        run_server(data, host=host, port=port, demo=demo, hosts=hosts, behind_tls=behind_tls)


@click.command("password")
@click.option(
    "--data",
    type=click.Path(file_okay=False, path_type=Path),
    help=_DATA_HELP,
)
@click.password_option(help="The new password; asked for without it.")
def password_command(data: Path | None, password: str) -> None:
    """Set the password that is asked for when other machines can reach the studio; signs everybody out."""
    from velvetdrum.store import sessions
    from velvetdrum.store.db import open_database
    from velvetdrum.studio.http.access import LONGEST, SHORTEST, Passwords

    if not SHORTEST <= len(password) <= LONGEST:
        raise Sentence(f"A password has {SHORTEST} to {LONGEST} characters.")
    data = data or default_data()
    with sentences():
        data.mkdir(parents=True, exist_ok=True)
        Passwords(data).set(password)
        sessions.end_all(open_database(data / "velvetdrum.sqlite3"))
    click.echo("The password is set.")
