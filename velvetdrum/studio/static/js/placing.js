// Placing on the picture: choosing by click, moving, sizing, turning, nudging, aligning; and what does not fit.

import { ask, plain } from "./api.js";
import { affine, cornersOf, sideOf } from "./handles.js";

const REST = { move_x: 0, move_y: 0, scale_x: 100, scale_y: 100, spin: 0, skew_x: 0, skew_y: 0 };
const SNAP_PX = 6;

const boundsOf = (points) => {
  const [xs, ys] = [points.map((point) => point[0]), points.map((point) => point[1])];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
};
const inside = (corners, [x, y]) => {
  const sides = corners.map((corner, index) => {
    const next = corners[(index + 1) % 4];
    return (next[0] - corner[0]) * (y - corner[1]) - (next[1] - corner[1]) * (x - corner[0]);
  });
  return sides.every((side) => side >= -1e-6) || sides.every((side) => side <= 1e-6);
};
const clamp = (value, low, high) => Math.max(low, Math.min(high, value));

export const placing = {
  lies: {}, // id -> {box, place, above, corners, shown}, in pixels of the frame on show
  misfits: [],
  grip: null, // what is being dragged on the picture
  snapLines: [],
  tried: {}, // values of the chosen layer while it is dragged on the picture

  get stageSize() { const { width, height } = this.frameSize; return [width, height]; },
  get handlesShown() { return this.room === "picture" && !this.playing && !this.threeUp; },
  /** Ask where the layers lie, now and in this frame. */
  async loadHandles() {
    if (!this.handlesShown) { this.handlesView.draw(); return; }
    const turn = (this.handlesTurn = (this.handlesTurn || 0) + 1);
    const unsent = this.waiting.flatMap((edit) => edit.patch);
    const draft = this.draft ? [...unsent, ...this.draft] : unsent;
    try {
      const json = { frame: this.frame, size: this.stageSize, ...(draft.length ? { draft } : {}) };
      const found = await ask(`/projects/${this.state.id}/handles`, { json });
      if (turn !== this.handlesTurn || this.grip) return;
      this.lies = Object.fromEntries(found.handles.map((handle) => [handle.id, handle]));
      this.misfits = found.misfits;
    } catch { /* the stage says what is wrong */ }
    this.handlesView.draw();
  },
  placeChanged() { if (this.handlesView) { this.handlesView.draw(); this.lanesView.draw(); if (this.chosen) this.showLane(this.chosen); } },
  coversAll(id) {
    const found = this.lies[id];
    if (!found) return false;
    const [left, top, right, bottom] = boundsOf(found.corners);
    return left <= 1 && top <= 1 && right >= this.stageSize[0] - 1 && bottom >= this.stageSize[1] - 1;
  },
  handlesSource() {
    const boxes = this.handlesShown ? this.selected.filter((id) => this.lies[id]).map((id) => {
      const { corners, place, above } = this.lies[id];
      const layer = this.byId(id);
      const anchor = id === this.chosen && !this.isAtRest(place) ? affine.at(affine.times(above, place), this.anchorOf(layer)) : null;
      return { id, corners, main: id === this.chosen, several: this.several, locked: Boolean(layer.locked), anchor };
    }) : [];
    return { size: this.stageSize, boxes, guides: this.snapLines };
  },
  isAtRest(place) { return [1, 0, 0, 0, 1, 0].every((value, index) => Math.abs(place[index] - value) < 1e-6); },
  placeValue(layer, name) { return Number(this.valueNow(layer, this.settingOf(layer, name))); },
  anchorOf(layer) { const [width, height] = this.stageSize; return [(this.placeValue(layer, "anchor_x") * width) / 100, (this.placeValue(layer, "anchor_y") * height) / 100]; },
  /** Where a layer's points come to lie, as the renderer works it out. */
  matrixOf(values) {
    const [width, height] = this.stageSize;
    const rad = (degrees) => (degrees * Math.PI) / 180;
    const [ax, ay] = [(values.anchor_x * width) / 100, (values.anchor_y * height) / 100];
    const [c, s] = [Math.cos(rad(values.spin)), Math.sin(rad(values.spin))];
    const [p, q] = [-Math.tan(rad(values.skew_x)), Math.tan(rad(values.skew_y))];
    const [sx, sy] = [values.scale_x / 100, values.scale_y / 100];
    const linear = [(c - s * q) * sx, (c * p - s) * sy, (s + c * q) * sx, (s * p + c) * sy];
    const move = [(values.move_x * width) / 100, (values.move_y * height) / 100];
    return [linear[0], linear[1], ax + move[0] - linear[0] * ax - linear[1] * ay, linear[2], linear[3], ay + move[1] - linear[2] * ax - linear[3] * ay];
  },
  placeValues(layer) { return Object.fromEntries([...Object.keys(REST), "anchor_x", "anchor_y"].map((name) => [name, this.placeValue(layer, name)])); },
  hasOwnPlace(layer) { const kind = this.kinds.find((item) => item.kind === layer.kind); return ["x", "y"].every((name) => kind.settings.some((setting) => setting.name === name)); },
  hasSetting(layer, name) { return this.kinds.find((item) => item.kind === layer.kind).settings.some((setting) => setting.name === name); },
  /** The steps that give settings of a layer their values, within their ranges. */
  valueSteps(layer, values) {
    const entries = Object.entries(values).map(([name, value]) => {
      const setting = this.settingOf(layer, name);
      return { setting, value: Math.round(clamp(value, setting.lo, setting.hi) * 1e4) / 1e4 };
    });
    if (layer.id === this.chosen && this.grip) this.tried = Object.fromEntries(entries.map(({ setting, value }) => [setting.name, value]));
    return this.stepsForMany(layer, entries);
  },

  // Dragging
  gripDown(what, point, event) {
    if (!this.handlesShown) return false;
    if (!what) {
      const found = this.hitLayers(point);
      const add = event.ctrlKey || event.metaKey || event.shiftKey;
      const first = found[0];
      if (!first) { if (!add) { this.also = []; } this.handlesView.draw(); return false; }
      const own = this.selected.some((id) => found.some((layer) => layer.id === id));
      if (add) { this.pick(first, event); return false; }
      // What fills the frame is chosen by a click, and moved only once it is chosen.
      if (!own || (this.coversAll(this.chosen) && !this.coversAll(first.id))) {
        this.choose(first);
        if (this.coversAll(first.id)) return false;
      }
    }
    const layers = this.selected.map((id) => this.byId(id)).filter((layer) => this.lies[layer.id]);
    if (!layers.length || this.refuseLocked(layers)) return false;
    this.grip = { what: what || "move", begin: point, layers: layers.map((layer) => ({ layer, start: plain(this.lies[layer.id]), values: this.placeValues(layer) })), last: null };
    return true;
  },
  /** Layers under a point, what fills the frame last; members of a group stand for their group. */
  hitLayers(point) {
    const found = this.layersFrontFirst.filter((layer) => {
      const lie = this.lies[layer.id];
      return lie && lie.shown && inside(lie.corners, point) && !layer.locked;
    });
    const tops = [...new Set(found.map((layer) => this.topOf(layer)))].filter((layer) => !layer.locked);
    return [...tops.filter((layer) => !this.coversAll(layer.id)), ...tops.filter((layer) => this.coversAll(layer.id))];
  },
  /** The outermost group that a layer is in, unless the choice is inside of it already. */
  topOf(layer) {
    let top = layer;
    const within = new Set();
    for (let group = this.layer && this.groupOf(this.layer); group; group = this.groupOf(this.byId(group) || {})) within.add(group);
    for (let group = this.groupOf(layer); group && !within.has(group); group = this.groupOf(this.byId(group) || {})) top = this.byId(group);
    return top;
  },
  gripMove(point, event) {
    const { grip } = this;
    if (!grip) return;
    const by = [point[0] - grip.begin[0], point[1] - grip.begin[1]];
    if (!grip.last && Math.hypot(...by) < 3 * this.handlesView.unit) return;
    this.snapLines = [];
    const steps = [];
    if (grip.what === "move") {
      const [dx, dy] = event.altKey ? by : this.snappedMove(grip, by, event.shiftKey);
      for (const item of grip.layers) steps.push(...this.shiftSteps2d(item, dx, dy));
    } else {
      const [item] = grip.layers;
      const values = grip.what === "turn" ? this.turned(item, point, event) : grip.what === "anchor" ? this.anchored(item, point) : this.sized(item, Number(grip.what.split("-")[1]), point, event);
      steps.push(...this.valueSteps(item.layer, values));
    }
    grip.last = steps;
    this.tryOut(steps);
    this.handlesView.draw();
  },
  gripUp() {
    const { grip } = this;
    this.grip = null;
    this.snapLines = [];
    this.tried = {};
    if (grip && grip.last) {
      const words = { move: "Move", turn: "Turn", anchor: "Anchor of" };
      const name = grip.layers.length > 1 ? `${grip.layers.length} layers` : grip.layers[0].layer.name;
      this.edit(`${words[grip.what] || "Size"} ${name}`, grip.last);
    }
    this.handlesView.draw();
  },
  gripCancel() {
    this.grip = this.draft = null;
    this.snapLines = [];
    this.tried = {};
    this.showStill();
    this.loadHandles();
  },
  /** Keep the frame on the picture with what is tried: the same sums as the renderer's. */
  showMoved(item, place, box = item.start.box) {
    const whole = affine.times(item.start.above, place);
    this.lies = { ...this.lies, [item.layer.id]: { ...item.start, place, box, corners: cornersOf(whole, box) } };
  },
  /** A layer moved by pixels of the frame. */
  shiftSteps2d(item, dx, dy) {
    const { layer, start, values } = item;
    const [width, height] = this.stageSize;
    const back = affine.back([start.above[0], start.above[1], 0, start.above[3], start.above[4], 0]);
    const [px, py] = affine.at(back, [dx, dy]);
    const [x, y] = [(px / width) * 100, (py / height) * 100];
    if (this.hasOwnPlace(layer) && this.isAtRest(start.place)) {
      item.own ||= [this.placeValue(layer, "x"), this.placeValue(layer, "y")];
      const [left, top, right, bottom] = start.box;
      this.showMoved(item, start.place, [left + px, top + py, right + px, bottom + py]);
      return this.valueSteps(layer, { x: item.own[0] + x, y: item.own[1] + y });
    }
    const place = [...start.place];
    place[2] += px;
    place[5] += py;
    this.showMoved(item, place);
    return this.valueSteps(layer, { move_x: values.move_x + x, move_y: values.move_y + y });
  },
  /** Moved to where its edges or its middle meet the frame's middle, thirds or safe margins, or another layer. */
  snappedMove(grip, [dx, dy], straight) {
    if (straight) { if (Math.abs(dx) > Math.abs(dy)) dy = 0; else dx = 0; }
    const [left, top, right, bottom] = boundsOf(grip.layers.flatMap((item) => item.start.corners));
    const [width, height] = this.stageSize;
    const reach = SNAP_PX * this.handlesView.unit;
    const moving = new Set(grip.layers.flatMap((item) => this.branch(item.layer.id).map((layer) => layer.id)));
    const others = Object.values(this.lies).filter((lie) => lie.shown && !moving.has(lie.id) && !this.coversAll(lie.id)).map((lie) => boundsOf(lie.corners));
    const places = (size, low, high) => [0, size / 2, size, size / 3, (size * 2) / 3, size * 0.05, size * 0.95, ...others.flatMap((box) => [box[low], (box[low] + box[high]) / 2, box[high]])];
    const snap = (edges, by, targets) => {
      let best = null;
      for (const edge of edges) {
        for (const target of targets) {
          const off = target - (edge + by);
          if (Math.abs(off) <= reach && (!best || Math.abs(off) < Math.abs(best.off) - 1e-9)) best = { off, target };
        }
      }
      return best;
    };
    const across = straight && dx === 0 ? null : snap([left, (left + right) / 2, right], dx, places(width, 0, 2));
    const down = straight && dy === 0 ? null : snap([top, (top + bottom) / 2, bottom], dy, places(height, 1, 3));
    this.snapLines = [...(across ? [{ x: across.target }] : []), ...(down ? [{ y: down.target }] : [])];
    return [dx + (across ? across.off : 0), dy + (down ? down.off : 0)];
  },
  /** The settings that say how large a layer is by itself, where it is not scaled: across and down, or one for both. */
  ownSize(layer) {
    const kind = this.kinds.find((candidate) => candidate.kind === layer.kind);
    const now = new Proxy({}, { get: (_, name) => this.placeValue(layer, name) });
    const found = kind.sizings.find((sizing) => sizing.when.every(([name, values]) => this.holds(kind.settings, now, name, values)));
    if (!found) return null;
    return found.both.length ? { both: found.both } : { across: found.across, down: found.down };
  },
  sized(item, index, point, event) {
    const { layer, start, values } = item;
    const [u, v] = sideOf(index);
    const [left, top, right, bottom] = start.box;
    const at = (a, b) => [left + (right - left) * a, top + (bottom - top) * b];
    const [grip, held] = [at(u, v), event.altKey ? at(0.5, 0.5) : at(1 - u, 1 - v)];
    const q = affine.at(affine.back(affine.times(start.above, start.place)), point);
    const span = [grip[0] - held[0], grip[1] - held[1]];
    let [rx, ry] = [span[0] ? (q[0] - held[0]) / span[0] : 1, span[1] ? (q[1] - held[1]) / span[1] : 1];
    const own = this.isAtRest(start.place) ? this.ownSize(layer) : null;
    const corner = u !== 0.5 && v !== 0.5;
    if (corner && (!event.shiftKey || (own && own.both))) rx = ry = ((q[0] - held[0]) * span[0] + (q[1] - held[1]) * span[1]) / (span[0] ** 2 + span[1] ** 2);
    else if (own && own.both) rx = ry = u === 0.5 ? ry : rx;
    [rx, ry] = [Math.max(rx, 0.02), Math.max(ry, 0.02)];
    const grown = [held[0] + (left - held[0]) * rx, held[1] + (top - held[1]) * ry, held[0] + (right - held[0]) * rx, held[1] + (bottom - held[1]) * ry];
    if (own) {
      item.size ||= Object.fromEntries([...(own.both || []), ...(own.across || []), ...(own.down || []), "x", "y"].map((name) => [name, this.placeValue(layer, name)]));
      const out = {};
      for (const name of own.both || []) out[name] = item.size[name] * rx;
      for (const name of own.across || []) out[name] = item.size[name] * rx;
      for (const name of own.down || []) out[name] = item.size[name] * ry;
      const [width, height] = this.stageSize;
      out.x = item.size.x + (((grown[0] + grown[2] - left - right) / 2) / width) * 100;
      out.y = item.size.y + (((grown[1] + grown[3] - top - bottom) / 2) / height) * 100;
      this.showMoved(item, start.place, grown);
      return out;
    }
    const changed = { ...this.anchoredAtRest(item), scale_x: clamp(values.scale_x * rx, 1, 400), scale_y: clamp(values.scale_y * ry, 1, 400) };
    return this.heldAt(item, changed, held);
  },
  /** The place that a layer is turned and sized about: its own middle, unless it was placed before. */
  anchoredAtRest(item) {
    const { start, values } = item;
    if (!this.isAtRest(start.place)) return values;
    const [width, height] = this.stageSize;
    const [left, top, right, bottom] = start.box;
    return { ...values, anchor_x: clamp(((left + right) / 2 / width) * 100, -50, 150), anchor_y: clamp(((top + bottom) / 2 / height) * 100, -50, 150) };
  },
  /** Changed values, moved so that a point of the layer stays where it is. */
  heldAt(item, changed, point) {
    const [width, height] = this.stageSize;
    const before = affine.at(item.start.place, point);
    const after = affine.at(this.matrixOf(changed), point);
    const out = { ...changed, move_x: changed.move_x + ((before[0] - after[0]) / width) * 100, move_y: changed.move_y + ((before[1] - after[1]) / height) * 100 };
    this.showMoved(item, this.matrixOf(out));
    return out;
  },
  turned(item, point, event) {
    const { layer, start, values } = item;
    const [left, top, right, bottom] = start.box;
    const middle = [(left + right) / 2, (top + bottom) / 2];
    const whole = affine.times(start.above, start.place);
    const centre = affine.at(whole, middle);
    const angle = (p) => Math.atan2(p[1] - centre[1], p[0] - centre[0]);
    let by = ((angle(point) - angle(this.grip.begin)) * 180) / Math.PI;
    by = ((by + 540) % 360) - 180;
    const step = (value) => (event.shiftKey ? Math.round(value / 15) * 15 : Math.round(value * 10) / 10);
    const { turned } = this.kinds.find((candidate) => candidate.kind === layer.kind);
    if (this.isAtRest(start.place) && turned && this.hasSetting(layer, turned)) {
      item.turn ??= this.placeValue(layer, turned);
      const turn = step(item.turn + by);
      const rad = ((turn - item.turn) * Math.PI) / 180;
      const [c, s] = [Math.cos(rad), Math.sin(rad)];
      const spin = [c, -s, middle[0] - c * middle[0] + s * middle[1], s, c, middle[1] - s * middle[0] - c * middle[1]];
      this.lies = { ...this.lies, [layer.id]: { ...start, corners: cornersOf(affine.times(whole, spin), start.box) } };
      return { [turned]: turn };
    }
    return this.heldAt(item, { ...this.anchoredAtRest(item), spin: step(values.spin + by) }, middle);
  },
  anchored(item, point) {
    const [width, height] = this.stageSize;
    const { start, values } = item;
    const p = affine.at(affine.back(start.above), point);
    const a = affine.at(affine.back(start.place), p);
    const out = { anchor_x: (a[0] / width) * 100, anchor_y: (a[1] / height) * 100, move_x: ((p[0] - a[0]) / width) * 100, move_y: ((p[1] - a[1]) / height) * 100 };
    this.showMoved(item, this.matrixOf({ ...values, ...out }));
    return out;
  },
  /** The anchor at a point of the layer's box, nothing of it moving. */
  anchorTo(u, v) {
    const lie = this.layer && this.lies[this.layer.id];
    if (!lie || this.refuseLocked()) return;
    const [left, top, right, bottom] = lie.box;
    const [x, y] = [left + (right - left) * u, top + (bottom - top) * v];
    const p = affine.at(lie.place, [x, y]);
    const [width, height] = this.stageSize;
    this.edit(`${this.layer.name}: anchor`, this.valueSteps(this.layer, { anchor_x: (x / width) * 100, anchor_y: (y / height) * 100, move_x: ((p[0] - x) / width) * 100, move_y: ((p[1] - y) / height) * 100 }));
  },
  get gripNote() {
    const lie = this.layer && this.lies[this.layer.id];
    if (!lie || !this.handlesShown) return "";
    const [left, top, right, bottom] = boundsOf(lie.corners);
    return `${Math.round(left)}, ${Math.round(top)} · ${Math.round(right - left)} × ${Math.round(bottom - top)} px`;
  },

  // By keys and by buttons
  /** Arrows on the picture: one pixel of the frame, ten with Shift; with Alt they size and turn. */
  stageKey(event) {
    const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    const way = arrows[event.key];
    if (event.key === "Escape" && this.grip) { this.gripCancel(); event.preventDefault(); return; }
    if (event.key === "Delete" || event.key === "Backspace") { event.preventDefault(); event.stopPropagation(); this.dropLayer(); return; }
    if (event.key === "Tab" || !way || event.ctrlKey || event.metaKey) return;
    const layers = this.selected.map((id) => this.byId(id)).filter((layer) => this.lies[layer.id]);
    if (!layers.length) return;
    event.preventDefault();
    event.stopPropagation();
    if (this.refuseLocked(layers)) return;
    const far = event.shiftKey ? 10 : 1;
    const items = layers.map((layer) => ({ layer, start: plain(this.lies[layer.id]), values: this.placeValues(layer) }));
    const name = layers.length > 1 ? `${layers.length} layers` : layers[0].name;
    if (!event.altKey) {
      this.edit(`Nudge ${name}`, items.flatMap((item) => this.shiftSteps2d(item, way[0] * far, way[1] * far)));
      return;
    }
    const steps = items.flatMap((item) => {
      const [left, top, right, bottom] = item.start.box;
      const middle = [(left + right) / 2, (top + bottom) / 2];
      const from = this.anchoredAtRest(item);
      if (way[0]) return this.valueSteps(item.layer, this.heldAt(item, { ...from, spin: from.spin + way[0] * far }, middle));
      const factor = 1 - way[1] * far * 0.01;
      return this.valueSteps(item.layer, this.heldAt(item, { ...from, scale_x: from.scale_x * factor, scale_y: from.scale_y * factor }, middle));
    });
    this.edit(`${way[0] ? "Turn" : "Size"} ${name}`, steps);
  },
  /** Align the choice: one layer with the frame, several with each other. `edge` is 0, 0.5 or 1. */
  align(axis, edge) {
    const layers = this.selected.map((id) => this.byId(id)).filter((layer) => this.lies[layer.id]);
    if (!layers.length || this.refuseLocked(layers)) return;
    const boxes = layers.map((layer) => boundsOf(this.lies[layer.id].corners));
    const whole = layers.length > 1 && !this.alignToFrame ? boundsOf(boxes.flatMap((box) => [[box[0], box[1]], [box[2], box[3]]])) : [0, 0, ...this.stageSize];
    const steps = layers.flatMap((layer, index) => {
      const box = boxes[index];
      const target = whole[axis] + (whole[axis + 2] - whole[axis]) * edge;
      const by = target - (box[axis] + (box[axis + 2] - box[axis]) * edge);
      const item = { layer, start: plain(this.lies[layer.id]), values: this.placeValues(layer) };
      return this.shiftSteps2d(item, axis ? 0 : by, axis ? by : 0);
    });
    this.edit(`Align ${layers.length > 1 ? `${layers.length} layers` : layers[0].name}`, steps);
  },
  alignToFrame: false,
  toggleAlignTo() { this.alignToFrame = !this.alignToFrame; },
  /** Even gaps, or even steps between middles, from the first to the last of the chosen layers. */
  distribute(axis, by = "gaps") {
    const layers = this.selected.map((id) => this.byId(id)).filter((layer) => this.lies[layer.id]);
    if (layers.length < 3) { this.tell("Choose three layers or more to distribute them."); return; }
    if (this.refuseLocked(layers)) return;
    const items = layers.map((layer) => ({ layer, start: plain(this.lies[layer.id]), values: this.placeValues(layer), box: boundsOf(this.lies[layer.id].corners) }));
    const size = (item) => item.box[axis + 2] - item.box[axis];
    const middle = (item) => (item.box[axis] + item.box[axis + 2]) / 2;
    items.sort((a, b) => middle(a) - middle(b));
    const [first, last] = [items[0], items[items.length - 1]];
    const gap = (last.box[axis + 2] - first.box[axis] - items.reduce((sum, item) => sum + size(item), 0)) / (items.length - 1);
    let at = first.box[axis];
    const steps = items.flatMap((item, index) => {
      const target = by === "gaps" ? at + size(item) / 2 : middle(first) + ((middle(last) - middle(first)) * index) / (items.length - 1);
      at += size(item) + gap;
      const off = target - middle(item);
      return this.shiftSteps2d(item, axis ? 0 : off, axis ? off : 0);
    });
    this.edit(`Distribute ${layers.length} layers`, steps);
  },
};
