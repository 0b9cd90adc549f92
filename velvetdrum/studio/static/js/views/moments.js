// Small true frames: the moments under the transport, and the layers' thumbnails.

import { ask, unpack } from "../lib/api.js";
import { clock } from "../lib/time.js";
import { partWith } from "../lib/studio_part.js";

const NOW_WIDTH = 260;
const TOGETHER = 6; // layers whose small pictures are asked for at once

export class Moments extends partWith(
  "formats",
  "given",
  "layers",
  "parts",
  "playback",
  "project",
  "signals",
  "views",
) {
  turn = 0;
  /** @type {Record<string, string>} what the small picture of each layer was drawn of */
  marks = {};
  warmed = false;
  /** @type {Record<string, string>} pictures by the ids of layers */
  thumbs = {};
  /** @type {{name: string, label: string, frame: number, picture: string}[]} */
  moments = [];

  /** All small pictures that are not those of what is there now, the moments with the first few layers. */
  async load() {
    const turn = ++this.turn;
    const { playback, project, views } = this;
    const changed = project.document.layers.filter((layer) => this.markOf(layer) !== this.marks[layer.id]);
    const runs = [changed.slice(0, TOGETHER)];
    for (let at = TOGETHER; at < changed.length; at += TOGETHER) runs.push(changed.slice(at, at + TOGETHER));
    try {
      for (const [number, run] of runs.entries()) {
        const marks = run.map((layer) => [layer.id, this.markOf(layer)]);
        const frame = number || playback.playing ? null : playback.frame;
        const json = { frame, layers: run.map(({ id }) => id), ...this.formats.sizeWanted };
        const drawn = await ask(`/projects/${project.state.id}/small-pictures`, { json });
        if (turn !== this.turn) return;
        Object.assign(this.thumbs, drawn.layers);
        Object.assign(this.marks, Object.fromEntries(marks));
        if (frame !== null) this.show(drawn, frame);
      }
    } catch {
      return; // the stage says what is wrong
    }
    if (!this.warmed && !playback.playing) {
      this.warmed = true;
      views.preview.readiness.rest();
    }
  }

  /**
   * @param {any} values
   * @param {number} frame
   */
  show({ moments, now }, frame) {
    moments.splice(2, 0, { name: "now", label: "now", frame, picture: now });
    this.moments = moments;
  }

  /** The moment that is looked at, once the playhead rests. */
  async loadNow() {
    const now = this.moments.find((moment) => moment.name === "now");
    const { formats, playback, project } = this;
    if (!now || playback.playing) return;
    const { frame } = playback;
    const json = { frames: [frame], width: Math.min(NOW_WIDTH, formats.frameSize.width), ...formats.sizeWanted };
    try {
      const [{ blob }] = unpack(await ask(`/projects/${project.state.id}/frames`, { json, bytes: true }), "jpeg");
      if (now.picture.startsWith("blob:")) URL.revokeObjectURL(now.picture);
      now.frame = frame;
      now.picture = URL.createObjectURL(blob);
    } catch {
      /* the stage says what is wrong */
    }
  }

  /**
   * What a small picture is drawn of: the layer and what it holds, signals where any moves it, frame and sound.
   * @param {Layer} layer
   */
  markOf(layer) {
    const { formats, given, layers, parts, project, signals } = this;
    const inside = layers
      .branch(layer.id)
      .map((member) => [
        member.settings,
        given.partSorts.map((sort) => parts.partsOf(member, sort)),
        member.keyframes,
        member.frames,
        member.patches,
        member.visible,
      ]);
    const moved = layer.patches && layer.patches.length ? signals.signals : 0;
    return JSON.stringify([inside, moved, project.track, formats.frameSize]);
  }

  /** @param {any} moment */
  momentTime(moment) {
    return clock((moment.name === "now" ? this.playback.frame : moment.frame) / this.project.rate, 2);
  }

  /** @param {any} moment */
  momentLabel(moment) {
    return `${moment.label} ${this.momentTime(moment)}`;
  }

  /** @param {any} moment */
  goToMoment(moment) {
    if (moment.name !== "now") this.playback.seek(moment.frame);
  }
}
