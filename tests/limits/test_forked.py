"""What the process that workers are forked from reports, and what it leaves out."""

import subprocess
import sys

import pytest

REPORT = """
import velvetdrum.limits.forked

class Held:
    def __del__(self):
        raise {fault}

Held()
"""


@pytest.mark.parametrize(
    ("fault", "is_said"),
    [('OSError("Signal 17 ignored due to race condition")', False), ('OSError("the disk is full")', True)],
)
def test_a_race_of_signals_is_not_reported_other_faults_are(fault, is_said):
    command = [sys.executable, "-c", REPORT.format(fault=fault)]
    said = subprocess.run(command, capture_output=True, text=True, check=True).stderr
    assert ("Traceback" in said) == is_said
