"""Docstrings of what computes: every public function and method says what each of its parameters is."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

import velvetdrum

ROOT = Path(velvetdrum.__file__).parent
PACKAGES = ("audio", "signals", "picture/raster", "picture/space", "words", "deliver")
_SECTION = re.compile(r"^ *Parameters\n *-{10}\n(?P<entries>.*?)(?=^ *\w+\n *-{3,}\n|\Z)", re.S | re.M)


def functions() -> Iterator[tuple[str, ast.FunctionDef]]:
    for package in PACKAGES:
        for path in sorted((ROOT / package).rglob("*.py")):
            # Loops take arrays of pixels; their modules say how these lie.
            if "kernels" in path.parts:
                continue
            tree = ast.parse(path.read_text(encoding="utf-8"))
            classes = [node for node in tree.body if isinstance(node, ast.ClassDef) and not node.name.startswith("_")]
            for owner in (tree, *classes):
                of = f"{owner.name}." if isinstance(owner, ast.ClassDef) else ""
                for node in owner.body:
                    if isinstance(node, ast.FunctionDef) and not node.name.startswith("_") and not is_told(owner, node):
                        yield f"{package}/{path.stem}.{of}{node.name}", node


def is_told(owner: ast.AST, node: ast.FunctionDef) -> bool:
    """Whether another docstring says it: a method that has none is told of by the class that it is from."""
    docstring = ast.get_docstring(node) or ""
    return isinstance(owner, ast.ClassDef) and (not docstring or docstring.startswith("As `"))


def described(docstring: str) -> dict[str, str]:
    """Parameters of a docstring's section, each with what it says of them."""
    section = _SECTION.search(docstring)
    if section is None:
        return {}
    out: dict[str, str] = {}
    name = ""
    for line in section["entries"].splitlines():
        if line and not line.startswith(" "):
            name = line
            out[name] = ""
        elif name:
            out[name] += line.strip()
    return out


@pytest.mark.parametrize(("name", "node"), [pytest.param(name, node, id=name) for name, node in functions()])
def test_a_public_function_says_what_its_parameters_are(name, node):
    docstring = ast.get_docstring(node)
    assert docstring, f"{name} has no docstring"
    given = [argument.arg for argument in [*node.args.args, *node.args.kwonlyargs]]
    if given[:1] == ["self"] or any(ast.unparse(item) == "classmethod" for item in node.decorator_list):
        del given[0]
    said = described(docstring)
    assert list(said) == given, f"{name} describes {list(said)} and takes {given}"
    assert all(text.endswith(".") for text in said.values()), f"{name} has parameters without a sentence"


def test_a_docstring_that_leaves_one_out_is_noticed():
    source = '''def cut(path, first):
        """Cut a sound.

        Parameters
        ----------
        path
            The file.

        Raises
        ------
        SoundError
            When it is damaged.
        """
    '''
    node = ast.parse(source).body[0]
    assert described(ast.get_docstring(node)) == {"path": "The file."}
