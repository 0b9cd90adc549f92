// Colours of the chosen layer on the picture, while its colours are open: where its gradient lies, and the levels at
// which a meter's colours change.

import { affine } from "../lib/geometry.js";
import { clamp } from "../lib/numbers.js";
import { partWith } from "../lib/studio_part.js";
import { isEdgeEnd, moved } from "../lib/stops.js";

const HALF_TURN = 180;

export class ColourGrips extends partWith(
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

  /** The chosen layer with its kind and how it lies; null where its colours are not open, or it is not seen. */
  get open() {
    const { layer, tab, room } = this.selection;
    if (!layer || room !== "picture" || tab !== "colour" || !this.placement.handlesShown) return null;
    const kind = /** @type {LayerKind} */ (this.kinds.find((candidate) => candidate.kind === layer.kind));
    const lie = this.placement.lies[layer.id];
    return kind && lie ? { layer, kind, lie, map: affine.times(lie.above, lie.place) } : null;
  }

  /**
   * Whether a setting has a part in the layer as its other settings are.
   * @param {any} open
   * @param {string} name
   */
  has({ layer, kind }, name) {
    const setting = kind.settings.find((/** @type {Setting} */ candidate) => candidate.name === name);
    return Boolean(setting) && this.meets(kind, layer, setting.when);
  }

  /**
   * @param {LayerKind} kind
   * @param {Layer} layer
   * @param {any[]} when
   */
  meets(kind, layer, when) {
    return when.every(([name, values]) => this.settings.holds(kind.settings, layer.settings, name, values));
  }

  get short() {
    return Math.min(...this.placement.stageSize) / 100;
  }

  /**
   * @param {any} open
   * @param {string[]} pair
   */
  point({ layer }, [x, y]) {
    const [width, height] = this.placement.stageSize;
    return [
      (this.placement.placeValue(layer, x) / 100) * width,
      (this.placement.placeValue(layer, y) / 100) * height,
    ];
  }

  /** Handles as those of parts: {what, at, title, from}. */
  get handles() {
    const { open } = this;
    if (!open) return [];
    return [...this.gradientHandles(open), ...this.levelHandles(open)].map(({ at, from, ...handle }) => ({
      ...handle,
      at: affine.at(open.map, at),
      from: from && affine.at(open.map, from),
    }));
  }

  /** @param {any} open */
  gradientHandles(open) {
    const { gradientPlace: gradient } = open.kind;
    if (!gradient || !gradient.points.every((/** @type {string[]} */ [x]) => this.has(open, x))) return [];
    const points = gradient.points.map((/** @type {string[]} */ pair) => this.point(open, pair));
    const names = points.length > 1 ? ["start of the gradient", "end of the gradient"] : ["middle of the gradient"];
    /** @type {any[]} */
    const out = points.map((/** @type {number[]} */ at, /** @type {number} */ index) => ({
      what: `colour point ${index}`,
      at,
      title: names[index],
      from: index ? points[0] : null,
    }));
    const turned = gradient.turn && this.has(open, gradient.turn);
    const sized = gradient.size && this.has(open, gradient.size);
    if (turned || sized) {
      const angle = turned ? (this.placement.placeValue(open.layer, gradient.turn) / HALF_TURN) * Math.PI : 0;
      const far = (sized ? this.placement.placeValue(open.layer, gradient.size) / 2 : 20) * this.short;
      const [x, y] = points[0];
      const at = [x + Math.sin(angle) * far, y - Math.cos(angle) * far];
      out.push({ what: "colour end", at, title: "end of the gradient: its size and angle", from: points[0] });
    }
    return out;
  }

  /** @param {any} open */
  levelHandles({ layer, kind, lie, map }) {
    const { levelScale: levels } = kind;
    if (!levels || !lie.axis) return [];
    const [[x0, y0], [x1, y1]] = lie.axis;
    const at = (/** @type {number} */ share) => [x0 + (x1 - x0) * share, y0 + (y1 - y0) * share];
    const [low, high] = [levels.low, levels.high].map((name) => this.placement.placeValue(layer, name));
    const marks = levels.marks
      .filter((/** @type {string} */ name) => this.has({ layer, kind, lie, map }, name))
      .map((/** @type {string} */ name) => ({
        what: `colour mark ${name}`,
        at: at(clamp((this.placement.placeValue(layer, name) - low) / (high - low), 0, 1)),
        title: this.settings.settingOf(layer, name).label,
        from: null,
      }));
    if (!levels.stops || !this.meets(kind, layer, levels.stops_when)) return marks;
    const stops = this.stopsNow(layer, levels.stops);
    return [
      ...marks,
      ...stops.flatMap((/** @type {Stop} */ stop, /** @type {number} */ index) =>
        isEdgeEnd(stops, index)
          ? []
          : [{ what: `colour stop ${index}`, at: at(stop.at), title: `stop ${index + 1}`, from: null }],
      ),
    ];
  }

  /**
   * The stops as they are, or as they are dragged.
   * @param {Layer} layer
   * @param {string} name
   */
  stopsNow(layer, name) {
    return (this.held && this.held.stops) || this.settings.current(this.settings.settingOf(layer, name));
  }

  /** @param {string} what */
  down(what) {
    const [part, word, which] = what.split(" ");
    const { open } = this;
    if (part !== "part:colour" || !open || this.layerEdits.refuseLocked()) return false;
    this.held = { ...open, word, which, back: affine.back(open.map), steps: null, stops: null };
    if (word === "stop") {
      const { name } = this.settings.settingOf(open.layer, open.kind.levelScale?.stops || "");
      Object.assign(this.held, { stops: this.stopsNow(open.layer, name), index: Number(which) });
    }
    return true;
  }

  /** @param {number[]} point */
  gripMove(point) {
    const { held } = this;
    const values = this.valuesAt(held, affine.at(held.back, point));
    const entries = Object.entries(values).map(([name, value]) => {
      const setting = this.settings.settingOf(held.layer, name);
      const step = setting.step || 0.01;
      const kept = typeof value === "number" ? clamp(Math.round(value / step) * step, setting.lo, setting.hi) : value;
      return { setting, value: typeof kept === "number" ? Math.round(kept * 1e4) / 1e4 : kept };
    });
    held.steps = this.settings.stepsForMany(held.layer, entries);
    this.project.tryOut(held.steps);
    this.views.handlesView.draw();
  }

  /**
   * The values that a drag to a point gives.
   * @param {any} held
   * @param {number[]} at
   * @returns {Record<string, any>}
   */
  valuesAt(held, [x, y]) {
    const { layer, kind, lie, word, which } = held;
    const [width, height] = this.placement.stageSize;
    if (word === "point") {
      const [across, down] = kind.gradientPlace.points[Number(which)];
      return { [across]: (x / width) * 100, [down]: (y / height) * 100 };
    }
    if (word === "end") {
      const { points, size, turn } = kind.gradientPlace;
      const [mx, my] = this.point(held, points[0]);
      const out = /** @type {Record<string, any>} */ ({});
      if (this.has(held, size)) out[size] = (Math.hypot(x - mx, y - my) * 2) / this.short;
      if (this.has(held, turn)) out[turn] = (Math.atan2(x - mx, my - y) / Math.PI) * HALF_TURN;
      return out;
    }
    const [[x0, y0], [x1, y1]] = lie.axis;
    const share = ((x - x0) * (x1 - x0) + (y - y0) * (y1 - y0)) / ((x1 - x0) ** 2 + (y1 - y0) ** 2 || 1);
    if (word === "stop") {
      Object.assign(held, moved(held.stops, held.index, Math.round(share * 1000) / 1000));
      return { [kind.levelScale.stops]: held.stops };
    }
    const { low, high, marks } = kind.levelScale;
    const [from, to] = [low, high].map((name) => this.placement.placeValue(layer, name));
    // The levels keep their order.
    const place = marks.indexOf(which);
    const other = (/** @type {number} */ index, /** @type {number} */ otherwise) =>
      marks[index] === undefined ? otherwise : this.placement.placeValue(layer, marks[index]);
    return { [which]: clamp(from + (to - from) * share, other(place - 1, from), other(place + 1, to)) };
  }

  gripUp() {
    const { layer, steps } = this.held;
    this.held = null;
    if (steps) this.project.edit(`Colours of ${layer.name}`, steps);
    this.views.handlesView.draw();
  }

  gripCancel() {
    this.held = this.project.draft = null;
    this.stage.showStill();
  }
}
