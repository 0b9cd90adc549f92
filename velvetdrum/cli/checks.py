"""Commands that look at finished videos."""

from __future__ import annotations

import json
from pathlib import Path

import click

from velvetdrum.cli.sentences import OUT, SOUND, sentences
from velvetdrum.deliver.checks.report import Report, check_video
from velvetdrum.deliver.files import written_whole
from velvetdrum.limits import door


@click.command("check")
@click.argument("video", type=SOUND)
@click.option("-o", "--output", type=OUT, help="A JSON file for what was found.")
def check_command(video: Path, output: Path | None) -> None:
    """Check VIDEO before it is posted: flashes, black, frozen and silent stretches, loudness, true peak."""
    with sentences():
        result = door.read(check_video, video, bounds=door.RECORDING)
        if output:
            with written_whole(output, "The report") as beside:
                beside.write_text(json.dumps(result.values(), indent=2) + "\n", encoding="utf-8")
    for line in report_lines(result):
        click.echo(line)


def report_lines(found: Report) -> list[str]:
    """What was found, a line each."""
    lines = [
        f"{found.frames} frames of {found.width}x{found.height}, {found.rate:.3f} frames/s, {found.duration_s:.2f} s."
    ]
    if found.true_peak_dbtp is None:
        lines.append("No sound.")
    else:
        level = "silence" if found.loudness_lufs is None else f"{found.loudness_lufs:.1f} LUFS"
        lines.append(f"Sound: {level}, true peak {found.true_peak_dbtp:.1f} dBTP.")
    lines += [
        f"Flashes ({span.kind}), up to {span.per_s:g} a second, from {span.start_s:.2f} to {span.end_s:.2f} s: more"
        " than three a second can harm (WCAG 2.3.1)."
        for span in found.flashes
    ]
    for name, spans in (("Black", found.black), ("Frozen", found.frozen), ("Silent", found.silence)):
        lines += [f"{name} from {begin:.2f} to {end:.2f} s." for begin, end in spans]
    if len(lines) == 2:
        lines.append("Nothing else to watch out for.")
    return lines
