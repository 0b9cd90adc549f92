// The list of layers: how each row looks, and rows dragged to another place.

import { partWith } from "../lib/studio_part.js";

export class LayerList extends partWith(
  "given",
  "layerEdits",
  "layers",
  "media",
  "messages",
  "moments",
  "parts",
  "placement",
  "project",
  "selection",
  "sockets",
  "stage",
) {
  /** @type {string | null} */
  grabbedLayer = null;
  /** @type {any} */
  dropTarget = null;
  /** @param {Layer} layer */
  indent(layer) {
    return { "--depth": this.layers.depthOf(layer) };
  }

  /** @param {Layer} layer */
  thumbOf(layer) {
    return this.moments.thumbs[layer.id] || "";
  }

  /** @param {Layer} layer */
  layerNote(layer) {
    const count = this.layers.isGroup(layer)
      ? `${this.layers.membersOf(layer.id).length} in it`
      : this.layers.kindTitle(layer);
    const parts = this.given.partSorts
      .filter((sort) => this.parts.partsOf(layer, sort).length)
      .map((sort) => sort.listed);
    const keyed = Object.keys(layer.keyframes || {}).length ? "keyed" : "";
    const marks = [
      layer.solo ? "solo" : "",
      layer.locked ? "locked" : "",
      ...parts,
      keyed,
      this.media.isMissing(layer) ? "file missing" : "",
    ];
    return [count, ...marks].filter(Boolean).join(" · ");
  }

  /**
   * @param {Layer} layer
   * @param {DropEvent} event
   */
  grabLayer(layer, event) {
    if (!this.selection.isChosen(layer)) this.selection.choose(layer);
    this.grabbedLayer = layer.id;
    event.dataTransfer.effectAllowed = "move";
    event.dataTransfer.setData("text/plain", layer.name);
  }

  /**
   * @param {Layer} layer
   * @param {PressEvent} event
   */
  overLayer(layer, event) {
    if (!this.grabbedLayer) return;
    const box = event.currentTarget.getBoundingClientRect();
    const part = (event.clientY - box.top) / box.height;
    const where = this.layers.isGroup(layer) && part > 0.3 && part < 0.75 ? "in" : part <= 0.5 ? "front" : "back";
    if (!this.isTarget(layer, where)) this.dropTarget = { id: layer.id, where };
  }

  /**
   * @param {Layer} layer
   * @param {any} where
   */
  isTarget(layer, where) {
    return Boolean(this.dropTarget) && this.dropTarget.id === layer.id && this.dropTarget.where === where;
  }

  /**
   * Thin rows show a note only where it says what is out of the ordinary.
   * @param {Layer} layer
   */
  noteClass(layer) {
    if (this.layerFault(layer)) return "fault";
    return layer.solo || layer.locked ? "marked" : "";
  }

  /** @param {Layer} layer */
  layLayer(layer) {
    const [grabbed, target] = [this.grabbedLayer, this.dropTarget];
    this.restLayer();
    if (!grabbed || !target || grabbed === layer.id) return;
    const ids = this.selection.isChosen(this.layers.byId(grabbed)) ? this.selection.selected : [grabbed];
    const inside = new Set(ids.flatMap((id) => this.layers.branch(id).map((other) => other.id)));
    if (inside.has(layer.id)) {
      this.messages.tell("A group can't be moved into itself.");
      return;
    }
    const tops = ids.filter(
      (id) => !ids.some((other) => other !== id && this.layers.branch(other).some((member) => member.id === id)),
    );
    if (this.layerEdits.refuseLocked(tops.map((id) => this.layers.byId(id)))) return;
    const { layers } = this.project.document;
    const label = tops.length > 1 ? `Move ${tops.length} layers` : `Move ${this.layers.byId(tops[0]).name}`;
    if (target.where === "in")
      this.project.edit(`${label} into ${layer.name}`, this.layerEdits.reorder(tops, null, layer.id));
    else {
      const next =
        target.where === "front"
          ? layers.slice(this.layers.indexOf(layer.id) + 1).find((other) => !tops.includes(other.id))
          : layer;
      this.project.edit(label, this.layerEdits.reorder(tops, next ? next.id : null, this.layers.groupOf(layer)));
    }
  }

  restLayer() {
    this.grabbedLayer = this.dropTarget = null;
  }

  /** @param {Layer} layer */
  layerClass(layer) {
    const { project, selection, sockets } = this;
    const shown =
      layer.visible && (layer.solo || !project.document.layers.some((other) => other.solo && other.visible));
    const drop = this.dropTarget && this.dropTarget.id === layer.id ? `drop-${this.dropTarget.where}` : "";
    const lit = sockets.lit.length && sockets.layerLit(layer) ? "lit" : "";
    return `${selection.isChosen(layer) ? "on" : ""} ${shown ? "" : "off"} ${drop} ${lit}`;
  }

  /** @param {Layer} layer */
  layerFault(layer) {
    const [note] = this.placement.notes[layer.id] || [];
    return this.stage.layerFaults[layer.id] || note || "";
  }
}
