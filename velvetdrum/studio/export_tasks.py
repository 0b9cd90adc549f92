"""What worker processes do for exports besides making them: reckoning, looking at what was made."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Any

from velvetdrum.deliver.checks.report import check_video
from velvetdrum.deliver.estimate import estimated
from velvetdrum.deliver.export import Job
from velvetdrum.limits.process import limited_time

_LOOK_S = 900.0
_ESTIMATE_S = 40.0


def estimate(job: Job, workers: int) -> dict[str, Any]:
    """Seconds and bytes of an export."""
    with limited_time(_ESTIMATE_S):
        return asdict(estimated(job, workers))


def look_at_file(path: str) -> dict[str, Any]:
    """What a finished video was found to be."""
    with limited_time(_LOOK_S):
        return check_video(Path(path)).values()
