// The pen on the picture: an outline is drawn point by point, or in one stroke, and becomes a mask or a layer's path.

import { simplified } from "../lib/outline_edits.js";
import { affine } from "../lib/geometry.js";
import { newId } from "../lib/ids.js";
import { plain } from "../lib/json_patch.js";
import { mapped, writeOutline } from "../lib/outline_path.js";
import { partWith } from "../lib/studio_part.js";

const NEAR_PX = 9;
// How far a stroke by hand may lie from the points that it becomes, in pixels of the screen.
const STROKE_PX = 1.5;

/** @typedef {import("../lib/outline_path.js").Anchor} Anchor */

export class Pen extends partWith(
  "layerEdits",
  "messages",
  "outlines",
  "page",
  "partPoints",
  "parts",
  "placement",
  "project",
  "selection",
  "views",
) {
  on = false;
  /** @type {Anchor[]} */
  anchors = [];
  /** @type {{ steps: (values: Values) => Step[], map: number[], title: string } | null} */
  target = null;
  /** @type {{ stroke: number[][] | null } | null} what is pressed */
  held = null;

  /** The kind of part that is an outline, in the row on show; null for none. */
  get partKind() {
    const sort = this.parts.partSort;
    return (sort && sort.kinds.find(({ corners }) => corners)) || null;
  }

  /** A new mask is drawn. */
  beginPart() {
    const { layer } = this.selection;
    const kind = this.partKind;
    const sort = this.parts.partSort;
    if (!layer || !kind || !sort || this.layerEdits.refuseLocked()) return;
    const lie = this.placement.lies[layer.id];
    this.begin({
      title: `${layer.name}: ${sort.name} by pen`,
      map: lie ? affine.times(lie.above, lie.place) : [1, 0, 0, 0, 1, 0],
      steps: (/** @type {Values} */ values) => {
        const settings = Object.fromEntries(kind.settings.map((setting) => [setting.name, plain(setting.default)]));
        const part = { id: newId(), kind: kind.kind, on: true, settings: { ...settings, ...values } };
        this.parts.openPart = part.id;
        const path = `/layers/${this.selection.layerIndex}/${sort.listed}`;
        return [{ op: "add", path, value: plain([...this.parts.shownParts, part]) }];
      },
    });
  }

  /**
   * The outline of a setting is drawn anew.
   * @param {Setting} setting
   */
  beginSetting(setting) {
    const { open } = this.partPoints;
    if (this.on) {
      this.cancel();
      return;
    }
    if (!open || this.layerEdits.refuseLocked()) return;
    this.begin({
      title: `${open.title}: ${setting.label.toLowerCase()} by pen`,
      map: this.partPoints.map(open),
      steps: (/** @type {Values} */ values) => this.partPoints.steps(open, values),
    });
  }

  /** @param {any} target */
  begin(target) {
    this.target = target;
    this.anchors = [];
    this.on = true;
    this.page.refs.handles.classList.add("picking");
    this.page.refs.handles.focus({ preventScroll: true });
    this.messages.tell(
      "Press for corners, drag for curves; the first point or Enter closes it. Shift: in one stroke.",
    );
  }

  get unit() {
    return this.views.handlesView.unit;
  }

  /**
   * @param {number[]} point
   * @param {any} event
   */
  down(point, event) {
    if (!this.on) return false;
    const [first] = this.anchors;
    const away = first ? Math.hypot(point[0] - first.at[0], point[1] - first.at[1]) : Infinity;
    if (this.anchors.length > 2 && away < NEAR_PX * this.unit) {
      this.finish();
      return false;
    }
    this.held = { stroke: event.shiftKey && !first ? [point] : null };
    this.anchors = [...this.anchors, { at: point, in: null, out: null }];
    this.views.handlesView.draw();
    return true;
  }

  /** @param {number[]} point */
  gripMove(point) {
    const last = this.anchors[this.anchors.length - 1];
    if (!this.held || !last) return;
    if (this.held.stroke) {
      this.held.stroke.push(point);
    } else {
      const [x, y] = last.at;
      const far = Math.hypot(point[0] - x, point[1] - y) > 3 * this.unit;
      last.out = far ? point : null;
      last.in = far ? [2 * x - point[0], 2 * y - point[1]] : null;
    }
    this.views.handlesView.draw();
  }

  gripUp() {
    const { stroke } = this.held || {};
    this.held = null;
    if (stroke) {
      this.anchors = simplified(stroke, STROKE_PX * this.unit, true).anchors;
      this.finish();
    }
    this.views.handlesView.draw();
  }

  gripCancel() {
    this.held = null;
    this.cancel();
  }

  /**
   * Keys while an outline is drawn; true where one was for it.
   * @param {TypeEvent} event
   */
  key(event) {
    if (!this.on) return false;
    if (event.key === "Enter") this.finish();
    else if (event.key === "Escape") this.cancel();
    else if (event.key === "Backspace") this.anchors = this.anchors.slice(0, -1);
    else return false;
    event.preventDefault();
    event.stopPropagation();
    this.views.handlesView.draw();
    return true;
  }

  finish() {
    const { anchors, target } = this;
    this.leave();
    if (!target) return;
    if (anchors.length < 3) {
      this.messages.tell("An outline needs three points. Nothing was drawn.");
      return;
    }
    const back = affine.back(target.map);
    const outline = mapped({ anchors, closed: true }, (point) => affine.at(back, point));
    const kind = this.partKind || (this.partPoints.open && this.partPoints.open.kind);
    if (!kind) return;
    const values = /** @type {Values} */ (
      this.outlines.values({ kind: { ...kind, turns: "" }, value: () => 0 }, outline)
    );
    const drawn = kind.settings.find((/** @type {Setting} */ setting) => setting.name === kind.corners);
    for (const [name, [value]] of drawn ? drawn.when : []) values[String(name)] = value;
    if (kind.turns) values[kind.turns] = 0;
    this.project.edit(target.title, target.steps(values));
    this.views.handlesView.draw();
  }

  cancel() {
    this.leave();
    this.views.handlesView.draw();
  }

  leave() {
    this.on = false;
    this.anchors = [];
    this.target = null;
    this.page.refs.handles.classList.remove("picking");
  }

  /** The outline as far as it is drawn, as SVG path data in pixels of the frame. */
  get path() {
    if (this.held && this.held.stroke) return `M${this.held.stroke.map((point) => point.join(" ")).join("L")}`;
    return this.anchors.length > 1 ? writeOutline({ anchors: this.anchors, closed: false }) : "";
  }

  /** Its points, as those of parts: {what, at, title, from}. */
  get handles() {
    if (this.held && this.held.stroke) return [];
    return this.anchors.flatMap(({ at, out }, index) => [
      ...(out ? [{ what: `curve ${index} out`, at: out, title: "handle", from: at }] : []),
      { what: `corner ${index}`, at, title: index ? `point ${index + 1}` : "first point: closes it", from: null },
    ]);
  }
}
