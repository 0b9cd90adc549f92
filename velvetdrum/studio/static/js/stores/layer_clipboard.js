// Layers copied, pasted and deleted, with what hangs on them.

import { plain } from "../lib/json_patch.js";
import { newId } from "../lib/ids.js";
import { partWith } from "../lib/studio_part.js";

// Sections of a layer that are its style.
const STYLED = ["colour", "layer"];

export class LayerClipboard extends partWith(
  "kinds",
  "layerEdits",
  "layers",
  "manyLayers",
  "media",
  "messages",
  "partReaders",
  "project",
  "selection",
  "signals",
) {
  /**
   * Layers with new ids; what they say of each other is kept.
   * @param {Layer[]} layers
   */
  renewed(layers) {
    const ids = new Map(layers.map((layer) => [layer.id, newId()]));
    return layers.map((layer) => {
      const copy = {
        ...plain(layer),
        id: ids.get(layer.id),
        group: ids.get(layer.group) ?? layer.group ?? "",
      };
      return this.partReaders.readingCopies(copy, ids);
    });
  }

  copyLayer() {
    const ids = this.selection.selected;
    const tops = ids.filter(
      (id) => !ids.some((other) => other !== id && this.layers.branch(other).some((member) => member.id === id)),
    );
    if (!tops.length) return;
    const whole = this.project.document.layers.filter((layer) =>
      tops.some((id) => this.layers.branch(id).includes(layer)),
    );
    const copies = this.renewed(whole);
    /** @type {any[]} */
    const made = [];
    whole.forEach((layer, index) => {
      if (tops.includes(layer.id)) {
        copies[index].name = `${layer.name} copy`;
        made.push(copies[index]);
      }
    });
    const at = Math.max(...tops.map((id) => this.layers.indexOf(id))) + 1;
    this.project.edit(
      `Copy ${tops.length > 1 ? `${tops.length} layers` : this.selection.layer.name}`,
      copies.map((copy, index) => ({ op: "add", path: `/layers/${at + index}`, value: copy })),
    );
    this.selection.also = made.slice(0, -1).map((copy) => copy.id);
    this.selection.setChosen(made[made.length - 1].id);
  }

  dropLayer() {
    const layers = this.selection.selected.map((id) => this.layers.byId(id));
    if (!layers.length || this.layerEdits.refuseLocked(layers)) return;
    const gone = [...new Set(layers.flatMap((layer) => this.layers.branch(layer.id).map((other) => other.id)))];
    const name = layers.length > 1 ? `${layers.length} layers` : layers[0].name;
    const rest = this.partReaders
      .withoutReaders(
        this.project.document.layers.filter((layer) => !gone.includes(layer.id)),
        gone,
      )
      .map(plain);
    const next = rest[Math.max(0, Math.min(rest.length - 1, this.selection.layerIndex - 1))];
    this.project.edit(`Delete ${name}`, [{ op: "replace", path: "/layers", value: rest }]);
    this.selection.also = [];
    this.selection.chosen = null;
    if (next) this.selection.setChosen(next.id);
    this.messages.tell(`${name} ${layers.length > 1 ? "are" : "is"} deleted.`, "Undo", () => this.project.undo());
  }

  /** Keep the chosen layers for pasting, here or in another project, with the signals that drive them. */
  keepLayer() {
    const ids = this.selection.selected;
    if (!ids.length) return;
    const layers = this.project.document.layers
      .filter((layer) => ids.some((id) => this.layers.branch(id).includes(layer)))
      .map(plain);
    const inside = new Set(layers.map((layer) => layer.id));
    for (const layer of layers) if (!inside.has(layer.group)) layer.group = "";
    const wanted = new Set(
      layers.flatMap((layer) => layer.patches.map((/** @type {Patch} */ patch) => patch.signal)),
    );
    const signals = plain(this.signals.signals.filter((signal) => wanted.has(signal.id)));
    localStorage.setItem("velvet-layers", JSON.stringify({ layers, signals }));
    this.messages.tell(
      `${ids.length > 1 ? `${ids.length} layers are` : `${this.selection.layer.name} is`} copied; ` +
        "paste here or in another project.",
    );
  }

  /**
   * Give the chosen layers what the kept one has of what they share: its colours, its blend and its effects; not its
   * name, its place, its size or its time.
   */
  pasteStyle() {
    let held;
    try {
      held = JSON.parse(localStorage.getItem("velvet-layers") || "null");
    } catch {
      held = null;
    }
    const from = held && held.layers && held.layers.at(-1);
    const targets = this.manyLayers.chosen;
    if (!from || !targets.length) {
      this.messages.tell("Copy a layer first (Ctrl C), then choose those that are to look like it.");
      return;
    }
    if (this.layerEdits.refuseLocked(targets)) return;
    const steps = targets.flatMap((layer) => {
      const base = `/layers/${this.layers.indexOf(layer.id)}`;
      const kind = this.kinds.find((known) => known.kind === from.kind);
      const shared = (kind ? kind.settings : []).filter(
        (setting) => STYLED.includes(setting.group) && !setting.media && this.manyLayers.like(layer, setting),
      );
      const effects = (from.effects || []).map((/** @type {any} */ effect) => ({ ...effect, id: newId() }));
      return [
        ...shared.map((setting) => ({
          op: "add",
          path: `${base}/settings/${setting.name}`,
          value: from.settings[setting.name] ?? setting.default,
        })),
        { op: "add", path: `${base}/effects`, value: effects },
      ];
    });
    this.project.edit(
      `Style of ${from.name} on ${targets.length > 1 ? `${targets.length} layers` : targets[0].name}`,
      steps,
    );
  }

  /** Paste the kept layers in front of the chosen one. Signals that this project lacks come with them. */
  pasteLayer() {
    let held;
    try {
      held = JSON.parse(localStorage.getItem("velvet-layers") || "null");
    } catch {
      held = null;
    }
    if (!held || !held.layers) {
      this.messages.tell("No layer has been copied yet: choose one and press Ctrl C.");
      return;
    }
    const known = new Set(this.signals.signals.map((signal) => signal.id));
    const brought = held.signals.filter(
      (/** @type {Signal} */ signal) => !known.has(signal.id) && !this.signals.signalKind(signal).reads,
    );
    for (const signal of brought) known.add(signal.id);
    const here = new Set([...this.project.document.layers, ...held.layers].map((layer) => layer.id));
    const layers = this.renewed(held.layers).map((layer) => ({
      ...layer,
      locked: false,
      solo: false,
      patches: layer.patches.filter((patch) => known.has(patch.signal)),
    }));
    const lost = held.layers.some(
      (/** @type {Layer} */ layer, /** @type {number} */ index) =>
        layer.patches.length > layers[index].patches.length,
    );
    const isGone = (/** @type {string} */ id) => !here.has(id) && !layers.some((other) => other.id === id);
    const readers = layers.flatMap((layer) => this.partReaders.readersOf(layer, isGone));
    const put = layers.map((layer) =>
      this.partReaders.reading(this.partReaders.withoutParts(layer, readers), (/** @type {string} */ id) =>
        isGone(id) ? "" : id,
      ),
    );
    const at = this.selection.layerIndex + 1;
    this.project.edit(`Paste ${put.length > 1 ? `${put.length} layers` : put[0].name}`, [
      ...brought.map((/** @type {Signal} */ signal) => ({ op: "add", path: "/signals/-", value: signal })),
      ...put.map((layer, index) => ({ op: "add", path: `/layers/${at + index}`, value: layer })),
    ]);
    const tops = put.filter((layer) => !put.some((other) => other.id === layer.group));
    this.selection.also = tops.slice(0, -1).map((layer) => layer.id);
    this.selection.setChosen(tops[tops.length - 1].id);
    if (lost || readers.length)
      this.messages.tell("Pasted; what belongs to the other project, a mix or a mask, stayed there.");
    this.media.checkMissing();
  }
}
