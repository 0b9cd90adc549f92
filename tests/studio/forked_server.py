"""Starts a server again and again in processes that have imported all of it: `python -m ... DATA` reads a port a line."""

import os
import sys
from pathlib import Path

from velvetdrum.studio.app import create_app  # noqa: F401  (imported once, before the forks)
from velvetdrum.studio.server import run_server
from velvetdrum.studio.workers.pools import Workers


def main() -> None:
    # Edits need no workers; those of a killed server would still be importing when the next one is killed.
    Workers.warm = lambda self: None
    for line in sys.stdin:
        pid = os.fork()
        if pid == 0:
            run_server(Path(sys.argv[1]), port=int(line))
            os._exit(0)
        print(pid, flush=True)
        os.waitpid(pid, 0)


if __name__ == "__main__":
    main()
