"""Commands that keep a data folder's projects safe: a backup, its check, and the way back."""

from __future__ import annotations

from pathlib import Path

import click

from velvetdrum.cli.sentences import sentences
from velvetdrum.cli.server import default_data
from velvetdrum.store.backup import BackupResult, back_up, restore, verify

_DATA = click.option(
    "--data", type=click.Path(file_okay=False, path_type=Path), help="The data folder; as for `serve` without it."
)
_FOLDER = click.Path(file_okay=False, path_type=Path)


def _said(result: BackupResult) -> str:
    return f"{result.files} files, {result.bytes / 1e6:.1f} MB"


@click.command("backup")
@click.argument("folder", type=_FOLDER)
@_DATA
def backup_command(folder: Path, data: Path | None) -> None:
    """Back all projects and their files up to FOLDER; only what is new is copied. The studio may run meanwhile."""
    with sentences():
        result = back_up(data or default_data(), folder, lambda line: click.echo(line, err=True))
    click.echo(f"{folder}: {_said(result)}, {result.copied} of them new.")


@click.command("verify")
@click.argument("folder", type=click.Path(exists=True, file_okay=False, path_type=Path))
def verify_command(folder: Path) -> None:
    """Read every byte of the backup in FOLDER, and say whether it is whole."""
    with sentences():
        result = verify(folder)
    click.echo(f"{folder} is whole: {_said(result)}.")


@click.command("restore")
@click.argument("folder", type=click.Path(exists=True, file_okay=False, path_type=Path))
@_DATA
def restore_command(folder: Path, data: Path | None) -> None:
    """Put the backup in FOLDER into an empty data folder; every byte is checked."""
    target = data or default_data()
    with sentences():
        result = restore(folder, target)
    click.echo(f"{target}: {_said(result)}. Start the studio with this folder.")
