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
    const name = {
      signal: (item) => this.patches.signalOf(item).name,
      layer: (item) => item.layer.name,
      setting: (item) => item.setting.label,
      join: (item) => item.patch.join,
    }[this.sortBy];
    found.sort((a, b) => name(a).localeCompare(name(b)) * (this.sortDown ? -1 : 1));
    return found;
  }

  sortPatches(by) {
    this.sortDown = this.sortBy === by ? !this.sortDown : false;
    this.sortBy = by;
  }

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
