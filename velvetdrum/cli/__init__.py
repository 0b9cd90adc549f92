"""The command line. It says what the studio says, with the same core behind it.

Commands are loaded when they are used: a question about a sound does not wait for what draws.
"""

from __future__ import annotations

import os
import sys

# Many small matrix products on several workers: one thread each is faster than all cores for each.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from importlib import import_module

import click

from velvetdrum import __version__

_COMMANDS = {
    "serve": ("server", "Start the studio and print its address."),
    "password": ("server", "Set the password that is asked for when other machines can reach the studio."),
    "analyse": ("sounds", "Measure a recording: length, loudness, true peak, first and last sound, tempo and beats."),
    "beats": ("sounds", "Find the beats of a recording."),
    "curve": ("sounds", "Follow a band of a recording."),
    "align": ("words", "Find when the words of a text are said in a sound."),
    "cues": ("words", "Turn a file of timed text into another format."),
    "looks": ("looks", "List the looks that ship."),
    "new": ("projects", "Make a project with a sound in it: with the starting design, or from a look."),
    "make": ("looks", "Make a video of a sound in a look, in one line."),
    "render": ("renders", "Render a project to a finished video, pictures or sound."),
    "batch": ("batches", "Make a video of every row of a table from one project."),
    "channels": ("channels", "Stand in for channels: a small service to post to."),
    "check": ("checks", "Check a finished video: flashes, black, frozen, silence, loudness."),
    "frame": ("renders", "Render one frame of a project as a PNG picture."),
    "backup": ("backups", "Back all projects and their files up; only what is new is copied."),
    "verify": ("backups", "Read every byte of a backup, and say whether it is whole."),
    "restore": ("backups", "Put a backup into an empty data folder; every byte is checked."),
    "doctor": ("condition", "Say what is there of what the program needs, and what to type for what is missing."),
}


_DRAWING = ("renders", "projects", "batches", "looks")
"""Modules whose commands draw, and so need compiled loops."""
WORKERS_IMPORT = ("velvetdrum.deliver.export", "velvetdrum.picture.raster.kernels.loaded")
_WORKING = dict.fromkeys(("render", "batch", "make"), WORKERS_IMPORT) | {"frame": ("velvetdrum.cli.readers",)}
"""Commands that have workers, and what these import while the command itself is loaded. One frame needs few of the
loops."""


class Commands(click.Group):
    """Commands by the module that holds them and the line that the overview says of them."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(_COMMANDS)

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:
        if name not in _COMMANDS:
            return None
        home = _COMMANDS[name][0]
        asks_help = bool({"-h", "--help"} & set(sys.argv))
        if home in _DRAWING and not asks_help:
            from velvetdrum.picture.raster.kernels.preparation import prepare

            prepare(lambda line: click.echo(line, err=True))
        if name in _WORKING and not asks_help:
            from velvetdrum.limits.process import worker_context

            worker_context(*_WORKING[name])
        module = import_module(f"velvetdrum.cli.{home}")
        return getattr(module, f"{name}_command")

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl([(name, text) for name, (_, text) in _COMMANDS.items()])


@click.group(cls=Commands, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="velvetdrum")
def main() -> None:
    """Velvet Drum turns a song or a voice into pictures that move with it.

    Start the studio with `velvetdrum serve --demo`, or work without it:

    \b
      velvetdrum make song.wav --look halo -o song.mp4    a video in one line
      velvetdrum new song.wav -o song.vdrum     a project with the starting design
      velvetdrum frame song.vdrum --at 12 -o still.png
      velvetdrum render song.vdrum -o song.mp4  the finished video
    """
