// Gradients: the ramp with its stops, dragged, added by a press, taken away by dragging off.

import { partWith } from "../lib/studio_part.js";
import { added, isEdgeEnd, isHard, moved, removed } from "../lib/stops.js";

// Pixels above or below the ramp from which on a stop that is let go is taken away.
const OFF_PX = 34;
const MOST = 256;
const ARROWS = /** @type {Record<string, number>} */ ({ ArrowLeft: -1, ArrowRight: 1, ArrowDown: -1, ArrowUp: 1 });

export class GradientField extends partWith("fields", "page", "selection", "settings") {
  // The stop whose colour stands under the ramp, by the setting's field.
  picked = { field: "", index: 0 };
  /** @type {{ setting: Setting, ramp: HTMLElement, stops: Stop[], index: number, off: boolean } | null} */
  drag = null;

  /** @param {Setting} setting */
  rampStyle(setting) {
    const stops = this.shown(setting).map((stop) => `${stop.colour} ${stop.at * 100}%`);
    const space = this.selection.layer && this.selection.layer.settings.mix === "srgb" ? "srgb" : "oklab";
    if (stops.length === 1) return { background: this.shown(setting)[0].colour };
    return { background: `linear-gradient(to right in ${space}, ${stops.join(", ")})` };
  }

  /**
   * The stops as they are, or as they are dragged; one that is off the ramp is not among them.
   * @param {Setting} setting
   * @returns {Stop[]}
   */
  shown(setting) {
    return this.fields.valueShown(setting);
  }

  /**
   * What a gradient by level reaches from and to, where its layer has a range of levels.
   * @param {Setting} setting
   */
  rampEnds(setting) {
    const target = this.selection.target;
    if (!target || setting.name !== "colours" || target.settings.paint !== "level") return null;
    for (const [low, high] of [
      ["quiet_db", "loud_db"],
      ["low_db", "high_db"],
    ]) {
      if (target.settings[low] !== undefined)
        return [target.settings[low], target.settings[high]].map((value) => `${String(value).replace("-", "−")} dB`);
    }
    return ["the base shape", "full height"];
  }

  /** @param {Setting} setting */
  stopsOf(setting) {
    const stops = this.shown(setting);
    return stops
      .map((stop, index) => ({ ...stop, index, percent: Math.round(stop.at * 1000) / 10 }))
      .filter(({ index }) => !isEdgeEnd(stops, index));
  }

  /**
   * @param {Setting} setting
   * @param {any} stop
   */
  gripStyle(setting, stop) {
    return { left: `${stop.at * 100}%`, "--stop": stop.colour.slice(0, 7) };
  }

  /**
   * @param {Setting} setting
   * @param {any} stop
   */
  gripText(setting, stop) {
    const hard = isHard(this.shown(setting), stop.index) ? ", hard" : "";
    return `Stop ${stop.index + 1} at ${stop.percent} %, ${stop.colour}${hard}`;
  }

  /** @param {Setting} setting */
  pickedIndex(setting) {
    const last = this.shown(setting).length - 1;
    return this.picked.field === this.fields.fieldId(setting) ? Math.min(this.picked.index, last) : 0;
  }

  /**
   * @param {Setting} setting
   * @param {any} stop
   */
  isPicked(setting, stop) {
    return stop.index === this.pickedIndex(setting);
  }

  /**
   * The picked stop, in a list of its own: its fields are made anew with it.
   * @param {Setting} setting
   */
  pickedStops(setting) {
    const index = this.pickedIndex(setting);
    const [stop] = this.stopsOf(setting).filter((other) => other.index === index);
    return stop ? [stop] : this.stopsOf(setting).slice(0, 1);
  }

  /**
   * @param {Setting} setting
   * @param {number} index
   */
  pick(setting, index) {
    this.picked = { field: this.fields.fieldId(setting), index };
  }

  /**
   * @param {Setting} setting
   * @param {{ stops: Stop[], index: number }} change
   */
  putStops(setting, { stops, index }) {
    this.pick(setting, index);
    this.settings.put(setting, stops);
  }

  // The ramp under the hand

  /**
   * @param {Setting} setting
   * @param {PressEvent} event
   */
  press(setting, event) {
    if (event.button !== 0) return;
    const ramp = /** @type {HTMLElement} */ (/** @type {any} */ (event).currentTarget);
    const grip = /** @type {HTMLElement} */ (event.target).closest("[data-stop]");
    const stops = this.settings.current(setting);
    let change = { stops, index: grip ? Number(/** @type {HTMLElement} */ (grip).dataset.stop) : 0 };
    if (!grip) {
      if (stops.length >= MOST) return;
      change = added(stops, this.placeOn(ramp, event));
    }
    ramp.setPointerCapture(event.pointerId);
    this.drag = { setting, ramp, ...change, off: false };
    this.pick(setting, change.index);
    if (!grip) this.settings.tryValue(setting, change.stops);
  }

  /**
   * @param {HTMLElement} ramp
   * @param {PressEvent} event
   */
  placeOn(ramp, event) {
    const box = ramp.getBoundingClientRect();
    return Math.round(Math.max(0, Math.min(1, (event.clientX - box.left) / box.width)) * 1000) / 1000;
  }

  /** @param {PressEvent} event */
  dragging(event) {
    const { drag } = this;
    if (!drag) return;
    const box = drag.ramp.getBoundingClientRect();
    drag.off = drag.stops.length > 1 && (event.clientY < box.top - OFF_PX || event.clientY > box.bottom + OFF_PX);
    Object.assign(drag, moved(drag.stops, drag.index, this.placeOn(drag.ramp, event)));
    this.pick(drag.setting, drag.index);
    this.settings.tryValue(drag.setting, drag.off ? removed(drag.stops, drag.index) : drag.stops);
  }

  drop() {
    const { drag } = this;
    this.drag = null;
    if (!drag) return;
    const before = this.settings.current(drag.setting);
    const stops = drag.off ? removed(drag.stops, drag.index) : drag.stops;
    if (JSON.stringify(stops) === JSON.stringify(before)) this.settings.dragValue = null;
    else this.putStops(drag.setting, { stops, index: drag.off ? Math.max(0, drag.index - 1) : drag.index });
  }

  /**
   * Arrows move a stop by 1 %, with Shift by 10; Delete takes it away.
   * @param {Setting} setting
   * @param {any} stop
   * @param {TypeEvent} event
   */
  key(setting, stop, event) {
    const stops = this.settings.current(setting);
    const way = ARROWS[event.key];
    if (way) this.putStops(setting, moved(stops, stop.index, stop.at + way * (event.shiftKey ? 0.1 : 0.01)));
    else if (event.key === "Delete" || event.key === "Backspace") this.dropStop(setting, stop);
    else return;
    event.preventDefault();
    event.stopPropagation();
    const box = /** @type {HTMLElement} */ (event.target).closest(".ramp-box");
    this.page.nextTick(() => {
      const grip = box && box.querySelector(`[data-stop="${this.pickedIndex(setting)}"]`);
      if (grip) /** @type {HTMLElement} */ (grip).focus();
    });
  }

  /** @param {Setting} setting */
  addStop(setting) {
    const stops = this.settings.current(setting);
    const gaps = stops
      .slice(1)
      .map((/** @type {Stop} */ stop, /** @type {number} */ index) => ({ index, width: stop.at - stops[index].at }));
    const widest = gaps.sort((/** @type {any} */ a, /** @type {any} */ b) => b.width - a.width)[0];
    this.putStops(setting, added(stops, widest ? stops[widest.index].at + widest.width / 2 : 1));
  }

  /**
   * @param {Setting} setting
   * @param {Stop & { index: number; percent: number }} stop
   */
  dropStop(setting, stop) {
    const stops = removed(this.settings.current(setting), stop.index);
    this.putStops(setting, { stops, index: Math.max(0, stop.index - 1) });
  }
}
