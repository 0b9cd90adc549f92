"""What an installed program needs stands in its metadata, and what is tried lies within it."""

import json
import os
import re
import shutil
import socket
import subprocess
import sys
import sysconfig
import tomllib
import urllib.request
import venv
from importlib.metadata import version
from pathlib import Path

import cv2
import numpy as np
import pytest
import soundfile
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


def test_every_library_of_the_locked_set_stands_in_third_party_with_a_licence():
    rows = re.findall(r"^\| ([\w.-]+) \| (\S*) \| (.+) \|$", (ROOT / "THIRD-PARTY.md").read_text(), re.MULTILINE)
    said = {name: (number, licence) for name, number, licence in rows}
    for name, number in pinned("requirements.txt").items():
        there, licence = said[name]
        assert there == number and licence and not licence.startswith("not said"), name
    for path in (ROOT / "velvetdrum").rglob("LICENSE-*"):
        assert path.relative_to(ROOT).as_posix() in (ROOT / "THIRD-PARTY.md").read_text()


def test_the_version_is_the_same_everywhere():
    assert PROJECT["version"] == __version__
    assert __version__ in CliRunner().invoke(main, ["--version"]).output


@pytest.fixture(scope="module")
def installed(tmp_path_factory):
    """The program from a wheel in an environment of its own, which finds the libraries in that of the tests: a way to
    run a command of it. Loops run uncompiled there, which takes no minute."""
    folder = tmp_path_factory.mktemp("installed")
    source = folder / "source"
    shutil.copytree(ROOT / "velvetdrum", source / "velvetdrum", ignore=shutil.ignore_patterns("__pycache__"))
    for name in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / name, source / name)
    pip = [sys.executable, "-m", "pip", "--disable-pip-version-check"]
    quiet = ["--quiet", "--no-deps", "--no-index"]
    subprocess.run([*pip, "wheel", *quiet, "--no-build-isolation", "-w", folder, source], check=True)
    venv.create(folder / "env", symlinks=True)
    site = next((folder / "env/lib").glob("python3.*/site-packages"))
    (site / "libraries.pth").write_text(sysconfig.get_path("purelib") + "\n")
    (wheel,) = folder.glob("*.whl")
    subprocess.run([*pip, "--python", folder / "env/bin/python", "install", *quiet, wheel], check=True)
    shutil.rmtree(source)
    own = {"NUMBA_DISABLE_JIT": "1", "XDG_CACHE_HOME": str(folder / "cache"), "XDG_DATA_HOME": str(folder / "share")}

    def command(*words, **more):
        line = [folder / "env/bin/velvetdrum", *words]
        return subprocess.Popen(line, cwd=folder, env=os.environ | own, text=True, **more)

    return folder, command


def test_the_wheel_draws_a_frame(installed):
    folder, command = installed
    soundfile.write(folder / "quay.wav", np.sin(np.arange(24_000) / 9), 48_000)
    for words in (
        ["new", "quay.wav", "-o", "quay.vdrum", "--frame", "64x64"],
        ["frame", "quay.vdrum", "--at", "0.2", "-o", "quay.png"],
    ):
        process = command(*words, stderr=subprocess.PIPE)
        assert process.communicate(timeout=120)[1] is not None and process.returncode == 0
    assert cv2.imread(str(folder / "quay.png")).shape == (64, 64, 3)


def test_the_wheel_starts_the_demo_in_the_folder_of_the_platform(installed):
    folder, command = installed
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    process = command("serve", "--demo", "--port", str(port), stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    try:
        assert f"http://127.0.0.1:{port}/" in process.stdout.readline()
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/demo", timeout=30) as answer:
            assert json.loads(answer.read())["coming"] is True
        for name in ("static/vendor/bootstrap.min.css", "static/js/start.js"):
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/{name}", timeout=30) as answer:
                assert answer.status == 200
        assert (folder / "share/velvetdrum/velvetdrum.sqlite3").exists()
    finally:
        process.terminate()
        said = process.communicate(timeout=30)[1]
    assert f"Projects are kept in {folder / 'share/velvetdrum'}" in said


def test_doctor_says_what_is_there():
    result = CliRunner().invoke(main, ["doctor"])
    assert result.exit_code == 0, result.output
    for name in ("libraries of the system", "typefaces", "encoders", "compiled loops", "model of speech", "cluster"):
        assert name in result.output
