// Which of the settings the panel shows: those of a section, those that were looked for, only what differs.

import { partWith } from "../lib/studio_part.js";

export class ShownSettings extends partWith("layerEdits", "manyLayers", "project", "selection", "settings") {
  sought = ""; // what is looked for among all settings of the layer
  onlyChanged = false; // true: only what differs from its default is shown

  get often() {
    return this.fieldsOf(true);
  }

  get seldom() {
    return this.fieldsOf(false);
  }

  /** @param {any} often */
  fieldsOf(often) {
    const { target } = this.selection;
    if (!target) return [];
    return this.settings.applicable(
      target.kind.settings.filter(
        (setting) =>
          (!target.grouped || setting.group === this.selection.tab) &&
          !setting.advanced === often &&
          this.manyLayers.isShared(setting) &&
          (!this.onlyChanged || this.isChanged(setting)),
      ),
    );
  }

  /**
   * True for a setting that was changed, keyed or patched.
   * @param {Setting} setting
   */
  isChanged(setting) {
    const { target, layer, room } = this.selection;
    const own = target.settings[setting.name];
    const { name } = setting;
    const moved =
      room === "picture" && ((layer.keyframes || {})[name] || layer.patches.some((patch) => patch.setting === name));
    return Boolean(moved) || (own !== undefined && JSON.stringify(own) !== JSON.stringify(setting.default));
  }

  toggleOnlyChanged() {
    this.onlyChanged = !this.onlyChanged;
  }

  /** Settings of the open section as they were when the layer was new. */
  resetSection() {
    const changed = [...this.often, ...this.seldom].filter((setting) => this.isChanged(setting));
    if (!changed.length || this.layerEdits.refuseLocked()) return;
    const steps = changed.flatMap((setting) => this.settings.stepsHere(setting, setting.default));
    this.project.edit(`${this.selection.target.name}: defaults in ${this.selection.tab}`, steps);
  }

  /** Settings of all tabs that have each of the words in their label, help or synonyms, those by label first. */
  get matches() {
    const words = this.sought.toLowerCase().split(/\s+/).filter(Boolean);
    if (!words.length || !this.selection.target) return [];
    const texts = (/** @type {any} */ { label, help, synonyms, name }) =>
      [label, synonyms.join(" "), help, name].map((t) => t.toLowerCase());
    const rank = (/** @type {Setting} */ setting) => {
      const places = words.map((word) => texts(setting).findIndex((text) => text.includes(word)));
      return places.includes(-1) ? -1 : Math.max(...places);
    };
    return this.settings
      .applicable(this.selection.target.kind.settings)
      .map((/** @type {Setting} */ setting) => ({ setting, rank: rank(setting) }))
      .filter((/** @type {any} */ match) => match.rank >= 0)
      .sort((/** @type {any} */ one, /** @type {any} */ other) => one.rank - other.rank)
      .map((/** @type {any} */ match) => match.setting);
  }

  /** @param {FieldEvent} event */
  seek(event) {
    this.sought = event.target.value;
  }
}
