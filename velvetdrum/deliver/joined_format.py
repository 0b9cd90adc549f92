"""What formats have in common whose segments are encoded as the file has them: packets are copied, nothing is encoded
again."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

from velvetdrum.deliver.muxer import Extras, joined
from velvetdrum.deliver.video_format import VideoFormat

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan


class JoinedFormat(VideoFormat):
    """Base of those: which container they are joined into, and what its writer is told."""

    container: ClassVar[str] = "mp4"
    options: ClassVar[dict[str, str]] = {}

    def join(
        self,
        segments: Sequence[tuple[Path, int]],
        sound: Path | None,
        plan: ExportPlan,
        path: Path,
        extras: Extras | None = None,
    ) -> None:
        joined(segments, sound, plan.fraction, path, container=self.container, options=self.options, extras=extras)
