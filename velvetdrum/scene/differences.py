"""What differs between two documents, in words that name layers, settings and values as the page does."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import islice
from typing import Any, NamedTuple

from velvetdrum.declare.setting import Setting
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.parts import PART_SORTS
from velvetdrum.scene.problems import Document
from velvetdrum.signals.grid import BeatSettings
from velvetdrum.signals.kinds import SIGNAL_KINDS

LONGEST_VALUE = 40
_PROJECT = "Project"


class Difference(NamedTuple):
    """What it concerns, a layer or a signal by its name, and what is other there."""

    owner: str
    text: str


def differences(before: Document, after: Document, most: int = 200) -> list[Difference]:
    """What leads from one document of the present form to another, up to `most` of it."""
    return list(islice(_all(before, after), most))


def _all(before: Document, after: Document) -> Iterator[Difference]:
    yield from _project(before, after)
    yield from _listed(before, after, "signals", _signal)
    yield from _listed(before, after, "layers", _layer)
    kept = {item["id"] for item in before["layers"]} & {item["id"] for item in after["layers"]}
    orders = ([item["id"] for item in each["layers"] if item["id"] in kept] for each in (before, after))
    if len({tuple(order) for order in orders}) > 1:
        yield Difference(_PROJECT, "Layers in another order")
    yield from _cues(before, after)


def _project(before: Document, after: Document) -> Iterator[Difference]:
    if before["name"] != after["name"]:
        yield Difference(_PROJECT, f"Name {_told(before['name'])} → {_told(after['name'])}")
    sizes = [f"{each['frame']['width']} × {each['frame']['height']} px" for each in (before, after)]
    if sizes[0] != sizes[1]:
        yield Difference(_PROJECT, f"Frame {sizes[0]} → {sizes[1]}")
    for key, label, unit in (("rate", "Frames per second", ""), ("length_s", "Length", " s")):
        if before[key] != after[key]:
            values = ["as the sound" if each[key] is None else f"{each[key]}{unit}" for each in (before, after)]
            yield Difference(_PROJECT, f"{label} {values[0]} → {values[1]}")
    if (before["tracks"], before.get("used")) != (after["tracks"], after.get("used")):
        yield Difference(_PROJECT, "Other tracks, or another part of them")
    beats = BeatSettings.settings
    yield from _values("Beats", beats, before.get("beats", {}), after.get("beats", {}))
    for key, label in (("markers", "Markers"), ("tags", "Tags"), ("colours", "Project colours")):
        if before.get(key) != after.get(key):
            yield Difference(_PROJECT, f"{label} changed")


def _listed(before: Document, after: Document, key: str, compare: Any) -> Iterator[Difference]:
    """What differs in a list of named things with ids."""
    old, new = ({item["id"]: item for item in each[key]} for each in (before, after))
    called = key[:-1]
    for earlier, later in _paired(old, new):
        if later is None:
            yield Difference(earlier["name"], f"{called} removed")
        elif earlier is None:
            yield Difference(later["name"], f"{called} added")
        elif later != earlier:
            yield from compare(earlier, later, after)


def _paired(old: Mapping[Any, Document], new: Mapping[Any, Document]) -> Iterator[tuple[Any, Any]]:
    """What has the same key in both, side by side; None where one has it not. What is gone comes first."""
    yield from ((item, None) for key, item in old.items() if key not in new)
    yield from ((old.get(key), item) for key, item in new.items())


def _signal(old: Document, new: Document, after: Document) -> Iterator[Difference]:
    kind = SIGNAL_KINDS.get(new["kind"])
    if old["name"] != new["name"]:
        yield Difference(new["name"], f"Name {_told(old['name'])} → {_told(new['name'])}")
    if old["kind"] != new["kind"]:
        yield Difference(new["name"], f"Kind {old['kind']} → {new['kind']}")
    elif kind is not None:
        yield from _values(new["name"], kind.settings, old["settings"], new["settings"])
    if old["colour"] != new["colour"]:
        yield Difference(new["name"], f"Colour {old['colour']} → {new['colour']}")


def _layer(old: Document, new: Document, after: Document) -> Iterator[Difference]:
    owner, kind = new["name"], LAYER_KINDS.get(new["kind"])
    if old["name"] != owner:
        yield Difference(owner, f"Name {_told(old['name'])} → {_told(owner)}")
    for key, on, off in (("visible", "shown", "hidden"), ("solo", "solo", "not solo"), ("locked", "locked", "free")):
        if old.get(key) != new.get(key):
            yield Difference(owner, on if new.get(key) else off)
    if old.get("group") != new.get("group"):
        name = next((item["name"] for item in after["layers"] if item["id"] == new.get("group")), "")
        yield Difference(owner, f"in the group {_told(name)}" if name else "in no group")
    if old["kind"] != new["kind"]:
        yield Difference(owner, f"Kind {old['kind']} → {new['kind']}")
    elif kind is not None:
        yield from _values(owner, kind.settings, old["settings"], new["settings"])
    for sort in PART_SORTS.values():
        yield from _parts(owner, sort, old.get(sort.listed, []), new.get(sort.listed, []))
    yield from _patches(owner, kind, old.get("patches", []), new.get("patches", []), after)
    for key, text in (("keyframes", "Keyframes changed"), ("frames", "Settings of single frames changed")):
        if (old.get(key) or {}) != (new.get(key) or {}):
            yield Difference(owner, text)


def _parts(owner: str, sort: Any, old: list[Document], new: list[Document]) -> Iterator[Difference]:
    earlier, later = ({item["id"]: item for item in each} for each in (old, new))

    def title(item: Document) -> str:
        kind = sort.kinds.get(item["kind"])
        return f"{sort.name} {kind.title if kind else item['kind']}"

    for before, now in _paired(earlier, later):
        if now is None:
            yield Difference(owner, f"{title(before)} removed")
        elif before is None:
            yield Difference(owner, f"{title(now)} added")
        elif now != before:
            yield from _part(owner, title(now), sort.kinds.get(now["kind"]), before, now)
    if [ident for ident in earlier if ident in later] != [ident for ident in later if ident in earlier]:
        yield Difference(owner, f"{sort.listed} in another order")


def _part(owner: str, title: str, kind: Any, before: Document, now: Document) -> Iterator[Difference]:
    on = now.get("on", True)
    if before.get("on", True) != on:
        yield Difference(owner, f"{title} {'on' if on else 'off'}")
    if kind is not None:
        inner = _values(owner, kind.settings, before.get("settings", {}), now.get("settings", {}))
        yield from (Difference(owner, f"{title}: {difference.text}") for difference in inner)


def _patches(owner: str, kind: Any, old: list[Document], new: list[Document], after: Document) -> Iterator[Difference]:
    names = {item["id"]: item["name"] for item in after["signals"]}

    def by_place(patches: list[Document]) -> dict[tuple[str, str], Document]:
        return {(patch["setting"], patch["signal"]): patch for patch in patches}

    def title(patch: Document) -> str:
        place = patch["setting"].rsplit(":", 1)[-1]
        setting = kind.settings.get(place) if kind is not None and place == patch["setting"] else None
        label = setting.label if setting is not None else place.replace("_", " ").capitalize()
        return f"{label} by {names.get(patch['signal'], 'a signal that is gone')}"

    for before, now in _paired(by_place(old), by_place(new)):
        if now is None:
            yield Difference(owner, f"{title(before)}: patch removed")
        elif before is None:
            yield Difference(owner, f"{title(now)}: patch added")
        elif now != before:
            ends = [f"{_plain(each.get('from'))} to {_plain(each.get('to'))}" for each in (before, now)]
            changed = f"{ends[0]} → {ends[1]}" if ends[0] != ends[1] else "patch changed"
            yield Difference(owner, f"{title(now)}: {changed}")


def _values(
    owner: str, settings: Mapping[str, Setting], old: Mapping[str, Any], new: Mapping[str, Any]
) -> Iterator[Difference]:
    for name, setting in settings.items():
        values = [each.get(name, setting.default) for each in (old, new)]
        if values[0] != values[1]:
            told = [_value(setting, value) for value in values]
            yield Difference(
                owner, f"{setting.label} changed" if told[0] == told[1] else f"{setting.label} {told[0]} → {told[1]}"
            )


def _value(setting: Setting, value: Any) -> str:
    """A value as it stands in the setting's field, with its unit."""
    if setting.choices and isinstance(value, str):
        return dict(setting.choices).get(value, value)
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, int | float):
        return f"{value:g} {setting.unit}".strip()
    return _plain(value)


def _plain(value: Any) -> str:
    if isinstance(value, int | float):
        return f"{value:g}"
    if isinstance(value, list):
        return f"{len(value)} stops" if value and isinstance(value[0], dict) and "colour" in value[0] else "a list"
    return _told(str(value)) if value else "none"


def _told(text: str) -> str:
    """A text between quotation marks, cut where it is long; a colour as it is."""
    if text.startswith("#") and len(text) == 7:
        return text
    short = text if len(text) <= LONGEST_VALUE else f"{text[: LONGEST_VALUE - 1]}…"
    return f"“{short.replace(chr(10), ' ')}”"


def _cues(before: Document, after: Document) -> Iterator[Difference]:
    old, new = ({track["id"]: track for track in each.get("cue_tracks", [])} for each in (before, after))
    for before, now in _paired(old, new):
        if now is None:
            yield Difference("Words", f"{_told(before['name'])} removed")
        elif before is None:
            yield Difference("Words", f"{_told(now['name'])} added")
        elif now != before:
            earlier, later = before.get("cues", {}), now.get("cues", {})
            count = sum(earlier.get(key) != later.get(key) for key in {*earlier, *later})
            yield Difference("Words", f"{count} {'cue' if count == 1 else 'cues'} of {_told(now['name'])} changed")
