// Dragging on the name of a number changes it: a step each two pixels, ten with Shift, a tenth with Alt.

import { clamp, fromPlace, rounded, toPlace } from "../lib/numbers.js";
import { typeOf } from "../lib/setting_type.js";
import { partWith } from "../lib/studio_part.js";

const STEP_PX = 2;
const BEGIN_PX = 4;

export class LabelDrag extends partWith("layerEdits", "settingMenu", "settings") {
  /** @type {any} */
  drag = null;

  /** @param {any} event */
  press(event) {
    const label = event.target.closest("label");
    const setting = label && event.button === 0 ? this.settingMenu.settingAt(event) : null;
    if (!setting || !setting.numeric || this.layerEdits.refuseLocked()) return;
    const value = Number(this.settings.current(setting));
    if (!Number.isFinite(value)) return;
    this.drag = { setting, label, pointer: event.pointerId, x: event.clientX, place: toPlace(setting, value) };
  }

  /** @param {any} event */
  move(event) {
    const { drag } = this;
    if (!drag) return;
    const by = event.clientX - drag.x;
    if (drag.value === undefined && Math.abs(by) < BEGIN_PX) return;
    if (drag.value === undefined) drag.label.setPointerCapture(drag.pointer);
    const { setting } = drag;
    const byRatio = setting.curve === "log";
    const factor = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
    const step = (byRatio ? 1 : setting.step || 1) * factor;
    const place = drag.place + (by / STEP_PX) * step;
    const value = byRatio ? fromPlace(setting, place) : rounded(place, step);
    drag.value = typeOf(setting).allowed(clamp(value, setting.lo, setting.hi));
    this.settings.tryValue(setting, drag.value);
  }

  /** @param {any} event */
  drop(event) {
    const { drag } = this;
    this.drag = null;
    if (!drag || drag.value === undefined) return;
    // The press that ends the drag does not go on to the field.
    drag.label.addEventListener("click", (/** @type {Event} */ click) => click.preventDefault(), { once: true });
    if (event.type === "pointerup") this.settings.put(drag.setting, drag.value);
  }
}
