// The outline of the open mask, or of the chosen layer itself, on the picture: its points are handled one by one.

import { reversed, splitEdge, withoutPoint } from "../lib/outline_edits.js";
import { affine } from "../lib/geometry.js";
import { boxOf, mapped, nearestEdge, readOutline, writeOutline } from "../lib/outline_path.js";
import { partWith } from "../lib/studio_part.js";

const EDGE_PX = 8;

export class OutlinePoints extends partWith("messages", "partPoints", "placement", "project", "views") {
  /**
   * The outline about its middle, in pixels; null where there is none that can be handled point by point.
   * @param {any} open
   */
  outline(open) {
    const { kind, value, has } = open;
    const outline = kind.corners && has(kind.corners) ? readOutline(value(kind.corners)) : null;
    if (!outline) return null;
    const [left, top, right, bottom] = boxOf(outline);
    const scale = (value("size") * this.partPoints.short) / 100 / (Math.max(right - left, bottom - top) || 1);
    const [cos, sin] = this.partPoints.turn(open);
    const middle = this.partPoints.place(open, kind.points[0]);
    return mapped(outline, ([x, y]) => {
      const [u, v] = [(x - (left + right) / 2) * scale, (y - (top + bottom) / 2) * scale];
      return [middle[0] + u * cos - v * sin, middle[1] + u * sin + v * cos];
    });
  }

  /**
   * An outline of the picture: its path, its middle and its size, so that no other point moves.
   * @param {any} open
   * @param {import("../lib/outline_path.js").Outline} outline
   */
  values(open, outline) {
    const { kind } = open;
    const [width, height] = this.placement.stageSize;
    const [cos, sin] = this.partPoints.turn(open);
    const flat = mapped(outline, ([x, y]) => [x * cos + y * sin, y * cos - x * sin]);
    const [left, top, right, bottom] = boxOf(flat);
    const longer = Math.max(right - left, bottom - top, 1);
    const [u, v] = [(left + right) / 2, (top + bottom) / 2];
    const path = writeOutline(mapped(flat, ([x, y]) => [((x - left) / longer) * 100, ((y - top) / longer) * 100]));
    const [x, y] = kind.points[0];
    return {
      [x]: ((u * cos - v * sin) / width) * 100,
      [y]: ((u * sin + v * cos) / height) * 100,
      size: (longer / this.partPoints.short) * 100,
      [kind.corners]: path,
    };
  }

  get isHandled() {
    const { open } = this.partPoints;
    return Boolean(open && this.outline(open));
  }

  /** The order of its points turned round: a stroke on it runs the other way. */
  reverse() {
    const { open } = this.partPoints;
    if (open) this.change(open, "reverse", reversed);
  }

  /**
   * The edge of the open outline that a point of the picture lies at; null for none.
   * @param {number[]} point
   */
  edgeAt(point) {
    const { open } = this.partPoints;
    const outline = open && this.outline(open);
    if (!outline) return null;
    const at = affine.at(affine.back(this.partPoints.map(open)), point);
    const { edge, t, away } = nearestEdge(outline, at);
    return away <= EDGE_PX * this.views.handlesView.unit ? { open, edge, t } : null;
  }

  /**
   * A point more where the outline was double-clicked; true when it was.
   * @param {number[]} point
   */
  addPoint(point) {
    const found = this.edgeAt(point);
    if (!found) return false;
    const { open, edge, t } = found;
    this.change(open, "add a point", (outline) => splitEdge(outline, edge, t));
    return true;
  }

  /**
   * @param {any} open
   * @param {string} label
   * @param {(outline: import("../lib/outline_path.js").Outline) => import("../lib/outline_path.js").Outline} change
   */
  change(open, label, change) {
    const outline = this.outline(open);
    if (!outline) return;
    this.project.edit(`${open.title}: ${label}`, this.partPoints.steps(open, this.values(open, change(outline))));
    this.views.handlesView.draw();
  }

  /**
   * @param {any} open
   * @param {number} index
   */
  removePoint(open, index) {
    this.change(open, "remove a point", (outline) => {
      const left = withoutPoint(outline, index);
      if (left === outline) this.messages.tell("An outline keeps three points.");
      return left;
    });
  }
}
