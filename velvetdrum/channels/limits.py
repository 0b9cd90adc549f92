"""What channels take, as data: read from a documented JSON file, and held against a plan or a finished file."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from pathlib import Path
from typing import Any

from velvetdrum.deliver.checks.report import Report
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.deliver.sound_format import SOUND_FORMATS
from velvetdrum.deliver.video_format import FORMATS
from velvetdrum.limits.json_text import JsonError, read_json
from velvetdrum.scene.frames import FrameSize

FORMAT, VERSION = "velvetdrum-channels", 1
MOST_BYTES, MOST_CHANNELS = 200_000, 60

_RANGES = {
    "width": "pixels wide",
    "height": "pixels high",
    "seconds": "s long",
    "megabytes": "MB",
    "rate": "frames/s",
    "loudness_lufs": "LUFS",
    "true_peak_dbtp": "dBTP",
}
_LISTS = ("suffixes", "shapes", "picture_codecs", "sound_codecs")
_CAPTIONS = ("needed", "allowed", "none")
_IDENT = re.compile(r"[a-z0-9-]{1,40}")
_NEAR = 1e-6


class ChannelError(Exception):
    """A description of channels can't be read, or a channel can't be posted to. The text is a sentence."""


def _said(value: float) -> str:
    return f"{value:.10g}".replace("-", "−")


@dataclass(frozen=True)
class Range:
    """The least and the most that is taken; infinite where it does not matter."""

    least: float = -math.inf
    most: float = math.inf

    def __contains__(self, value: float) -> bool:
        return self.least - _NEAR <= value <= self.most + _NEAR

    def told(self, unit: str) -> str:
        """As people say it."""
        if self.least == -math.inf:
            return f"at most {_said(self.most)} {unit}"
        if self.most == math.inf:
            return f"at least {_said(self.least)} {unit}"
        return f"{_said(self.least)} to {_said(self.most)} {unit}"


@dataclass(frozen=True)
class Channel:
    """A channel, and what it takes: ranges by their names, and lists of what is taken (anything where there is none).
    `captions`: needed, allowed or none."""

    id: str
    name: str
    about: str
    ranges: Mapping[str, Range] = field(default_factory=dict)
    lists: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    captions: str = "allowed"

    def _range(self, name: str, value: float | None, what: str) -> list[str]:
        limit = self.ranges.get(name)
        if limit is None or value is None or value in limit:
            return []
        unit = _RANGES[name]
        return [f"{what} {_said(round(value, 1))} {unit}; {self.name} takes {limit.told(unit)}"]

    def _listed(self, name: str, value: str, what: str) -> list[str]:
        taken = self.lists.get(name, ())
        if not taken or not value or any(value == item or value.startswith(f"{item}_") for item in taken):
            return []
        return [f"{what} {value}; {self.name} takes {_either(taken)}"]


def _either(words: tuple[str, ...]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} or {words[-1]}"


@cache
def shipped_channels() -> tuple[Channel, ...]:
    """The channels that ship with the application."""
    return read_channels(files("velvetdrum.channels").joinpath("limits.json").read_bytes())


def known_channels(own: Path) -> tuple[Channel, ...]:
    """The channels that ship, and those of a user's own file, which may replace some. Raises ChannelError."""
    if not own.exists():
        return shipped_channels()
    if own.stat().st_size > MOST_BYTES:
        raise ChannelError(f"{own.name} is larger than {MOST_BYTES // 1000} kB, which is the most for channels.")
    result = {channel.id: channel for channel in (*shipped_channels(), *read_channels(own.read_bytes()))}
    return tuple(result.values())


def read_channels(data: bytes) -> tuple[Channel, ...]:
    """Channels from JSON. Raises ChannelError that says where something is wrong."""
    try:
        document = read_json(data, most_bytes=MOST_BYTES)
    except JsonError as problem:
        raise ChannelError(f"The description of channels can't be read: {problem}") from problem
    if not isinstance(document, dict) or document.get("format") != FORMAT or document.get("version") != VERSION:
        raise ChannelError(f'A description of channels begins with "format": "{FORMAT}" and "version": {VERSION}.')
    given = document.get("channels")
    if not isinstance(given, list) or len(given) > MOST_CHANNELS:
        raise ChannelError(f"/channels needs a list of up to {MOST_CHANNELS} channels.")
    return tuple(_channel(item, f"/channels/{number}") for number, item in enumerate(given))


def _channel(item: Any, path: str) -> Channel:
    if not isinstance(item, dict) or not _IDENT.fullmatch(str(item.get("id"))):
        raise ChannelError(f"{path}/id needs up to 40 small letters, digits and hyphens.")
    for name in ("name", "about"):
        if not isinstance(item.get(name), str) or not 0 < len(item[name]) <= 60:
            raise ChannelError(f"{path}/{name} needs a text of up to 60 characters.")
    limits = item.get("limits")
    if not isinstance(limits, dict):
        raise ChannelError(f"{path}/limits needs an object.")
    unknown = set(limits) - set(_RANGES) - set(_LISTS) - {"captions"}
    if unknown:
        known = ", ".join((*_RANGES, *_LISTS, "captions"))
        raise ChannelError(f"{path}/limits/{min(unknown)} is no limit; there are {known}.")
    ranges = {name: _read_range(limits[name], f"{path}/limits/{name}") for name in _RANGES if name in limits}
    lists = {name: _read_list(limits[name], f"{path}/limits/{name}") for name in _LISTS if name in limits}
    captions = limits.get("captions", "allowed")
    if captions not in _CAPTIONS:
        raise ChannelError(f"{path}/limits/captions is {_either(_CAPTIONS)}.")
    return Channel(item["id"], item["name"], item["about"], ranges, lists, captions)


def _read_range(value: Any, path: str) -> Range:
    good = isinstance(value, dict) and value and set(value) <= {"least", "most"}
    if not good or not all(isinstance(v, int | float) and not isinstance(v, bool) for v in value.values()):
        raise ChannelError(f"{path} needs numbers as least, most, or both.")
    result = Range(**{name: float(number) for name, number in value.items()})
    if result.least > result.most:
        raise ChannelError(f"{path}/least lies above {path}/most.")
    return result


def _read_list(value: Any, path: str) -> tuple[str, ...]:
    if not isinstance(value, list) or not value or len(value) > 20 or not all(isinstance(v, str) for v in value):
        raise ChannelError(f"{path} needs a list of up to 20 words.")
    return tuple(value)


def against_plan(
    channel: Channel, plan: ExportPlan, *, loudness_lufs: float | None, peak_dbtp: float | None, captions: bool
) -> list[str]:
    """What a channel would refuse of an export before it is made, in sentences without a full stop. Loudness and peak
    are those of the recording, where the plan leaves them as they are."""
    form = FORMATS[plan.format]
    out = channel._listed("suffixes", form.suffix, "The file ends in")
    if form.group == "video":
        out += channel._listed("shapes", FrameSize(plan.width, plan.height).shape, "The frame is")
        out += channel._range("width", plan.width, "The frame is")
        out += channel._range("height", plan.height, "The frame is")
        out += channel._range("rate", float(plan.fraction), "It has")
        out += channel._listed("picture_codecs", form.codec, "Pictures are coded in")
    out += channel._range("seconds", float(plan.stop_s - plan.start_s), "It is")
    out += channel._range("megabytes", plan.megabytes, "It has")
    if form.sound:
        out += channel._listed("sound_codecs", codec_word(SOUND_FORMATS[form.sound].codec), "Sound is coded in")
        lufs = loudness_lufs if plan.loudness is None else plan.loudness
        peak = peak_dbtp if plan.loudness is None else plan.true_peak
        out += channel._range("loudness_lufs", lufs, "It has")
        out += channel._range("true_peak_dbtp", peak, "It peaks at")
    if channel.captions == "needed" and not captions:
        out.append(f"It has no captions; {channel.name} needs them")
    return out


def against_file(channel: Channel, report: Report, suffix: str, size: int, *, captions: bool) -> list[str]:
    """What a channel refuses of a finished file, which was decoded to its end, in sentences without a full stop."""
    out = channel._listed("suffixes", suffix, "The file ends in")
    if report.frames:
        out += channel._listed("shapes", FrameSize.shape_of(report.width, report.height), "The frame is")
        out += channel._range("width", report.width, "The frame is")
        out += channel._range("height", report.height, "The frame is")
        out += channel._range("rate", report.rate, "It has")
        out += channel._listed("picture_codecs", codec_word(report.codec), "Pictures are coded in")
    out += channel._range("seconds", report.duration_s, "It is")
    out += channel._range("megabytes", size / 1e6, "It has")
    out += channel._listed("sound_codecs", codec_word(report.sound_codec), "Sound is coded in")
    out += channel._range("loudness_lufs", report.loudness_lufs, "It has")
    out += channel._range("true_peak_dbtp", report.true_peak_dbtp, "It peaks at")
    if channel.captions == "needed" and not (captions or report.captions):
        out.append(f"It has no captions; {channel.name} needs them")
    return out


def codec_word(name: str) -> str:
    """What people call a codec, by the name of what codes it."""
    plain = name.removeprefix("lib").lower()
    words = {"dav1d": "av1", "svtav1": "av1", "vpx-vp9": "vp9", "x264": "h264", "x265": "hevc", "mp3lame": "mp3"}
    if plain.startswith("pcm"):
        return "pcm"
    return words.get(plain, {"mp3float": "mp3", "prores_ks": "prores"}.get(plain, plain))
