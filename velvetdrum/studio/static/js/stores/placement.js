// Where layers lie in the frame on show, as the renderer says, and the steps that place them elsewhere.

import { ask } from "../lib/api.js";
import { clamp } from "../lib/numbers.js";
import { placeMatrix, affine, boundsOf, cornersOf } from "../lib/geometry.js";
import { partWith } from "../lib/studio_part.js";

/** @type {Record<string, number>} */
const REST = { move_x: 0, move_y: 0, scale_x: 100, scale_y: 100, spin: 0, skew_x: 0, skew_y: 0 };

export class Placement extends partWith(
  "ballGrips",
  "colourGrips",
  "events",
  "formats",
  "layerEdits",
  "layers",
  "partPoints",
  "pen",
  "playback",
  "project",
  "selection",
  "settings",
) {
  /** @type {any} */
  handlesTurn = null;
  /** @type {any} */
  handlesTimer = null;
  liesOf = ""; // what they were asked for; empty after they were changed here
  /** @type {Record<string, any>} */
  lies = {}; // id -> {box, place, above, corners, shown}, in pixels of the frame on show
  /** @type {any[]} */
  misfits = [];
  /** @type {Record<string, string[]>} */
  notes = {}; // id -> sentences of what a person should know of a layer
  /** @type {any} */
  grip = null; // what is being dragged on the picture
  /** @type {any[]} */
  snapLines = [];
  /** @type {Values} */
  tried = {}; // values of the chosen layer while it is dragged on the picture
  get stageSize() {
    const { width, height } = this.formats.frameSize;
    return [width, height];
  }

  get handlesShown() {
    return this.selection.room === "picture" && !this.playback.playing && !this.formats.threeUp;
  }

  /** Ask where the layers lie, now and in this frame. */
  async loadHandles() {
    if (!this.handlesShown) {
      this.events.emit("handles");
      return;
    }
    const turn = (this.handlesTurn = (this.handlesTurn || 0) + 1);
    try {
      const json = { frame: this.playback.frame, size: this.stageSize, ...this.project.unsent };
      const { id, revision } = this.project.state;
      // A draft and the sharp picture after it ask for the same.
      const asked = JSON.stringify([id, revision, json]);
      if (asked === this.liesOf) return;
      const found = await ask(`/projects/${id}/handles`, { json });
      if (turn !== this.handlesTurn || this.grip) return;
      this.liesOf = asked;
      this.lies = Object.fromEntries(found.handles.map((/** @type {any} */ handle) => [handle.id, handle]));
      this.misfits = found.misfits;
      this.notes = found.notes;
    } catch {
      /* the stage says what is wrong */
    }
    this.events.emit("handles");
  }

  /** @param {any} id */
  coversAll(id) {
    const found = this.lies[id];
    if (!found) return false;
    const [left, top, right, bottom] = boundsOf(found.corners);
    return left <= 1 && top <= 1 && right >= this.stageSize[0] - 1 && bottom >= this.stageSize[1] - 1;
  }

  handlesSource() {
    const { selected, chosen } = this.selection;
    const boxes = this.handlesShown
      ? selected
          .filter((id) => this.lies[id])
          .map((id) => {
            const { corners, place, above } = this.lies[id];
            const layer = this.layers.byId(id);
            const anchor =
              id === chosen && !this.isAtRest(place)
                ? affine.at(affine.times(above, place), this.anchorOf(layer))
                : null;
            return {
              id,
              corners,
              main: id === chosen,
              several: selected.length > 1,
              locked: Boolean(layer.locked),
              anchor,
            };
          })
      : [];
    const { pen } = this;
    if (pen.on) return { size: this.stageSize, boxes: [], guides: [], points: pen.handles, path: pen.path };
    const points = [...this.partPoints.handles, ...this.ballGrips.handles, ...this.colourGrips.handles];
    return { size: this.stageSize, boxes, guides: this.snapLines, points };
  }

  /** @param {any} place */
  isAtRest(place) {
    return [1, 0, 0, 0, 1, 0].every((value, index) => Math.abs(place[index] - value) < 1e-6);
  }

  /**
   * @param {Layer} layer
   * @param {any} name
   */
  placeValue(layer, name) {
    return Number(this.settings.valueNow(layer, this.settings.settingOf(layer, name)));
  }

  /** @param {Layer} layer */
  anchorOf(layer) {
    const [width, height] = this.stageSize;
    return [(this.placeValue(layer, "anchor_x") * width) / 100, (this.placeValue(layer, "anchor_y") * height) / 100];
  }

  /** @param {Values} values */
  matrixOf(values) {
    return placeMatrix(values, this.stageSize);
  }

  /** @param {Layer} layer */
  placeValues(layer) {
    return Object.fromEntries(
      [...Object.keys(REST), "anchor_x", "anchor_y", "flip_x", "flip_y"].map((name) => [
        name,
        this.placeValue(layer, name),
      ]),
    );
  }

  /**
   * The steps that give settings of a layer their values, within their ranges.
   * @param {Layer} layer
   * @param {Values} values
   */
  valueSteps(layer, values) {
    // Whether a layer is flipped says where it lies, and is not changed by moving it.
    const entries = Object.entries(values)
      .map(([name, value]) => ({ setting: this.settings.settingOf(layer, name), value }))
      .filter(({ setting }) => setting.numeric)
      .map(({ setting, value }) => ({
        setting,
        value: Math.round(clamp(value, setting.lo, setting.hi) * 1e4) / 1e4,
      }));
    if (layer.id === this.selection.chosen && this.grip)
      this.tried = Object.fromEntries(entries.map(({ setting, value }) => [setting.name, value]));
    return this.settings.stepsForMany(layer, entries);
  }

  /**
   * Keep the frame on the picture with what is tried: the same sums as the renderer's.
   * @param {any} item
   * @param {any} place
   * @param {any} [box]
   */
  showMoved(item, place, box = item.start.box) {
    const whole = affine.times(item.start.above, place);
    this.liesOf = "";
    this.lies = {
      ...this.lies,
      [item.layer.id]: { ...item.start, place, box, corners: cornersOf(whole, box) },
    };
  }

  /**
   * A layer moved by pixels of the frame.
   * @param {any} item
   * @param {any} dx
   * @param {any} dy
   */
  shiftSteps2d(item, dx, dy) {
    const { layer, start, values } = item;
    const [width, height] = this.stageSize;
    const back = affine.back([start.above[0], start.above[1], 0, start.above[3], start.above[4], 0]);
    const [px, py] = affine.at(back, [dx, dy]);
    const [x, y] = [(px / width) * 100, (py / height) * 100];
    if (this.layers.hasOwnPlace(layer) && this.isAtRest(start.place)) {
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
  }

  /**
   * The place that a layer is turned and sized about: its own middle, unless it was placed before.
   * @param {any} item
   */
  anchoredAtRest(item) {
    const { start, values } = item;
    if (!this.isAtRest(start.place)) return values;
    const [width, height] = this.stageSize;
    const [left, top, right, bottom] = start.box;
    return {
      ...values,
      anchor_x: clamp(((left + right) / 2 / width) * 100, -50, 150),
      anchor_y: clamp(((top + bottom) / 2 / height) * 100, -50, 150),
    };
  }

  /**
   * Changed values, moved so that a point of the layer stays where it is.
   * @param {any} item
   * @param {any} changed
   * @param {number[]} point
   */
  heldAt(item, changed, point) {
    const [width, height] = this.stageSize;
    const before = affine.at(item.start.place, point);
    const after = affine.at(this.matrixOf(changed), point);
    const out = {
      ...changed,
      move_x: changed.move_x + ((before[0] - after[0]) / width) * 100,
      move_y: changed.move_y + ((before[1] - after[1]) / height) * 100,
    };
    this.showMoved(item, this.matrixOf(out));
    return out;
  }

  /**
   * Left and right, or top and bottom, of the chosen layer changed about the middle of its box.
   * @param {"flip_x" | "flip_y"} name
   */
  flip(name) {
    const { layer } = this.selection;
    const lie = layer && this.lies[layer.id];
    if (!layer || !lie || this.layerEdits.refuseLocked()) return;
    const setting = this.settings.settingOf(layer, name);
    const value = !this.settings.valueNow(layer, setting);
    this.project.edit(`${layer.name}: ${setting.label.toLowerCase()}`, [
      ...this.anchorSteps(lie, 0.5, 0.5),
      ...this.settings.stepsForMany(layer, [{ setting, value }]),
    ]);
  }

  /**
   * The anchor at a point of the layer's box, nothing of it moving.
   * @param {any} u
   * @param {any} v
   */
  anchorTo(u, v) {
    const { layer } = this.selection;
    const lie = layer && this.lies[layer.id];
    if (layer && lie && !this.layerEdits.refuseLocked())
      this.project.edit(`${layer.name}: anchor`, this.anchorSteps(lie, u, v));
  }

  /**
   * @param {any} lie
   * @param {number} u
   * @param {number} v
   */
  anchorSteps(lie, u, v) {
    const [left, top, right, bottom] = lie.box;
    const [x, y] = [left + (right - left) * u, top + (bottom - top) * v];
    const p = affine.at(lie.place, [x, y]);
    const [width, height] = this.stageSize;
    return this.valueSteps(this.selection.layer, {
      anchor_x: (x / width) * 100,
      anchor_y: (y / height) * 100,
      move_x: ((p[0] - x) / width) * 100,
      move_y: ((p[1] - y) / height) * 100,
    });
  }

  get gripNote() {
    const lie = this.selection.layer && this.lies[this.selection.layer.id];
    if (!lie || !this.handlesShown) return "";
    const [left, top, right, bottom] = boundsOf(lie.corners);
    return `${Math.round(left)}, ${Math.round(top)} · ${Math.round(right - left)} × ${Math.round(bottom - top)} px`;
  }

  /** Where the layers lie is asked for once the picture rests. */
  askHandles() {
    clearTimeout(this.handlesTimer);
    this.handlesTimer = setTimeout(() => this.loadHandles(), 30);
  }
}
