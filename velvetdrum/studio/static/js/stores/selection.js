// Which room is open and which layers are chosen.

import { partWith } from "../lib/studio_part.js";

export const GROUPS = [
  { name: "shape", title: "Shape" },
  { name: "sound", title: "Sound" },
  { name: "colour", title: "Colour" },
  { name: "motion", title: "Motion" },
  { name: "layer", title: "Layer" },
  { name: "space", title: "Space" },
];

export class Selection extends partWith(
  "events",
  "given",
  "kinds",
  "layers",
  "project",
  "settings",
  "shownSettings",
  "signals",
  "tracks",
) {
  /** @type {string | null} */
  chosen = null;
  /** @type {string[]} */
  also = []; // ids of layers chosen besides
  tab = "shape";
  room = "picture";
  /** The chosen layer; null where none is, which only what asks for it first has to know. */
  get layer() {
    return /** @type {Layer} */ (this.project.document.layers.find((layer) => layer.id === this.chosen) || null);
  }

  get layerIndex() {
    return this.layers.indexOf(this.chosen || "");
  }

  get selected() {
    const present = new Set(this.project.document.layers.map((layer) => layer.id));
    return /** @type {string[]} */ ([this.chosen, ...this.also].filter((id) => id && present.has(id)));
  }

  get several() {
    return this.selected.length > 1;
  }

  get selectedText() {
    return this.several ? `${this.selected.length} layers` : "";
  }

  /** @param {Layer} layer */
  isChosen(layer) {
    return layer.id === this.chosen || this.also.includes(layer.id);
  }

  /** @param {any} layer */
  choose(layer) {
    this.also = [];
    this.setChosen(layer.id);
  }

  /** @param {any} id */
  setChosen(id) {
    this.chosen = id;
    this.settings.dragValue = null;
    if (!this.tabs.some((tab) => tab.name === this.tab)) this.tab = this.tabs.length ? this.tabs[0].name : "shape";
    this.events.emit("chosen");
  }

  /**
   * Another group of settings; some have handles on the picture.
   * @param {string} name
   */
  openTab(name) {
    this.tab = name;
    this.shownSettings.sought = "";
    this.events.emit("handles");
  }

  /**
   * A click in the list or on the picture: with Ctrl or Shift it takes a layer into the choice, or out of it.
   * @param {Layer} layer
   * @param {TypeEvent} event
   */
  pick(layer, event) {
    if (!(event && (event.ctrlKey || event.metaKey || event.shiftKey))) {
      this.choose(layer);
      return;
    }
    if (layer.id === this.chosen) {
      if (this.also.length) {
        const [next, ...rest] = this.also;
        this.also = rest;
        this.setChosen(next);
      }
    } else if (this.also.includes(layer.id)) this.also = this.also.filter((id) => id !== layer.id);
    else {
      this.also = [...this.also, layer.id];
      if (!this.chosen) this.choose(layer);
    }
    this.events.emit("chosen");
  }

  chooseAll() {
    const open = this.layers.membersOf("").filter((layer) => !layer.locked);
    if (!open.length) return;
    this.also = open.slice(0, -1).map((layer) => layer.id);
    this.setChosen(open[open.length - 1].id);
  }

  get kind() {
    return /** @type {LayerKind} */ (this.layer ? this.kinds.find((kind) => kind.kind === this.layer.kind) : null);
  }

  /** What the settings on show belong to: the chosen signal in the Sound room, the chosen layer elsewhere. */
  get target() {
    if (this.room === "sound" && this.tracks.shown) return this.tracks.target;
    if (this.room === "sound") {
      const signal = this.signals.signal;
      return (
        signal && {
          id: signal.id,
          name: signal.name,
          base: `/signals/${this.signals.signalIndex}/settings`,
          settings: signal.settings,
          kind: this.signals.signalKind(signal),
          grouped: false,
        }
      );
    }
    return (
      this.layer && {
        id: this.layer.id,
        name: this.layer.name,
        base: `/layers/${this.layerIndex}/settings`,
        settings: this.layer.settings,
        kind: this.kind,
        grouped: true,
      }
    );
  }

  get tabs() {
    if (!this.kind) return [];
    const own = GROUPS.filter(
      (group) =>
        this.kind.settings.some((setting) => setting.group === group.name) &&
        (group.name !== "space" || this.layers.isInSpace(this.layer)),
    );
    return [...own, ...this.given.partSorts.map((sort) => ({ name: sort.name, title: sort.title }))];
  }

  /** @param {string} name */
  isRoom(name) {
    return this.room === name;
  }
}
