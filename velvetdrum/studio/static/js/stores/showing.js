// Layers that show the cues: a first one is one press away.

import { newId } from "../lib/ids.js";
import { partWith } from "../lib/studio_part.js";

export class Showing extends partWith("cues", "kinds", "layers", "project", "selection") {
  /** True while there are cues that no layer shows. */
  get none() {
    const { cues, project } = this;
    if (!cues.count) return false;
    return !project.document.layers.some(({ settings }) => settings.cues !== undefined);
  }

  /** The first kind that takes a cue track, with its defaults, in front of all. */
  add() {
    const { project, kinds, selection, layers } = this;
    const takes = (/** @type {any} */ kind) =>
      kind.settings.some((/** @type {any} */ { type }) => type === "cue-track");
    const kind = /** @type {LayerKind} */ (kinds.find(takes));
    const settings = Object.fromEntries(kind.settings.map(({ name, default: value }) => [name, value]));
    const layer = { id: newId(), kind: kind.kind, name: kind.title, visible: true, settings, patches: [], group: "" };
    const path = `/layers/${project.document.layers.length}`;
    project.edit(`Add ${kind.title.toLowerCase()}`, [{ op: "add", path, value: layer }]);
    selection.choose(layers.byId(layer.id));
  }
}
