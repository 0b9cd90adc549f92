// Where new shots of a clip begin: found on request, snapped to, cut at.

import { ask, refusalOf } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

// Seconds of a clip that are looked through at one request.
const PIECE_S = 30;

export class SceneCuts extends partWith("cutting", "kinds", "layers", "messages", "selection", "settings", "timing") {
  /** @type {Record<string, number[]>} seconds of clips, by the clips' content hashes */
  cuts = {};
  // How far the clip that is looked through is, in per cent; null while none is.
  /** @type {number | null} */
  done = null;

  /**
   * The clip that a layer runs through, and its settings of speed and slip; null for one that runs through none.
   * @param {Layer} layer
   */
  runOf(layer) {
    const kind = this.kinds.find((known) => known.kind === layer.kind);
    const clip = kind && kind.settings.find(({ media }) => media === "footage");
    return kind && clip && kind.running.speed ? { kind, key: layer.settings[clip.name] } : null;
  }

  get able() {
    const { layer } = this.selection;
    return Boolean(layer && this.runOf(layer));
  }

  get text() {
    return this.done === null ? "find cuts" : `${this.done} %`;
  }

  /** Look through the chosen layer's clip; a press while that goes on ends it. */
  async find() {
    const { layer } = this.selection;
    const run = layer && this.runOf(layer);
    if (this.done !== null) {
      this.done = null;
      return;
    }
    if (!run || !run.key) {
      this.messages.tell("Choose footage: its clip is looked through for cuts.");
      return;
    }
    try {
      this.done = 0;
      const { clip } = await ask(`/clips/${run.key}`);
      /** @type {number[]} */
      const found = [];
      for (let from = 0; from < clip.length_s; from += PIECE_S) {
        const { cuts } = await ask(`/clips/${run.key}/cuts?from_s=${from}&to_s=${from + PIECE_S}`);
        if (this.done === null) return;
        found.push(...cuts);
        this.done = Math.min(99, Math.round(((from + PIECE_S) / clip.length_s) * 100));
      }
      this.cuts[run.key] = found;
      const many = found.length === 1 ? "A cut was" : `${found.length} cuts were`;
      const text = found.length ? `${many} found: what is dragged on the strip snaps to them.` : "No cut was found.";
      this.messages.tell(text, found.length ? "Cut there" : "", () => this.cutThere(layer));
    } catch (thrown) {
      this.messages.tell(refusalOf(thrown).message);
    } finally {
      this.done = null;
    }
  }

  /**
   * When the cuts of a layer's clip are shown, in seconds of the project, the first time round.
   * @param {Layer} layer
   */
  placesOf(layer) {
    const run = this.runOf(layer);
    const cuts = run && this.cuts[run.key];
    if (!run || !cuts) return [];
    const value = (/** @type {string} */ name) => this.settings.valueNow(layer, this.settings.settingOf(layer, name));
    const { in: begin, slip, speed } = /** @type {Record<string, string>} */ (run.kind.running);
    const { from, to } = this.timing.spanOf(layer);
    return cuts
      .map((cut) => from + (cut - Number(value(begin)) - Number(value(slip))) / (Number(value(speed)) / 100))
      .filter((time) => time > from && time < to);
  }

  /**
   * A layer in pieces, one a shot.
   * @param {Layer} layer
   */
  cutThere(layer) {
    this.cutting.cutAt(layer, this.placesOf(this.layers.byId(layer.id)));
  }
}
