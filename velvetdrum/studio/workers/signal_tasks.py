"""What workers do with signals: their curves, fitting, suggestions, beats, and tables of them."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

from velvetdrum.audio.analysis import Analysis
from velvetdrum.deliver.export import Sources, used_part
from velvetdrum.looks.open_places import fitted_to
from velvetdrum.looks.role_signals import role_signal
from velvetdrum.looks.stem_signals import stem_signal
from velvetdrum.picture.frame.render import signals_of
from velvetdrum.scene.document import Document
from velvetdrum.signals import views
from velvetdrum.signals.grid import BeatGrid
from velvetdrum.signals.suggest import suggest
from velvetdrum.signals.tables import curves_csv, curves_json
from velvetdrum.studio.workers.scenes import Scene, document_of, project_of


def read_curves(scene: Scene, sources: Sources | None, wanted: dict[str, Any]) -> dict[str, Any]:
    """Curves of signals: over each of `spans` (from, to in seconds, columns), or values at `count` frames from
    `start` on.

    `signals` are ids, all without it. For the one in `detail` also what it was before shaping, and what is
    pinned of it.
    """
    project = project_of(scene)
    signals = signals_of(project, used_part(project, sources))
    given = wanted.get("signals")
    idents = [ident for ident in (list(signals.signals) if given is None else given) if ident in signals.signals]
    if "count" in wanted:
        start = int(wanted["start"])
        times = np.array([float(project.time_of(start + number)) for number in range(int(wanted["count"]))])
        return {"values": {ident: views.frames_of(signals, ident, times) for ident in idents}}
    detail = wanted.get("detail")
    result: dict[str, Any] = {"spans": []}
    for span in wanted["spans"]:
        part: dict[str, Any] = {"curves": {ident: views.columns_of(signals, ident, *span) for ident in idents}}
        if detail in signals.signals:
            part["unshaped"] = views.unshaped_columns(signals, detail, *span)
        result["spans"].append(part)
    if detail in signals.signals:
        result["judged"] = views.judged(signals, detail)
    return result


def fit_signals(
    scene: Scene, sources: Sources | None, idents: list[str] | None, start_s: float, stop_s: float
) -> dict[str, Any]:
    """Settings that suit the sound, for those among `idents`, or of all, that read levels of it, by id."""
    project = project_of(scene)
    use = used_part(project, sources)
    if use is None:
        return {}
    wanted = [named for named in project.signals if idents is None or named.id in idents]
    fitted = {named.id: named.signal.fitted(use, project.length_s, start_s, stop_s) for named in wanted}
    return {ident: values for ident, values in fitted.items() if values}


def fit_all(scene: Scene, sources: Sources | None) -> list[dict[str, Any]]:
    """The patch (RFC 6902) that fits all layers and signals that read levels to the used part of a project's sound."""
    project, document = project_of(scene), document_of(scene)
    use = used_part(project, sources)
    if use is None:
        return []
    fitted = fitted_to(document, use)
    return [
        {"op": "replace", "path": f"/{listed}/{index}/settings/{name}", "value": value}
        for listed in ("signals", "layers")
        for index, (then, now) in enumerate(zip(document[listed], fitted[listed], strict=True))
        for name, value in now["settings"].items()
        if name in then["settings"] and then["settings"][name] != value
    ]


def signal_in_role(scene: Scene, sources: Sources | None, role: str) -> Document:
    """A signal that follows what people call the kick, the voice, each beat, in a project's sound."""
    return role_signal(role, used_part(project_of(scene), sources))


def suggest_signals(scene: Scene, sources: Sources | None) -> list[dict[str, Any]]:
    """Pickups to offer for a project's sound."""
    project = project_of(scene)
    use = used_part(project, sources)
    if use is None:
        return []
    return [asdict(result) for result in suggest(use, project.length_s)]


def signals_file(scene: Scene, sources: Sources | None, idents: list[str], form: str) -> str:
    """Curves as CSV or JSON at the project's frame rate."""
    project = project_of(scene)
    signals = signals_of(project, used_part(project, sources))
    write = curves_json if form == "json" else curves_csv
    return write(signals, idents or list(signals.signals), project.rate)


def read_beats(scene: Scene, sources: Sources | None) -> dict[str, Any]:
    """The beat grid of a project: its tempo, and beats as seconds, whether they begin a bar, and the second where they
    would be had nobody moved them."""
    project = project_of(scene)
    grid = BeatGrid.of(project.beats, used_part(project, sources))
    if grid is None:
        return {"tempo_bpm": None, "beats": []}
    beats = grid.between(0.0, project.length_s)
    unmoved = grid.unmoved(np.array([time for time, _ in beats]))
    rows = [[round(time, 4), first, round(was, 4)] for (time, first), was in zip(beats, unmoved.tolist(), strict=True)]
    return {"tempo_bpm": round(grid.tempo_bpm, 2), "beats": rows}


def stem_signals(stems: list[tuple[Document, str, int]]) -> list[Document]:
    """A signal for each stem: its track, the folder of its analysis, and its number."""
    return [stem_signal(track, Analysis(Path(folder)), number) for track, folder, number in stems]
