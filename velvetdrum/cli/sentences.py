"""What goes wrong, as one sentence and an exit code."""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Iterator
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any

import click

from velvetdrum.audio.errors import SoundError
from velvetdrum.declare.settings import SettingError
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.limits.openers import kept_outside
from velvetdrum.limits.process import OverTime
from velvetdrum.store.db import StoreError

SOUND = click.Path(exists=True, dir_okay=False, path_type=Path)
OUT = click.Path(dir_okay=False, path_type=Path)


class Sentence(click.ClickException):
    """Ends the command with exit code 1 and one sentence on stderr."""

    def show(self, file: Any = None) -> None:
        """Print the sentence where errors belong."""
        click.echo(f"velvetdrum: {self.message}", err=True)


@contextlib.contextmanager
def sentences() -> Iterator[None]:
    """Turn what the core raises into a sentence; nobody sees a traceback for a bad file."""
    try:
        with kept_outside():
            yield
    except click.ClickException:
        raise
    except OSError as problem:
        raise Sentence(f"{problem.filename or 'A file'}: {problem.strerror or problem}.") from problem
    except MemoryError as problem:
        raise Sentence("This takes more memory than it may; a file in it is damaged, or too large.") from problem
    except BrokenProcessPool as problem:
        raise Sentence("A worker process ended early. Give the same command again to go on.") from problem
    except sqlite3.Error as problem:
        raise Sentence(f"The data folder can't be used: {problem}.") from problem
    # The core's own errors are sentences: all of them are ValueErrors, but for these.
    except (SoundError, DeliverError, SettingError, OverTime, StoreError, ValueError) as problem:
        raise Sentence(str(problem)) from problem


def write_text(text: str, output: Path | None) -> None:
    """To a file, or to standard output."""
    if output:
        output.write_text(text)
    else:
        click.echo(text, nl=False)
