// Where the lanes of words and cues read from, and what follows a drag on them.

import { ask } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

export class CueLanesPanel extends partWith(
  "cueEdits",
  "cues",
  "playback",
  "project",
  "raw",
  "selection",
  "tempo",
  "tracks",
  "views",
) {
  /** @type {any[]} */
  pauses = [];
  /** @type {any} */
  pausesOf = null;

  source() {
    const { cues, cueEdits, playback, project, raw, tempo, views } = this;
    return {
      seen: views.strip.seen,
      now: playback.frame / project.rate,
      inS: cues.inS,
      length: project.length,
      row: cues.row,
      chosen: cues.chosen,
      word: cues.word,
      pauses: raw(this.pauses),
      beats: tempo.snapping ? raw(tempo.beatGrid.beats) : [],
      draft: raw(cueEdits.draft),
    };
  }

  get shown() {
    return this.selection.room === "words";
  }

  /** The pauses of the voice, asked for once a recording and its used part. */
  async load() {
    const { project, views } = this;
    const { selection, tracks } = this;
    // Tracks snap to them, too.
    if (!project.track || !(this.shown || (selection.isRoom("sound") && tracks.shown))) return;
    const mark = `${project.track.media}:${project.track.in_s}:${project.track.out_s}`;
    if (mark === this.pausesOf) return;
    this.pausesOf = mark;
    try {
      await project.settled();
      this.pauses = (await ask(`/projects/${project.state.id}/pauses`)).pauses;
    } catch {
      this.pausesOf = null;
    }
    views.cueLanes.draw();
  }

  get text() {
    const { cues } = this;
    return cues.cue ? `${cues.title}: ${cues.cue.text}` : `${cues.count} cues`;
  }
}
