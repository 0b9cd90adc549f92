"""The bench comes up: its families are loaded with it, and use what is there."""

import ast
from pathlib import Path

import bench.run


def test_every_family_of_the_bench_is_loaded_and_uses_names_that_are_there():
    folder = Path(bench.run.__file__).parent
    for path in folder.glob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith(("velvetdrum", "tests")):
                module = __import__(node.module, fromlist=[alias.name for alias in node.names])
                missing = [alias.name for alias in node.names if not hasattr(module, alias.name)]
                assert missing == [], f"{path.name}: {node.module} has no {missing}"
