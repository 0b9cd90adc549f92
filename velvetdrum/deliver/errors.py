"""The error types of this package."""

import errno


class DeliverError(Exception):
    """A file can't be made or read. The text is a sentence for the person who asked for it."""


class NoRoom(DeliverError):
    """There is no room on the disk for it; once there is, the same can be tried again."""


def is_no_room(problem: BaseException) -> bool:
    """True for what a system says when a disk, or what somebody may have of it, is full.

    Parameters
    ----------
    problem
        What went wrong.
    """
    return isinstance(problem, NoRoom) or getattr(problem, "errno", None) in (errno.ENOSPC, errno.EDQUOT)
