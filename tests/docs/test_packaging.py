"""What an installed program needs stands in its metadata, and what is tried lies within it."""

import re
import tomllib
from importlib.metadata import version
from pathlib import Path

from click.testing import CliRunner
from packaging.requirements import Requirement

from velvetdrum import __version__
from velvetdrum.cli import main

ROOT = Path(__file__).parents[2]
PROJECT = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]


def pinned(name: str) -> dict[str, str]:
    rows = re.findall(r"^([\w.-]+)==(\S+)$", (ROOT / name).read_text(), re.MULTILINE)
    return {package.lower(): number for package, number in rows}


def test_every_library_of_the_locked_set_is_named_and_within_its_range():
    named = {need.name.lower(): need for need in map(Requirement, PROJECT["dependencies"])}
    assert named.keys() == pinned("requirements.txt").keys()
    for name, number in pinned("requirements.txt").items():
        assert number in named[name].specifier, name
        assert version(name) == number, f"{name} is not what is tried"


def test_the_version_is_the_same_everywhere():
    assert PROJECT["version"] == __version__
    assert __version__ in CliRunner().invoke(main, ["--version"]).output


def test_doctor_says_what_is_there():
    result = CliRunner().invoke(main, ["doctor"])
    assert result.exit_code == 0, result.output
    for name in ("libraries of the system", "typefaces", "encoders", "compiled loops", "model of speech", "cluster"):
        assert name in result.output
