// Layers that keep their place to the recording, and are let go.

import { partWith } from "../lib/studio_part.js";

export class Links extends partWith("project", "selection", "settings", "timing") {
  /**
   * What a layer is to show when it is tied to the recording, or let go, is what it shows now.
   * @param {Setting} setting
   * @param {any} value
   */
  stepsWith(setting, value) {
    const { layer, kind, layerIndex } = this.selection;
    const [choice, tied, place] = (this.selection.room === "picture" && layer && kind.linked) || [];
    if (setting.name !== choice || !this.project.track || this.settings.onlyHere) return [];
    const now = layer.settings[place] ?? this.settings.settingOf(layer, place).default;
    const apart = this.project.track.in_s + this.timing.spanOf(layer).from;
    const to = Math.max(0, value === tied ? now - apart : now + apart);
    return [{ op: "add", path: `/layers/${layerIndex}/settings/${place}`, value: Math.round(to * 1000) / 1000 }];
  }
}
