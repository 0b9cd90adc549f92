"""Commands under test keep their analyses apart from the user's."""

from __future__ import annotations

import os

import pytest

from velvetdrum.cli import analyses


@pytest.fixture(autouse=True, scope="session")
def kept_analyses(tmp_path_factory):
    """The folder of this run's analyses, for the commands and for the processes that they start."""
    folder = tmp_path_factory.mktemp("analyses")
    before = os.environ.get(analyses.FOLDER)
    os.environ[analyses.FOLDER] = str(folder)
    yield folder
    if before is None:
        del os.environ[analyses.FOLDER]
    else:
        os.environ[analyses.FOLDER] = before
