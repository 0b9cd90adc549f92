"""Writes THIRD-PARTY.md: what ships with the program, and what it is installed with, each with its licence.

Usage: make_third_party.py [--check] FILE

Libraries are those that `requirements.txt` names and what they need in turn, as they are installed here. With --check
nothing is written: the exit code is 1 where the file is stale.
"""

from __future__ import annotations

import re
import sys
from importlib.metadata import Distribution, PackageNotFoundError, distribution
from pathlib import Path

from packaging.requirements import Requirement
from packaging.utils import canonicalize_name

ROOT = Path(__file__).parents[1]
SHIPPED = ("velvetdrum/studio/static/vendor", "velvetdrum/picture/typesetting/fonts")

_UNSAID = {"espeakng-loader": "nothing said of the loader; eSpeak NG in it: GPL-3.0-or-later"}
"""What is known of libraries whose metadata says nothing."""


def licence(library: Distribution) -> str:
    """The licence of a library as its metadata says it: an SPDX expression, a classifier, or a line of text."""
    data = library.metadata
    name = canonicalize_name(data["Name"])
    if said := data.get("License-Expression"):
        return str(said)
    classes = [line.rpartition(" :: ")[2] for line in data.get_all("Classifier") or () if line.startswith("License ::")]
    if classes:
        return ", ".join(classes)
    text = " ".join((data.get("License") or "").split())
    return _UNSAID.get(name) or text[:60] or "not said in its metadata"


def libraries() -> dict[str, Distribution]:
    """The libraries of the locked set and what they need, by their names."""
    result: dict[str, Distribution] = {}
    lines = (ROOT / "requirements.txt").read_text().splitlines()
    waiting = [Requirement(line) for line in lines if re.match(r"[A-Za-z]", line)]
    while waiting:
        need = waiting.pop()
        name = canonicalize_name(need.name)
        if name in result or (need.marker and not need.marker.evaluate({"extra": ""})):
            continue
        try:
            result[name] = distribution(name)
        except PackageNotFoundError:
            continue
        waiting += map(Requirement, result[name].requires or ())
    return dict(sorted(result.items()))


def page() -> str:
    """The whole of THIRD-PARTY.md."""
    lines = ["# What others made", "", "Made by `tools/make_third_party.py` from what ships and what is installed.", ""]
    lines += ["## Shipped", "", "Each licence lies beside the files that it is of.", ""]
    for folder in SHIPPED:
        for path in sorted((ROOT / folder).rglob("LICENSE-*")):
            head = next((line.strip() for line in path.read_text(errors="replace").splitlines() if line.strip()), "")
            place = path.relative_to(ROOT).as_posix()
            lines.append(f"- {path.name.removeprefix('LICENSE-')}: [{head[:100]}]({place})")
    lines += ["", "## Installed beside it", "", "| Library | Version | Licence |", "|---|---|---|"]
    # What is not pinned may be of another version elsewhere.
    pinned = dict(re.findall(r"^([\w.-]+)==(\S+)$", (ROOT / "requirements.txt").read_text(), re.MULTILINE))
    versions = {canonicalize_name(name): version for name, version in pinned.items()}
    lines += [f"| {name} | {versions.get(name, '')} | {licence(lib)} |" for name, lib in libraries().items()]
    return "\n".join([*lines, ""])


def main() -> None:
    target = Path(sys.argv[-1])
    text = page()
    if "--check" in sys.argv:
        stale = not target.exists() or target.read_text() != text
        if stale:
            print(f"{target} is stale; `make generated` makes it anew.", file=sys.stderr)
        sys.exit(1 if stale else 0)
    target.write_text(text)


if __name__ == "__main__":
    main()
