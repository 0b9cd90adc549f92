// Typing into a text on the picture itself: a field that lies over it, opened by a double click or Enter.

import { boundsOf } from "../lib/geometry.js";
import { partWith } from "../lib/studio_part.js";

export class StageText extends partWith("kinds", "layers", "page", "placement", "project", "selection") {
  /** @type {any} */
  of = null; // id of the layer that is typed into
  /**
   * The first setting of a layer's kind that is its text.
   * @param {Layer} layer
   */
  settingOf(layer) {
    const kind = layer && this.kinds.find((candidate) => candidate.kind === layer.kind);
    return kind ? kind.settings.find(({ name, type }) => type === "text" && name === "text") : null;
  }

  get shown() {
    return this.of !== null;
  }

  get value() {
    const layer = this.of && this.layers.byId(this.of);
    return layer ? layer.settings.text : "";
  }

  /** Over the layer's box, in shares of the picture, and never too small to type in. */
  get style() {
    const lies = this.of && this.placement.lies[this.of];
    if (!lies) return { display: "none" };
    const [width, height] = this.placement.stageSize;
    const [left, top, right, bottom] = boundsOf(lies.corners);
    const wide = Math.max(right - left, width * 0.3);
    const high = Math.max(bottom - top, height * 0.12);
    const x = Math.min(Math.max((left + right - wide) / 2, 0), width - wide);
    const y = Math.min(Math.max((top + bottom - high) / 2, 0), height - high);
    const share = (/** @type {any} */ value, /** @type {number} */ whole) => `${(100 * value) / whole}%`;
    return { left: share(x, width), top: share(y, height), width: share(wide, width), height: share(high, height) };
  }

  open() {
    const { layer } = this.selection;
    if (!layer || layer.locked) return;
    if (!this.settingOf(layer)) {
      if (layer.settings.cues !== undefined) this.page.go("words");
      return;
    }
    this.of = layer.id;
  }

  /**
   * The field stands: it takes the keys.
   * @param {any} field
   */
  opened(field) {
    field.focus();
    field.select();
  }

  /** @param {PressEvent} event */
  take(event) {
    const index = this.layers.indexOf(this.of);
    const { value } = event.target;
    const before = this.value;
    this.of = null;
    if (index < 0 || value === before) return;
    const path = `/layers/${index}/settings/text`;
    this.project.edit("Type the text", [{ op: "add", path, value: value.slice(0, 2000) }]);
  }

  /** @param {TypeEvent} event */
  key(event) {
    event.stopPropagation();
    if (event.key === "Escape") {
      event.target.value = this.value;
      event.target.blur();
    } else if (event.key === "Enter" && !event.shiftKey) {
      event.preventDefault();
      event.target.blur();
    }
  }
}
