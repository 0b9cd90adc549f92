// Layers taken hold of on the picture: chosen by click, moved, sized and turned.

import { plain } from "../lib/json_patch.js";
import { clamp } from "../lib/numbers.js";
import { affine, anchorAt, cornersOf, inside, sideOf } from "../lib/geometry.js";
import { partWith } from "../lib/studio_part.js";

export class LayerGrips extends partWith(
  "dropper",
  "kinds",
  "layerEdits",
  "layers",
  "outlines",
  "partPoints",
  "placement",
  "project",
  "selection",
  "settings",
  "snapping",
  "stage",
  "views",
) {
  /** @type {(what: string, point: number[], event: TypeEvent) => any} */
  gripDown(what, point, event) {
    if (!this.placement.handlesShown) return false;
    if (this.dropper.waiting) {
      this.dropper.pick(point);
      return false;
    }
    if (what.startsWith("part:")) return this.partPoints.down(what.slice(5), point, event);
    // A click on an open outline is for that, not for what lies under it.
    if (!what && this.outlines.edgeAt(point)) return false;
    if (!what) {
      const found = this.hitLayers(point);
      const add = event.ctrlKey || event.metaKey || event.shiftKey;
      const first = found[0];
      if (!first) {
        if (!add) this.selection.also = [];
        this.views.handlesView.draw();
        return false;
      }
      const own = this.selection.selected.some((id) => found.some((layer) => layer.id === id));
      if (add) {
        this.selection.pick(first, event);
        return false;
      }
      // What fills the frame is chosen by a click, and moved only once it is chosen.
      if (!own || (this.placement.coversAll(this.selection.chosen) && !this.placement.coversAll(first.id))) {
        this.selection.choose(first);
        if (this.placement.coversAll(first.id)) return false;
      }
    }
    const layers = this.selection.selected
      .map((id) => this.layers.byId(id))
      .filter((layer) => this.placement.lies[layer.id]);
    if (!layers.length || this.layerEdits.refuseLocked(layers)) return false;
    this.placement.grip = {
      what: what || "move",
      begin: point,
      layers: layers.map((layer) => ({
        layer,
        start: plain(this.placement.lies[layer.id]),
        values: this.placement.placeValues(layer),
      })),
      last: null,
    };
    return true;
  }

  /**
   * Layers under a point, what fills the frame last; members of a group stand for their group.
   * @param {number[]} point
   */
  hitLayers(point) {
    const found = this.layers.layersFrontFirst.filter((layer) => {
      const lie = this.placement.lies[layer.id];
      return lie && lie.shown && inside(lie.corners, point) && !layer.locked;
    });
    const tops = [...new Set(found.map((layer) => this.topOf(layer)))].filter((layer) => !layer.locked);
    return [
      ...tops.filter((layer) => !this.placement.coversAll(layer.id)),
      ...tops.filter((layer) => this.placement.coversAll(layer.id)),
    ];
  }

  /**
   * The outermost group that a layer is in, unless the choice is inside of it already.
   * @param {Layer} layer
   */
  topOf(layer) {
    let top = layer;
    const within = new Set();
    for (
      let group = this.selection.layer && this.layers.groupOf(this.selection.layer);
      group;
      group = this.layers.groupOf(this.layers.byId(group) || {})
    )
      within.add(group);
    for (
      let group = this.layers.groupOf(layer);
      group && !within.has(group);
      group = this.layers.groupOf(this.layers.byId(group) || {})
    )
      top = this.layers.byId(group);
    return top;
  }

  /** @type {(point: number[], event: PressEvent) => any} */
  gripMove(point, event) {
    if (this.partPoints.drag) {
      this.partPoints.move(point, event);
      return;
    }
    const grip = this.placement.grip;
    if (!grip) return;
    const by = [point[0] - grip.begin[0], point[1] - grip.begin[1]];
    if (!grip.last && Math.hypot(by[0], by[1]) < 3 * this.views.handlesView.unit) return;
    this.placement.snapLines = [];
    const steps = [];
    if (grip.what === "move") {
      const [dx, dy] = event.altKey ? by : this.snapping.moved(grip, by, event.shiftKey);
      for (const item of grip.layers) steps.push(...this.placement.shiftSteps2d(item, dx, dy));
    } else {
      const [item] = grip.layers;
      const index = Number(grip.what.split("-")[1]);
      const upright = Math.abs(item.start.place[1]) < 1e-6;
      const place = index >= 0 && upright && !event.altKey ? this.snapping.sized(grip, index, point) : point;
      const values =
        grip.what === "turn"
          ? this.turned(item, point, event)
          : grip.what === "anchor"
            ? this.anchored(item, point)
            : this.sized(item, index, place, event);
      steps.push(...this.placement.valueSteps(item.layer, values));
    }
    grip.last = steps;
    this.project.tryOut(steps);
    this.views.handlesView.draw();
  }

  gripUp() {
    if (this.partPoints.drag) {
      this.partPoints.up();
      return;
    }
    const grip = this.placement.grip;
    this.placement.grip = null;
    this.placement.snapLines = [];
    this.placement.tried = {};
    if (grip && grip.last) {
      const words = { move: "Move", turn: "Rotate", anchor: "Anchor of" };
      const name = grip.layers.length > 1 ? `${grip.layers.length} layers` : grip.layers[0].layer.name;
      this.project.edit(`${/** @type {Record<string, any>} */ (words)[grip.what] || "Scale"} ${name}`, grip.last);
    }
    this.views.handlesView.draw();
  }

  gripCancel() {
    if (this.partPoints.drag) {
      this.partPoints.cancel();
      return;
    }
    this.placement.grip = this.project.draft = null;
    this.placement.snapLines = [];
    this.placement.tried = {};
    this.stage.showStill();
    this.placement.loadHandles();
  }

  /**
   * The settings that say how large a layer is by itself, where it is not scaled: across and down, or one for both.
   * @param {Layer} layer
   */
  ownSize(layer) {
    const kind = /** @type {LayerKind} */ (this.kinds.find((candidate) => candidate.kind === layer.kind));
    const now = new Proxy({}, { get: (_, name) => this.placement.placeValue(layer, name) });
    const found = kind.sizings.find((sizing) =>
      sizing.when.every(([name, values]) => this.settings.holds(kind.settings, now, name, values)),
    );
    if (!found) return null;
    return found.both.length ? { both: found.both } : { across: found.across, down: found.down };
  }

  /** @type {(item: any, index: number, point: number[], event: PressEvent) => any} */
  sized(item, index, point, event) {
    const { layer, start, values } = item;
    const [u, v] = sideOf(index);
    const [left, top, right, bottom] = start.box;
    const at = (/** @type {number} */ a, /** @type {number} */ b) => [
      left + (right - left) * a,
      top + (bottom - top) * b,
    ];
    const [grip, held] = [at(u, v), event.altKey ? at(0.5, 0.5) : at(1 - u, 1 - v)];
    const q = affine.at(affine.back(affine.times(start.above, start.place)), point);
    const span = [grip[0] - held[0], grip[1] - held[1]];
    let [rx, ry] = [span[0] ? (q[0] - held[0]) / span[0] : 1, span[1] ? (q[1] - held[1]) / span[1] : 1];
    const own = this.placement.isAtRest(start.place) ? this.ownSize(layer) : null;
    const corner = u !== 0.5 && v !== 0.5;
    if (corner && (!event.shiftKey || (own && own.both)))
      rx = ry = ((q[0] - held[0]) * span[0] + (q[1] - held[1]) * span[1]) / (span[0] ** 2 + span[1] ** 2);
    else if (own && own.both) rx = ry = u === 0.5 ? ry : rx;
    [rx, ry] = [Math.max(rx, 0.02), Math.max(ry, 0.02)];
    const grown = [
      held[0] + (left - held[0]) * rx,
      held[1] + (top - held[1]) * ry,
      held[0] + (right - held[0]) * rx,
      held[1] + (bottom - held[1]) * ry,
    ];
    if (own) {
      item.size ||= Object.fromEntries(
        [...(own.both || []), ...(own.across || []), ...(own.down || []), "x", "y"].map((name) => [
          name,
          this.placement.placeValue(layer, name),
        ]),
      );
      /** @type {Values} */
      const out = {};
      for (const name of own.both || []) out[name] = item.size[name] * rx;
      for (const name of own.across || []) out[name] = item.size[name] * rx;
      for (const name of own.down || []) out[name] = item.size[name] * ry;
      const [width, height] = this.placement.stageSize;
      out.x = item.size.x + ((grown[0] + grown[2] - left - right) / 2 / width) * 100;
      out.y = item.size.y + ((grown[1] + grown[3] - top - bottom) / 2 / height) * 100;
      this.placement.showMoved(item, start.place, grown);
      return out;
    }
    const changed = {
      ...this.placement.anchoredAtRest(item),
      scale_x: clamp(values.scale_x * rx, 1, 400),
      scale_y: clamp(values.scale_y * ry, 1, 400),
    };
    return this.placement.heldAt(item, changed, held);
  }

  /** @type {(item: any, point: number[], event: PressEvent) => any} */
  turned(item, point, event) {
    const { layer, start, values } = item;
    const [left, top, right, bottom] = start.box;
    const middle = [(left + right) / 2, (top + bottom) / 2];
    const whole = affine.times(start.above, start.place);
    const centre = affine.at(whole, middle);
    const angle = (/** @type {any} */ p) => Math.atan2(p[1] - centre[1], p[0] - centre[0]);
    let by = ((angle(point) - angle(this.placement.grip.begin)) * 180) / Math.PI;
    by = ((by + 540) % 360) - 180;
    const step = (/** @type {any} */ value) =>
      event.shiftKey ? Math.round(value / 15) * 15 : Math.round(value * 10) / 10;
    const { turned } = /** @type {LayerKind} */ (this.kinds.find((candidate) => candidate.kind === layer.kind));
    if (this.placement.isAtRest(start.place) && turned && this.layers.hasSetting(layer, turned)) {
      item.turn ??= this.placement.placeValue(layer, turned);
      const turn = step(item.turn + by);
      const spin = affine.turn(middle, ((turn - item.turn) * Math.PI) / 180);
      this.placement.lies = {
        ...this.placement.lies,
        [layer.id]: { ...start, corners: cornersOf(affine.times(whole, spin), start.box) },
      };
      return { [turned]: turn };
    }
    return this.placement.heldAt(
      item,
      { ...this.placement.anchoredAtRest(item), spin: step(values.spin + by) },
      middle,
    );
  }

  /** @type {(item: any, point: number[]) => any} */
  anchored(item, point) {
    const { start, values } = item;
    const p = affine.at(affine.back(start.above), point);
    const a = affine.at(affine.back(start.place), p);
    const out = anchorAt(a, p, this.placement.stageSize);
    this.placement.showMoved(item, this.placement.matrixOf({ ...values, ...out }));
    return out;
  }
}
