"""What can be wrong with a document, and how it is said."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from velvetdrum.declare.setting import quoted

Document = dict[str, Any]


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong with a document: a JSON Pointer to it, and a sentence."""

    path: str
    sentence: str


class LayerGone(Problem):
    """A part reads a layer that is not in the document."""


class ProjectError(ValueError):
    """A document can't be used. `problems` says where and why; the text is the first sentence."""

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__(problems[0].sentence)
        self.problems = problems

    def __reduce__(self) -> tuple[type[ProjectError], tuple[list[Problem]]]:
        """It travels from worker processes with all that it says."""
        return type(self), (self.problems,)


def report_unknown(given: Any, known: set[str], path: str, what: str, problems: list[Problem]) -> None:
    """Tell of parts that are not known, the first few of them."""
    if isinstance(given, dict):
        for key in sorted(given.keys() - known)[:8]:
            problems.append(Problem(f"{path}/{key[:80]}", f"{what} has no part called {quoted(key)}."))
