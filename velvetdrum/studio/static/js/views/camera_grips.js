// A camera handled on the picture: dragged round what it looks at, brought nearer by the wheel, moved by keys.

import { clamp } from "../lib/numbers.js";
import { partWith } from "../lib/studio_part.js";

const TURN = 180; // degrees that a drag over the frame's width turns it
const LATER = 250;

export class CameraGrips extends partWith(
  "dropper",
  "layers",
  "placement",
  "project",
  "selection",
  "settings",
  "stage",
) {
  /** @type {any} */
  held = null;
  /** @type {any} what the wheel has asked for and is not kept yet */
  pending = null;

  /** The chosen layer, where it has a camera; null otherwise. */
  get layer() {
    const { layer } = this.selection;
    return layer && this.layers.cameraOf(layer) ? layer : null;
  }

  get names() {
    return this.layers.cameraOf(this.layer);
  }

  /** @param {Layer} layer */
  valuesOf(layer) {
    return Object.fromEntries(
      Object.values(this.layers.cameraOf(layer) || {}).map((name) => [name, this.placement.placeValue(layer, name)]),
    );
  }

  /**
   * @param {string} what
   * @param {number[]} point
   * @param {TypeEvent} event
   */
  down(what, point, event) {
    const { layer } = this;
    const other = what || event.ctrlKey || event.metaKey || event.shiftKey || this.dropper.waiting;
    if (!layer || layer.locked || other || !this.placement.handlesShown) return false;
    this.held = { layer, begin: point, values: this.valuesOf(layer), steps: null };
    return true;
  }

  /** @param {number[]} point */
  gripMove(point) {
    const { layer, begin, values } = this.held;
    const { across, up } = /** @type {any} */ (this.layers.cameraOf(layer));
    const scale = TURN / this.placement.stageSize[0];
    this.held.steps = this.stepsOf(layer, {
      [across]: values[across] - (point[0] - begin[0]) * scale,
      [up]: values[up] + (point[1] - begin[1]) * scale,
    });
    this.project.tryOut(this.held.steps);
  }

  gripUp() {
    const { layer, steps } = this.held;
    this.held = null;
    if (steps) this.project.edit(`Orbit ${layer.name}`, steps);
  }

  gripCancel() {
    this.held = this.project.draft = null;
    this.stage.showStill();
  }

  /**
   * @param {Layer} layer
   * @param {Values} values
   */
  stepsOf(layer, values) {
    const entries = Object.entries(values).map(([name, value]) => {
      const setting = this.settings.settingOf(layer, name);
      return { setting, value: Math.round(clamp(value, setting.lo, setting.hi) * 100) / 100 };
    });
    return this.settings.stepsForMany(layer, entries);
  }

  /**
   * The wheel brings it nearer or farther; what it came to is one edit.
   * @param {WheelEvent} event
   */
  wheel(event) {
    const { layer } = this;
    if (!layer || layer.locked || this.selection.room !== "picture") return;
    event.preventDefault();
    const { near } = /** @type {any} */ (this.names);
    const now = this.pending ? this.pending.value : this.valuesOf(layer)[near];
    const value = now * Math.exp(clamp(event.deltaY, -200, 200) / 600);
    const steps = this.stepsOf(layer, { [near]: value });
    if (this.pending) clearTimeout(this.pending.timer);
    this.pending = { value, timer: setTimeout(() => this.settle(layer, steps), LATER) };
    this.project.tryOut(steps);
  }

  /**
   * @param {Layer} layer
   * @param {Step[]} steps
   */
  settle(layer, steps) {
    this.pending = null;
    this.project.edit(`Distance of ${layer.name}`, steps);
  }

  /**
   * Arrows on the picture orbit it; with Alt, up and down bring it nearer and farther. True when they were for it.
   * @param {TypeEvent} event
   */
  key(event) {
    const { layer } = this;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!layer || !way) return false;
    const by = event.shiftKey ? 15 : 3;
    const values = this.valuesOf(layer);
    const { across, up, near } = /** @type {any} */ (this.names);
    const change =
      event.altKey && way[1]
        ? { [near]: values[near] * (way[1] > 0 ? 1 / 1.06 : 1.06) }
        : { [across]: values[across] + way[0] * by, [up]: values[up] + way[1] * by };
    this.project.edit(`Camera of ${layer.name}`, this.stepsOf(layer, change));
    return true;
  }
}
