// Points, radii, sizes, angles and outlines of the open mask or effect, or of the chosen layer itself, on the picture.

import { affine } from "../lib/geometry.js";
import { clamp } from "../lib/numbers.js";
import { turnedPoint, withHandle, withPoint } from "../lib/outline_edits.js";
import { partWith } from "../lib/studio_part.js";

const TURN_SHARE = 0.16;
const NO_PART = { points: [["x", "y"]], radii: [], sizes: [], follows: "" };

export class PartPoints extends partWith(
  "kinds",
  "layerEdits",
  "outlines",
  "parts",
  "placement",
  "project",
  "selection",
  "settings",
  "stage",
  "views",
) {
  /** @type {any} */
  drag = null; // {handle, values}

  /** The open part of the chosen layer with its kind and the values in force; null where none is handled. */
  get open() {
    const { parts, selection } = this;
    const sort = parts.partSort;
    if (!sort) return this.openLayer;
    const number = parts.shownParts.findIndex(({ id }) => id === parts.openPart);
    if (number < 0 || !selection.layer) return null;
    const part = parts.shownParts[number];
    const kind = parts.partKind(sort, part);
    if (!kind.points.length) return null;
    const setting = (/** @type {string} */ name) => parts.partSetting(selection.layer, sort, number, name);
    const tried = this.drag ? this.drag.values : {};
    const value = (/** @type {string} */ name) => tried[name] ?? this.settings.current(setting(name));
    const has = (/** @type {string} */ name) => {
      const found = kind.settings.find((candidate) => candidate.name === name);
      return Boolean(
        found &&
        found.when.every(([other, values]) => this.settings.holds(kind.settings, part.settings, other, values)),
      );
    };
    return { title: parts.partTitle(part), kind, setting, value, has };
  }

  /** The chosen layer, while its shape is open and is an outline; null otherwise. */
  get openLayer() {
    const { layer, tab, room } = this.selection;
    const kind = this.kinds.find((candidate) => layer && candidate.kind === layer.kind);
    if (!layer || !kind || !kind.drawnPath || room !== "picture" || tab !== "shape") return null;
    const setting = (/** @type {string} */ name) => this.settings.settingOf(layer, name);
    const tried = this.drag ? this.drag.values : {};
    const value = (/** @type {string} */ name) => tried[name] ?? this.settings.current(setting(name));
    const has = (/** @type {string} */ name) =>
      name === kind.drawnPath &&
      setting(name).when.every((/** @type {any[]} */ [other, values]) =>
        this.settings.holds(kind.settings, layer.settings, other, values),
      );
    const handled = { ...NO_PART, corners: kind.drawnPath, turns: kind.turned, settings: kind.settings };
    return { title: layer.name, kind: handled, setting, value, has };
  }

  /**
   * What leads from the frame in which the part lies to the picture.
   * @param {any} values
   */
  map({ kind, value }) {
    const lie = this.placement.lies[this.selection.chosen || ""];
    if (!lie) return [1, 0, 0, 0, 1, 0];
    const along = !this.parts.partSort || (kind.follows && value(kind.follows));
    return along ? affine.times(lie.above, lie.place) : lie.above;
  }

  /**
   * @param {any} values
   * @param {any} pair1
   */
  place({ value }, [x, y]) {
    const [width, height] = this.placement.stageSize;
    return [(value(x) / 100) * width, (value(y) / 100) * height];
  }

  get short() {
    return Math.min(...this.placement.stageSize);
  }

  /** @param {any} values */
  turn({ kind, value }) {
    const angle = kind.turns ? (value(kind.turns) * Math.PI) / 180 : 0;
    return [Math.cos(angle), Math.sin(angle)];
  }

  /** All handles in pixels of the frame on show: {what, at, title, from}. */
  get handles() {
    const { open } = this;
    if (!open || !this.placement.handlesShown) return [];
    const { kind, value, has } = open;
    const map = this.map(open);
    const middle = this.place(open, kind.points[0]);
    const [cos, sin] = this.turn(open);
    /** @type {any[]} */
    const found = [];
    const add = (
      /** @type {string} */ what,
      /** @type {any} */ at,
      /** @type {string} */ title,
      /** @type {any} */ from = null,
    ) => found.push({ what, title, at: affine.at(map, at), from: from && affine.at(map, from) });
    for (const name of kind.radii.filter(has)) {
      const far = (value(name) * this.short) / 100;
      add(`radius ${name}`, [middle[0] + far, middle[1]], name, middle);
    }
    if (kind.sizes.length && kind.sizes.every(has)) {
      const [w, h] = kind.sizes.map((name) => (value(name) * this.short) / 200);
      add("size", [middle[0] + w * cos - h * sin, middle[1] + w * sin + h * cos], "size");
    }
    if (kind.turns && has(kind.turns)) {
      const far = this.short * TURN_SHARE;
      add("turn", [middle[0] + far * cos, middle[1] + far * sin], kind.turns, middle);
    }
    this.outlines.outline(open)?.anchors.forEach(({ at, in: before, out }, index) => {
      if (before) add(`curve ${index} in`, before, `handle before point ${index + 1}`, at);
      if (out) add(`curve ${index} out`, out, `handle after point ${index + 1}`, at);
      add(`corner ${index}`, at, `point ${index + 1}`);
    });
    kind.points.forEach(([x, y], index) => {
      if (has(x) && has(y)) add(`point ${index}`, this.place(open, [x, y]), "position");
    });
    return found;
  }

  /**
   * True when a handle, or an edge of the outline, is taken.
   * @param {string} what
   * @param {number[]} point
   * @param {any} event
   */
  down(what, point, event) {
    const { open } = this;
    if (!open || this.layerEdits.refuseLocked()) return false;
    const [word, place] = what.split(" ");
    // A second press on a point turns it from a corner into a smooth one, and back.
    if (word === "corner" && event.detail === 2) {
      this.outlines.change(open, "turn a point", (outline) => turnedPoint(outline, Number(place)));
      return false;
    }
    if (word === "corner" && event.altKey) {
      this.outlines.removePoint(open, Number(place));
      return false;
    }
    this.drag = {
      what,
      values: {},
      outline: this.outlines.outline(open),
      map: affine.back(this.map(open)),
      last: null,
    };
    return true;
  }

  /**
   * The values that a drag gives.
   * @param {number[]} at
   */
  values(/** @type {any} */ open, /** @type {string} */ what, at) {
    const [x, y] = at;
    const { kind } = open;
    const [width, height] = this.placement.stageSize;
    const [word, place] = what.split(" ");
    const middle = this.place(open, kind.points[0]);
    const [dx, dy] = [x - middle[0], y - middle[1]];
    const size = (/** @type {any} */ pixels) => (pixels / this.short) * 100;
    if (word === "point") {
      const [across, down] = kind.points[Number(place)];
      return { [across]: (x / width) * 100, [down]: (y / height) * 100 };
    }
    if (word === "radius") return { [place]: size(Math.hypot(dx, dy)) };
    if (word === "turn") return { [kind.turns]: Math.round((Math.atan2(dy, dx) * 1800) / Math.PI) / 10 };
    if (word === "corner") return this.outlines.values(open, withPoint(this.drag.outline, Number(place), at));
    if (word === "curve") {
      const [, , side] = what.split(" ");
      return this.outlines.values(
        open,
        withHandle(this.drag.outline, Number(place), /** @type {any} */ (side), at, this.drag.alone),
      );
    }
    const [cos, sin] = this.turn(open);
    const [u, v] = [Math.abs(dx * cos + dy * sin), Math.abs(dy * cos - dx * sin)];
    return { [kind.sizes[0]]: size(2 * u), [kind.sizes[1]]: size(2 * v) };
  }

  /**
   * @param {any} open
   * @param {Values} values
   */
  steps(open, values) {
    const entries = Object.entries(values).map(([name, value]) => {
      const setting = open.setting(name);
      const kept = typeof value === "number" ? Math.round(clamp(value, setting.lo, setting.hi) * 1e4) / 1e4 : value;
      return { setting, value: kept };
    });
    return this.settings.stepsForMany(this.selection.layer, entries);
  }

  /**
   * @param {number[]} point
   * @param {any} [event]
   */
  move(point, event) {
    const { open } = this;
    if (!open || !this.drag) return;
    this.drag.alone = Boolean(event && event.altKey);
    this.drag.values = this.values(open, this.drag.what, affine.at(this.drag.map, point));
    this.drag.last = this.steps(open, this.drag.values);
    this.project.tryOut(this.drag.last);
    this.views.handlesView.draw();
  }

  up() {
    const { last } = this.drag;
    this.drag = null;
    if (last) this.project.edit(`${/** @type {any} */ (this.open).title}: handle`, last);
    this.views.handlesView.draw();
  }

  cancel() {
    this.drag = null;
    this.project.draft = null;
    this.stage.showStill();
  }
}
