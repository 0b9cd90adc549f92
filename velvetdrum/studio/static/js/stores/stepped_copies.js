// Copies by steps: a layer n times, with a step in some settings, shown while the numbers change.

import { plain } from "../lib/json_patch.js";
import { typeOf } from "../lib/setting_type.js";
import { partWith } from "../lib/studio_part.js";

const MOST = 60;

export class SteppedCopies extends partWith(
  "clipboard",
  "fields",
  "layers",
  "messages",
  "page",
  "playback",
  "project",
  "quantities",
  "selection",
  "views",
) {
  count = 5;
  fault = "";
  /** @type {{name: string, by: string}[]} */
  rows = [];

  get choices() {
    const { kind } = this.selection;
    return kind ? kind.settings.filter(({ numeric }) => numeric) : [];
  }

  open() {
    if (!this.selection.layer || this.layers.isGroup(this.selection.layer)) {
      this.messages.tell("Choose one layer that is no group first.");
      return;
    }
    this.fault = "";
    const known = this.rows.filter(({ name }) => this.choices.some((choice) => choice.name === name));
    this.rows = known.length ? known : [{ name: this.choices[0].name, by: "+5" }];
    this.page.refs.steps.showModal();
    this.show();
  }

  addRow() {
    const free = this.choices.find(({ name }) => !this.rows.some((row) => row.name === name));
    if (free) this.rows = [...this.rows, { name: free.name, by: "+5" }];
  }

  /** @param {number} index */
  dropRow(index) {
    this.rows = this.rows.filter((_, at) => at !== index);
    this.show();
  }

  /** @param {FieldEvent} event */
  setCount(event) {
    this.count = Math.min(Math.max(Math.round(Number(event.target.value)) || 1, 1), MOST);
    this.show();
  }

  /**
   * The steps that add the copies in front of the layer: each has all changes once more than the one before it. Empty
   * with a sentence where one can't be.
   */
  steps() {
    const { layer, layerIndex } = this.selection;
    this.fault = "";
    /** @type {any[]} */
    const steps = [];
    let before = plain(layer);
    for (let number = 1; number <= this.count; number += 1) {
      const [copy] = this.clipboard.renewed([before]);
      copy.name = `${layer.name} ${number + 1}`;
      for (const { name, by } of this.rows) {
        const setting = /** @type {Setting} */ (this.choices.find((choice) => choice.name === name));
        const now = Number(copy.settings[name] ?? setting.default);
        const said = /^\s*-?\d/.test(by) ? `+(${by})` : by;
        const value = this.quantities.read(setting, said, now);
        const fault = this.fields.numberFault(setting, value, by);
        if (fault) {
          this.fault = `Copy ${number}: ${fault}`;
          return [];
        }
        copy.settings = { ...copy.settings, [name]: typeOf(setting).allowed(Math.round(value * 1e6) / 1e6) };
      }
      steps.push({ op: "add", path: `/layers/${layerIndex + number}`, value: copy });
      before = copy;
    }
    return steps;
  }

  /** Shown, not made. */
  show() {
    const steps = this.steps();
    if (steps.length) this.project.tryOut(steps);
  }

  make() {
    const steps = this.steps();
    if (!steps.length) return;
    this.project.draft = null;
    const { name } = this.selection.layer;
    this.project.edit(`${this.count} copies of ${name} by steps`, steps);
    this.page.refs.steps.close();
    this.selection.also = steps.slice(0, -1).map(({ value }) => value.id);
    this.selection.setChosen(steps[steps.length - 1].value.id);
  }

  close() {
    this.page.refs.steps.close();
    this.project.draft = null;
    this.views.preview.still(this.playback.frame);
  }
}
