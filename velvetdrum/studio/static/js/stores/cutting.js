// Layers cut in time: one in two at the playhead, several one after the other on the beats.

import { chances } from "../lib/chances.js";
import { newId } from "../lib/ids.js";
import { plain } from "../lib/json_patch.js";
import { partWith } from "../lib/studio_part.js";

const LEAST_S = 0.02;

export class Cutting extends partWith(
  "kinds",
  "layerEdits",
  "layers",
  "messages",
  "page",
  "playback",
  "project",
  "selection",
  "tempo",
  "timing",
) {
  each = 4;
  seed = 0; // 0: in the order of the list
  fault = "";

  get now() {
    return this.playback.frame / this.project.rate;
  }

  /** The chosen layers, the furthest back first. */
  get chosen() {
    return this.project.document.layers.filter(({ id }) => this.selection.selected.includes(id));
  }

  /** Each chosen layer that is there at the playhead becomes two: until it, and from it on. */
  cutHere() {
    const { now } = this;
    const cut = this.chosen.filter((layer) => {
      const { from, to } = this.timing.spanOf(layer);
      return !this.layers.isGroup(layer) && now - from > LEAST_S && to - now > LEAST_S;
    });
    if (!cut.length) {
      this.messages.tell("No chosen layer is there at the playhead to be cut in two.");
      return;
    }
    if (this.layerEdits.refuseLocked(cut)) return;
    // From the front on, so that the places of the others hold.
    const steps = [...cut].reverse().flatMap((layer) => this.stepsAt(layer, [now]));
    this.project.edit(`Cut ${cut.length > 1 ? `${cut.length} layers` : cut[0].name} in two`, steps);
  }

  /**
   * The steps that cut a layer at times, each piece in front of the one before it.
   * @param {Layer} layer
   * @param {number[]} times rising
   */
  stepsAt(layer, times) {
    const index = this.layers.indexOf(layer.id);
    const { from, to } = this.timing.spanOf(layer);
    const pieces = times.map((time, number) => {
      const after = plain(layer);
      Object.assign(after, { id: newId(), name: `${layer.name.slice(0, 70)}, on${number ? ` ${number + 1}` : ""}` });
      const last = number === times.length - 1;
      Object.assign(after.settings, {
        from_at: "time",
        from_s: time,
        fade_in_s: 0,
        ...(last ? {} : { to_at: "time", to_s: times[number + 1], fade_out_s: 0 }),
        ...this.slipped(layer, time - from),
      });
      return { op: "add", path: `/layers/${index + 1 + number}`, value: after };
    });
    return to > from ? [...this.timing.spanSteps(layer.id, { to: times[0], fadeOut: 0 }), ...pieces] : [];
  }

  /**
   * A layer cut in pieces.
   * @param {Layer} layer
   * @param {number[]} times seconds of the project
   */
  cutAt(layer, times) {
    if (!times.length || this.layerEdits.refuseLocked([layer])) return;
    this.project.edit(`Cut ${layer.name} at ${times.length} cuts`, this.stepsAt(layer, times));
  }

  /**
   * What lets a layer that comes later go on where it was.
   * @param {Layer} layer
   * @param {number} later seconds
   */
  slipped(layer, later) {
    const kind = this.kinds.find((candidate) => candidate.kind === layer.kind);
    const { slip, speed } = /** @type {Record<string, string>} */ ((kind && kind.running) || {});
    if (!kind || !slip) return {};
    const value = (/** @type {string} */ name) =>
      Number(layer.settings[name] ?? kind.settings.find((setting) => setting.name === name)?.default);
    return { [slip]: Math.round((value(slip) + (later * value(speed)) / 100) * 1e6) / 1e6 };
  }

  openBeats() {
    this.fault = this.chosen.length < 2 ? "Choose several layers first: each gets a stretch of its own." : "";
    this.page.refs.beatCut.showModal();
  }

  closeBeats() {
    this.page.refs.beatCut.close();
  }

  /**
   * @param {"each" | "seed"} name
   * @param {FieldEvent} event
   */
  set(name, event) {
    this[name] = Math.max(name === "each" ? 1 : 0, Math.min(999, Math.round(Number(event.target.value) || 0)));
  }

  /** Each chosen layer is there for so many beats, one after the other from the playhead on. */
  onBeats() {
    const beats = this.tempo.beatGrid.beats.map((/** @type {any} */ [time]) => time);
    const { now, each } = this;
    const first = beats.findIndex((/** @type {number} */ time) => time > now - 1 / this.project.rate);
    const layers = [...this.chosen].reverse();
    if (layers.length < 2 || first < 0 || first + each >= beats.length) {
      this.fault =
        layers.length < 2
          ? "Choose several layers first: each gets a stretch of its own."
          : "There are no beats from the playhead on. Go back, or find the beats in the Sound room.";
      return;
    }
    if (this.layerEdits.refuseLocked(layers)) return;
    if (this.seed) {
      const chance = chances(this.seed);
      const places = layers.map((layer) => ({ layer, at: chance() }));
      layers.splice(0, layers.length, ...places.sort((one, other) => one.at - other.at).map(({ layer }) => layer));
    }
    const steps = layers.flatMap((layer, number) => {
      const [from, to] = [first + number * each, first + (number + 1) * each].map(
        (index) => beats[index] ?? this.project.length,
      );
      return to - from > LEAST_S ? this.timing.spanSteps(layer.id, { from, to }) : [];
    });
    this.closeBeats();
    this.project.edit(`${layers.length} layers on the beats`, steps);
  }
}
