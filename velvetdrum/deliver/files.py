"""Files that appear under their name only when they are whole."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import av

from velvetdrum.deliver.errors import DeliverError, NoRoom, is_no_room


@contextmanager
def written_whole(path: Path, what: str) -> Iterator[Path]:
    """Yield a path beside `path` to write to; it takes the name when the block ends well, and goes otherwise.

    Parameters
    ----------
    path
        The file.
    what
        Names the file in the sentence of a fault.

    Raises
    ------
    DeliverError
        With a sentence about `what` when the system refuses (a full disk, a missing folder).
    """
    beside = path.with_name(path.name + ".part")
    try:
        yield beside
        beside.replace(path)
    except (OSError, av.error.FFmpegError) as problem:
        reason = getattr(problem, "strerror", None) or str(problem)
        raise (NoRoom if is_no_room(problem) else DeliverError)(
            f"{what} could not be written to {path.name}: {reason}. Check the folder and the room on the disk."
        ) from problem
    finally:
        beside.unlink(missing_ok=True)
