"""What reads a file that somebody brought: its own process, which has an end."""

import os
import signal
import subprocess
import sys
import time

import numpy as np
import psutil
import pytest

from velvetdrum.limits.bounded import MEMORY_BYTES, Unreadable, bounded
from velvetdrum.limits.process import OverTime


def test_what_a_task_gives_and_raises_comes_back():
    assert bounded(sum)([1, 2, 3]) == 6
    with pytest.raises(ZeroDivisionError):
        bounded(divmod)(1, 0)


def test_memory_time_and_a_death_are_told():
    with pytest.raises(MemoryError):
        bounded(np.ones)(2 * MEMORY_BYTES // 8)
    with pytest.raises(OverTime):
        bounded(eval, seconds=0.5)("[n for n in iter(int, 1)]")
    with pytest.raises(Unreadable, match="ended by it"):
        bounded(os._exit)(3)


@pytest.mark.parametrize("how", [signal.SIGINT, signal.SIGKILL])
def test_what_reads_ends_with_the_command(how):
    code = "import time; from velvetdrum.limits.bounded import bounded; bounded(time.sleep)(120)"
    process = subprocess.Popen(
        [sys.executable, "-c", code],
        stderr=subprocess.PIPE,
        start_new_session=True,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
    )
    end = time.monotonic() + 40
    # The tracker, the process that forks, and the worker.
    while len(made := psutil.Process(process.pid).children(recursive=True)) < 3:
        assert time.monotonic() < end
        time.sleep(0.05)
    time.sleep(0.5)
    if how == signal.SIGINT:
        os.killpg(process.pid, how)  # as a terminal does
    else:
        process.kill()
    process.communicate(timeout=15)
    _, alive = psutil.wait_procs(made, timeout=15)
    assert not [item for item in alive if item.status() != psutil.STATUS_ZOMBIE]
