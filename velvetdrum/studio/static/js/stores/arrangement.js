// Layers nudged by keys, aligned and distributed.

import { plain } from "../lib/json_patch.js";
import { boundsOf } from "../lib/geometry.js";
import { partWith } from "../lib/studio_part.js";

export class Arrangement extends partWith(
  "cameraGrips",
  "clipboard",
  "grips",
  "layerEdits",
  "layers",
  "messages",
  "pen",
  "placement",
  "project",
  "selection",
) {
  alignToFrame = false;
  /**
   * Arrows on the picture: one pixel of the frame, ten with Shift; with Alt they size and turn.
   * @param {TypeEvent} event
   */
  stageKey(event) {
    if (this.pen.key(event)) return;
    /** @type {Record<string, number[]>} */
    const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    const way = arrows[event.key];
    if (event.key === "Escape" && this.placement.grip) {
      this.grips.gripCancel();
      event.preventDefault();
      return;
    }
    if (event.key === "Delete" || event.key === "Backspace") {
      event.preventDefault();
      event.stopPropagation();
      this.clipboard.dropLayer();
      return;
    }
    if (this.cameraGrips.key(event)) {
      event.preventDefault();
      event.stopPropagation();
      return;
    }
    if (event.key === "Tab" || !way || event.ctrlKey || event.metaKey) return;
    const layers = this.selection.selected
      .map((id) => this.layers.byId(id))
      .filter((layer) => this.placement.lies[layer.id]);
    if (!layers.length) return;
    event.preventDefault();
    event.stopPropagation();
    if (this.layerEdits.refuseLocked(layers)) return;
    const far = event.shiftKey ? 10 : 1;
    const items = layers.map((layer) => ({
      layer,
      start: plain(this.placement.lies[layer.id]),
      values: this.placement.placeValues(layer),
    }));
    const name = layers.length > 1 ? `${layers.length} layers` : layers[0].name;
    if (!event.altKey) {
      this.project.edit(
        `Nudge ${name}`,
        items.flatMap((item) => this.placement.shiftSteps2d(item, way[0] * far, way[1] * far)),
      );
      return;
    }
    const steps = items.flatMap((item) => {
      const [left, top, right, bottom] = item.start.box;
      const middle = [(left + right) / 2, (top + bottom) / 2];
      const from = this.placement.anchoredAtRest(item);
      if (way[0])
        return this.placement.valueSteps(
          item.layer,
          this.placement.heldAt(item, { ...from, spin: from.spin + way[0] * far }, middle),
        );
      const factor = 1 - way[1] * far * 0.01;
      return this.placement.valueSteps(
        item.layer,
        this.placement.heldAt(
          item,
          { ...from, scale_x: from.scale_x * factor, scale_y: from.scale_y * factor },
          middle,
        ),
      );
    });
    this.project.edit(`${way[0] ? "Rotate" : "Scale"} ${name}`, steps);
  }

  /**
   * Align the choice: one layer with the frame, several with each other. `edge` is 0, 0.5 or 1.
   * @param {number} axis
   * @param {number} edge
   */
  align(axis, edge) {
    const layers = this.selection.selected
      .map((id) => this.layers.byId(id))
      .filter((layer) => this.placement.lies[layer.id]);
    if (!layers.length || this.layerEdits.refuseLocked(layers)) return;
    const boxes = layers.map((layer) => boundsOf(this.placement.lies[layer.id].corners));
    const whole =
      layers.length > 1 && !this.alignToFrame
        ? boundsOf(
            boxes.flatMap((box) => [
              [box[0], box[1]],
              [box[2], box[3]],
            ]),
          )
        : [0, 0, ...this.placement.stageSize];
    const steps = layers.flatMap((layer, index) => {
      const box = boxes[index];
      const target = whole[axis] + (whole[axis + 2] - whole[axis]) * edge;
      const by = target - (box[axis] + (box[axis + 2] - box[axis]) * edge);
      const item = {
        layer,
        start: plain(this.placement.lies[layer.id]),
        values: this.placement.placeValues(layer),
      };
      return this.placement.shiftSteps2d(item, axis ? 0 : by, axis ? by : 0);
    });
    this.project.edit(`Align ${layers.length > 1 ? `${layers.length} layers` : layers[0].name}`, steps);
  }

  toggleAlignTo() {
    this.alignToFrame = !this.alignToFrame;
  }

  /**
   * Even gaps, or even steps between middles, from the first to the last of the chosen layers.
   * @param {any} axis
   * @param {string} [by]
   */
  distribute(axis, by = "gaps") {
    const layers = this.selection.selected
      .map((id) => this.layers.byId(id))
      .filter((layer) => this.placement.lies[layer.id]);
    if (layers.length < 3) {
      this.messages.tell("Choose three layers or more to distribute them.");
      return;
    }
    if (this.layerEdits.refuseLocked(layers)) return;
    const items = layers.map((layer) => ({
      layer,
      start: plain(this.placement.lies[layer.id]),
      values: this.placement.placeValues(layer),
      box: boundsOf(this.placement.lies[layer.id].corners),
    }));
    const size = (/** @type {any} */ item) => item.box[axis + 2] - item.box[axis];
    const middle = (/** @type {any} */ item) => (item.box[axis] + item.box[axis + 2]) / 2;
    items.sort((a, b) => middle(a) - middle(b));
    const [first, last] = [items[0], items[items.length - 1]];
    const gap =
      (last.box[axis + 2] - first.box[axis] - items.reduce((sum, item) => sum + size(item), 0)) / (items.length - 1);
    let at = first.box[axis];
    const steps = items.flatMap((item, index) => {
      const target =
        by === "gaps"
          ? at + size(item) / 2
          : middle(first) + ((middle(last) - middle(first)) * index) / (items.length - 1);
      at += size(item) + gap;
      const off = target - middle(item);
      return this.placement.shiftSteps2d(item, axis ? 0 : off, axis ? off : 0);
    });
    this.project.edit(`Distribute ${layers.length} layers`, steps);
  }
}
