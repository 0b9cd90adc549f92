"""Sound without pictures, in every format that sound can have."""

from __future__ import annotations

import shutil
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

import velvetdrum.deliver.sounds  # noqa: F401  (makes the sound formats known)
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.muxer import Extras
from velvetdrum.deliver.segments import Segment
from velvetdrum.deliver.sound_format import SOUND_FORMATS
from velvetdrum.deliver.video_format import VideoFormat, known_format

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan


class SoundAlone(VideoFormat):
    """Base of those: no segments, and the sound's file as it is."""

    group: ClassVar[str] = "sound"
    about: ClassVar[str] = "The sound as it is mixed, without pictures."
    rank: ClassVar[int] = 9

    def parts(self, plan: ExportPlan) -> list[Segment]:
        return []

    def join(
        self,
        segments: Sequence[tuple[Path, int]],
        sound: Path | None,
        plan: ExportPlan,
        path: Path,
        extras: Extras | None = None,
    ) -> None:
        if sound is None:
            raise DeliverError("There is no sound in this project.")
        with written_whole(path, "The sound") as beside:
            shutil.copyfile(sound, beside)


for _name, _form in SOUND_FORMATS.items():
    _settings = {"label": _name.upper(), "suffix": f".{_name}", "mime": _form.mime, "sound": _name}
    known_format(f"sound-{_name}", _form.title)(type(f"SoundAlone{_name.title()}", (SoundAlone,), _settings))
