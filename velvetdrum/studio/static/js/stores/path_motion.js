// Layers led along a drawn path, as keyframes of their offset, and of their rotation where they turn with it.

import { affine, boundsOf } from "../lib/geometry.js";
import { clamp, roundTime } from "../lib/numbers.js";
import { boxOf, mapped, readOutline } from "../lib/outline_path.js";
import { walkAlong } from "../lib/path_walk.js";
import { partWith } from "../lib/studio_part.js";

const POINTS = 49;
const HOW = "Choose a shape with a path of one piece, drawn by pen, and the layers that are to move along it.";

export class PathMotion extends partWith(
  "kinds",
  "layerEdits",
  "layers",
  "manyLayers",
  "messages",
  "placement",
  "project",
  "settings",
  "timing",
) {
  /**
   * The outline that a layer draws, in pixels of the frame; null for one that draws none that can be followed.
   * @param {Layer} layer
   */
  outlineOf(layer) {
    const kind = this.kinds.find((known) => known.kind === layer.kind);
    const setting = kind && kind.drawnPath && kind.settings.find(({ name }) => name === kind.drawnPath);
    const lie = this.placement.lies[layer.id];
    if (!kind || !setting || !lie || !setting.when.every(([name, values]) => this.holds(layer, name, values)))
      return null;
    const outline = readOutline(String(layer.settings[setting.name] ?? setting.default));
    if (!outline) return null;
    const [width, height] = this.placement.stageSize;
    const [left, top, right, bottom] = boxOf(outline);
    const value = (/** @type {string} */ name) => this.placement.placeValue(layer, name);
    const scale = ((value("size") / 100) * Math.min(width, height)) / Math.max(right - left, bottom - top, 1e-9);
    const [x, y] = [(value("x") / 100) * width, (value("y") / 100) * height];
    const whole = affine.times(lie.above, lie.place);
    return mapped(outline, ([a, b]) =>
      affine.at(whole, [x + (a - (left + right) / 2) * scale, y + (b - (top + bottom) / 2) * scale]),
    );
  }

  /** @type {(layer: Layer, name: string, values: any[]) => boolean} */
  holds(layer, name, values) {
    return values.includes(this.settings.valueNow(layer, this.settings.settingOf(layer, name)));
  }

  /**
   * Lead the chosen layers along the path that is chosen with them, each over the time that it is there.
   * @param {boolean} turned they turn with the path
   */
  make(turned) {
    const { chosen } = this.manyLayers;
    const path = chosen.find((layer) => this.outlineOf(layer));
    const movers = chosen.filter((layer) => layer !== path && this.placement.lies[layer.id]);
    const outline = path && this.outlineOf(path);
    if (!path || !outline || !movers.length) {
      this.messages.tell(HOW);
      return;
    }
    if (this.layerEdits.refuseLocked(movers)) return;
    const walk = walkAlong(outline, POINTS);
    const name = movers.length > 1 ? `${movers.length} layers` : movers[0].name;
    this.project.edit(
      `${name} along ${path.name}`,
      movers.flatMap((layer) => this.stepsFor(layer, walk, turned)),
    );
  }

  /** @type {(layer: Layer, walk: {x: number, y: number, angle: number}[], turned: boolean) => any[]} */
  stepsFor(layer, walk, turned) {
    const { corners, above } = this.placement.lies[layer.id];
    const [left, top, right, bottom] = boundsOf(corners);
    const middle = [(left + right) / 2, (top + bottom) / 2];
    const back = affine.back([above[0], above[1], 0, above[3], above[4], 0]);
    const [width, height] = this.placement.stageSize;
    const now = (/** @type {string} */ name) => this.placement.placeValue(layer, name);
    const own = { move_x: now("move_x"), move_y: now("move_y"), spin: now("spin") };
    const { from, to } = this.timing.spanOf(layer);
    const base = `/layers/${this.layers.indexOf(layer.id)}/keyframes`;
    /** @type {Record<string, (place: {x: number, y: number, angle: number}) => number>} */
    const values = {
      move_x: ({ x, y }) => own.move_x + (affine.at(back, [x - middle[0], y - middle[1]])[0] / width) * 100,
      move_y: ({ x, y }) => own.move_y + (affine.at(back, [x - middle[0], y - middle[1]])[1] / height) * 100,
      ...(turned ? { spin: ({ angle }) => own.spin + angle } : {}),
    };
    return Object.entries(values).map(([name, valueAt]) => {
      const setting = this.settings.settingOf(layer, name);
      const value = walk.map((place, number) => ({
        time_s: roundTime(from + ((to - from) * number) / (walk.length - 1)),
        value: Math.round(clamp(valueAt(place), setting.lo, setting.hi) * 1e4) / 1e4,
        ease: "linear",
      }));
      return { op: "add", path: `${base}/${name}`, value };
    });
  }
}
