// The list of all patches.

import { partWith } from "../lib/studio_part.js";

export class PatchList extends partWith("page", "patches", "project", "settings") {
  sortBy = "signal";
  sortDown = false;
  get allPatches() {
    const found = this.project.document.layers.flatMap((layer, layerIndex) =>
      (layer.patches || []).map((patch, index) => ({
        patch,
        index,
        layer,
        layerIndex,
        setting: this.settings.settingOf(layer, patch.setting),
        key: `${layer.id}:${index}`,
      })),
    );
    const names = {
      signal: (/** @type {any} */ item) => this.patches.signalOf(item).name,
      layer: (/** @type {any} */ item) => item.layer.name,
      setting: (/** @type {any} */ item) => item.setting.label,
      join: (/** @type {any} */ item) => item.patch.join,
    };
    const name = /** @type {Record<string, (item: any) => string>} */ (names)[this.sortBy];
    found.sort((a, b) => name(a).localeCompare(name(b)) * (this.sortDown ? -1 : 1));
    return found;
  }

  /** @param {any} by */
  sortPatches(by) {
    this.sortDown = this.sortBy === by ? !this.sortDown : false;
    this.sortBy = by;
  }

  /** @param {any} by */
  sortMark(by) {
    return this.sortBy === by ? (this.sortDown ? "descending" : "ascending") : "none";
  }

  showPatches() {
    this.page.refs.patches.showModal();
  }

  closePatches() {
    this.page.refs.patches.close();
  }
}
