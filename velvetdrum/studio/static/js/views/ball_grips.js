// Balls of the chosen layer on the picture: their middles are dragged, and their radii.

import { clamp } from "../lib/numbers.js";
import { onPlane, projected, projectionRows } from "../lib/projection.js";
import { partWith } from "../lib/studio_part.js";

const LEAST = 3; // per cent of the short side that the two handles of a ball lie apart at the least

export class BallGrips extends partWith(
  "kinds",
  "layerEdits",
  "placement",
  "project",
  "selection",
  "settings",
  "stage",
  "views",
) {
  /** @type {any} */
  held = null;

  /** The chosen layer, where it has balls; null otherwise. */
  get layer() {
    const { layer, tab, room } = this.selection;
    return layer && room === "picture" && tab === "motion" && this.ballsOf(layer).length ? layer : null;
  }

  /** @param {Layer} layer */
  ballsOf(layer) {
    const kind = /** @type {LayerKind} */ (this.kinds.find((candidate) => candidate.kind === layer.kind));
    return kind ? kind.balls : [];
  }

  get unit() {
    return Math.min(...this.placement.stageSize) / 100;
  }

  /**
   * Where a ball is seen: its middle and its radius in pixels, and the pixels of a per cent there. Null where it lies
   * behind the camera, or its handles are not known yet.
   * @param {Layer} layer
   * @param {number} index
   */
  place(layer, index) {
    const [x, y, radius, z] = this.ballsOf(layer)[index].map((name) => this.placement.placeValue(layer, name));
    const rows = projectionRows(this.placement.lies[layer.id]);
    const seen = rows && projected(rows, [x, y, z || 0]);
    return seen && { at: seen.at, far: radius * seen.scale, scale: seen.scale, z: z || 0, rows };
  }

  /** Handles as those of parts: {what, at, title, from}. */
  get handles() {
    const { layer } = this;
    if (!layer || !this.placement.handlesShown) return [];
    return this.ballsOf(layer).flatMap(([, , radius], index) => {
      const seen = this.place(layer, index);
      if (!seen) return [];
      const { at, far } = seen;
      const edge = [at[0] + Math.max(far, LEAST * this.unit), at[1]];
      return [
        { what: `ball ${index} radius`, at: edge, title: radius, from: at },
        { what: `ball ${index} middle`, at, title: "position", from: null },
      ];
    });
  }

  /** @param {string} what */
  down(what) {
    const [word, index, which] = what.replace("part:", "").split(" ");
    const { layer } = this;
    if (word !== "ball" || !layer || this.layerEdits.refuseLocked()) return false;
    this.held = { layer, index: Number(index), what: which, steps: null };
    return true;
  }

  /** @param {number[]} point */
  gripMove(point) {
    const { layer, index, what } = this.held;
    const [x, y, radius] = this.ballsOf(layer)[index];
    const seen = this.place(layer, index);
    if (!seen) return;
    const { at, scale, z, rows } = seen;
    const found = what === "middle" ? onPlane(rows, point, z) : null;
    if (what === "middle" && !found) return;
    const values = found
      ? { [x]: found[0], [y]: found[1] }
      : { [radius]: Math.hypot(point[0] - at[0], point[1] - at[1]) / scale };
    this.held.steps = this.stepsOf(layer, values);
    this.project.tryOut(this.held.steps);
    this.views.handlesView.draw();
  }

  gripUp() {
    const { layer, steps } = this.held;
    this.held = null;
    if (steps) this.project.edit(`Ball of ${layer.name}`, steps);
    this.views.handlesView.draw();
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
}
