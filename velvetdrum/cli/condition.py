"""What the program needs on this machine: what is there, and what to type for what is missing."""

from __future__ import annotations

import platform
import sys
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from importlib.util import find_spec

import click

from velvetdrum import __version__

_ENCODERS = ("libx264", "libx265", "libvpx-vp9", "libsvtav1", "prores_ks", "aac", "libopus", "libmp3lame", "flac")


@dataclass(frozen=True)
class Component:
    """One thing that is needed: its name, what is there, and what to do where it is missing; `needed` is False for
    what is an extra."""

    name: str
    there: bool
    said: str
    needed: bool = True


@click.command("doctor")
def doctor_command() -> None:
    """Say what is there of what the program needs, and what to type for what is missing."""
    click.echo(f"Velvet Drum {__version__}, Python {platform.python_version()}, {platform.platform(terse=True)}")
    missing = False
    for check in (_system_libraries, _typefaces, _encoders, _loops, _speech, _cluster):
        for finding in _tried(check):
            mark = "ok     " if finding.there else "missing" if finding.needed else "without"
            click.echo(f"  {mark}  {finding.name}: {finding.said}")
            missing |= finding.needed and not finding.there
    sys.exit(1 if missing else 0)


def _tried(check: Callable[[], Iterator[Component]]) -> Iterator[Component]:
    """The findings of a check; what can't even be looked at is missing."""
    try:
        yield from check()
    except (ImportError, OSError) as problem:
        yield Component(check.__name__.strip("_").replace("_", " "), False, str(problem).split("\n", 1)[0])


def _system_libraries() -> Iterator[Component]:
    try:
        import skia
    except ImportError as problem:
        said = f"{problem}. Type: sudo apt-get install -y libegl1 libgl1 libfontconfig1"
        yield Component("libraries of the system for drawing", False, said)
        return
    yield Component("libraries of the system for drawing", True, f"skia {skia.__version__}")


def _typefaces() -> Iterator[Component]:
    from velvetdrum.picture.typesetting.families import FAMILIES, files_of

    lacking = [family.name for ident, family in FAMILIES.items() if not all(p.exists() for p in files_of(ident, 400))]
    said = f"{len(FAMILIES)} families" if not lacking else f"no files of {', '.join(lacking)}; install the program anew"
    yield Component("typefaces", not lacking, said)


def _encoders() -> Iterator[Component]:
    import av

    lacking = [name for name in _ENCODERS if name not in av.codecs_available]
    said = f"{len(_ENCODERS)} of FFmpeg, in PyAV {av.__version__}"
    yield Component("encoders", not lacking, said if not lacking else f"PyAV lacks {', '.join(lacking)}")


def _loops() -> Iterator[Component]:
    from velvetdrum.picture.raster.kernels.build import is_complete, kept_folder

    folder = kept_folder()
    if folder is None:
        said = "no folder for them can be written, so every start compiles them; set VELVETDRUM_KERNELS to one that can"
        yield Component("compiled loops", False, said, needed=False)
    else:
        said = str(folder) if is_complete() else "the first start compiles them, in about a minute"
        yield Component("compiled loops", is_complete(), said, needed=False)


def _speech() -> Iterator[Component]:
    import espeakng_loader
    from pocketsphinx import get_model_path

    yield Component(
        "model of speech", True, f"{get_model_path('en-us')}, spelling by {espeakng_loader.get_data_path()}"
    )


def _cluster() -> Iterator[Component]:
    there = find_spec("distributed") is not None
    said = "dask.distributed" if there else 'exports on many machines; type: pip install "velvetdrum[cluster]"'
    yield Component("cluster", there, said, needed=False)
