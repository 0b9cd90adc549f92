// Points, radii, sizes and angles of the open mask or effect, on the picture.

import { affine } from "../lib/geometry.js";
import { clamp } from "../lib/numbers.js";
import { boxOf, nearestEdge, outlinePath, outlinePoints } from "../lib/outline_path.js";
import { partWith } from "../lib/studio_part.js";

const TURN_SHARE = 0.16;
const EDGE_PX = 8;

export class PartPoints extends partWith(
  "layerEdits",
  "messages",
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
    const number = sort ? parts.shownParts.findIndex(({ id }) => id === parts.openPart) : -1;
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
    return { part, kind, setting, value, has };
  }

  /**
   * What leads from the frame in which the part lies to the picture.
   * @param {any} values
   */
  map({ kind, value }) {
    const lie = this.placement.lies[this.selection.chosen || ""];
    if (!lie) return [1, 0, 0, 0, 1, 0];
    return kind.follows && value(kind.follows) ? affine.times(lie.above, lie.place) : lie.above;
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

  /**
   * The corners of an outline of straight lines, about its middle, in pixels; null where there are none.
   * @param {any} open
   */
  outline(open) {
    const { kind, value, has } = open;
    const points = kind.corners && has(kind.corners) ? outlinePoints(value(kind.corners)) : null;
    if (!points) return null;
    const [left, top, right, bottom] = boxOf(points);
    const scale = (value("size") * this.short) / 100 / (Math.max(right - left, bottom - top) || 1);
    const [cos, sin] = this.turn(open);
    const middle = this.place(open, kind.points[0]);
    return points.map(([x, y]) => {
      const [u, v] = [(x - (left + right) / 2) * scale, (y - (top + bottom) / 2) * scale];
      return [middle[0] + u * cos - v * sin, middle[1] + u * sin + v * cos];
    });
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
    (this.outline(open) || []).forEach((at, index) => add(`corner ${index}`, at, `corner ${index + 1}`));
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
    if (word === "corner" && event.altKey) {
      this.removeCorner(open, Number(place));
      return false;
    }
    this.drag = { what, values: {}, outline: this.outline(open), map: affine.back(this.map(open)), last: null };
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
    if (word === "corner") {
      const points = this.drag.outline.map((/** @type {number} */ at, /** @type {number} */ index) =>
        index === Number(place) ? [x, y] : at,
      );
      return this.outlineValues(open, points);
    }
    const [cos, sin] = this.turn(open);
    const [u, v] = [Math.abs(dx * cos + dy * sin), Math.abs(dy * cos - dx * sin)];
    return { [kind.sizes[0]]: size(2 * u), [kind.sizes[1]]: size(2 * v) };
  }

  /**
   * An outline through points of the picture: its path, its middle and its size, so that no other point moves.
   * @param {any} open
   * @param {number[][]} points
   */
  outlineValues(open, points) {
    const { kind } = open;
    const [width, height] = this.placement.stageSize;
    const [cos, sin] = this.turn(open);
    const flat = points.map(([x, y]) => [x * cos + y * sin, y * cos - x * sin]);
    const [left, top, right, bottom] = boxOf(flat);
    const longer = Math.max(right - left, bottom - top, 1);
    const [u, v] = [(left + right) / 2, (top + bottom) / 2];
    const path = outlinePath(flat.map(([x, y]) => [((x - left) / longer) * 100, ((y - top) / longer) * 100]));
    const [x, y] = kind.points[0];
    return {
      [x]: ((u * cos - v * sin) / width) * 100,
      [y]: ((u * sin + v * cos) / height) * 100,
      size: (longer / this.short) * 100,
      [kind.corners]: path,
    };
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

  /** @param {number[]} point */
  move(point) {
    const { open } = this;
    if (!open || !this.drag) return;
    this.drag.values = this.values(open, this.drag.what, affine.at(this.drag.map, point));
    this.drag.last = this.steps(open, this.drag.values);
    this.project.tryOut(this.drag.last);
    this.views.handlesView.draw();
  }

  up() {
    const { last } = this.drag;
    this.drag = null;
    if (last) this.project.edit(`${this.parts.partTitle(/** @type {any} */ (this.open).part)}: handle`, last);
    this.views.handlesView.draw();
  }

  cancel() {
    this.drag = null;
    this.project.draft = null;
    this.stage.showStill();
  }

  /**
   * The edge of the open outline that a point of the picture lies at; null for none.
   * @param {number[]} point
   */
  edgeAt(point) {
    const { open } = this;
    const points = open && this.outline(open);
    if (!points) return null;
    const at = affine.at(affine.back(this.map(open)), point);
    const { edge, away } = nearestEdge(points, at);
    return away <= EDGE_PX * this.views.handlesView.unit ? { open, points, edge, at } : null;
  }

  /**
   * A corner more where the outline was double-clicked; true when it was.
   * @param {number[]} point
   */
  addCorner(point) {
    const found = this.edgeAt(point);
    if (!found) return false;
    const { open, points, edge, at } = found;
    const more = [...points.slice(0, edge + 1), at, ...points.slice(edge + 1)];
    this.project.edit("Add a corner", this.steps(open, this.outlineValues(open, more)));
    return true;
  }

  /**
   * @param {any} open
   * @param {number} index
   */
  removeCorner(open, index) {
    const points = /** @type {number[][]} */ (this.outline(open)).filter((_, number) => number !== index);
    if (points.length < 3) {
      this.messages.tell("An outline keeps three corners.");
      return;
    }
    this.project.edit("Remove a corner", this.steps(open, this.outlineValues(open, points)));
  }
}
