// Adding a layer: every figure as a picture, drawn from the project's own sound at its loudest moment.

import { ask, plain } from "./api.js";

export const adding = {
  choices: [],
  families: {},
  family: "spectrum",
  choosing: "", // busy, failed or ready
  choosingFault: "",

  get familyTabs() { return Object.entries(this.families).map(([name, title]) => ({ name, title })); },
  get shownChoices() { return this.choices.filter((choice) => choice.family === this.family); },
  get choosingNote() {
    return this.track ? "Drawn from your sound at its loudest moment." : "There is no sound yet; bring one in to see them at work.";
  },
  openChoices() {
    this.$refs.choices.showModal();
    this.loadChoices();
  },
  closeChoices() { this.$refs.choices.close(); },
  async loadChoices() {
    this.choosing = this.choices.length ? "ready" : "busy";
    this.choosingFault = "";
    try {
      const found = await ask(`/projects/${this.state.id}/choices`, { json: {} });
      this.families = found.families;
      this.choices = found.choices;
      this.choosing = "ready";
    } catch (problem) {
      this.choosingFault = problem.message;
      this.choosing = this.choices.length ? "ready" : "failed";
    }
  },
  /** Keep the chosen layer for pasting, here or in another project, with the signals that drive it. */
  keepLayer() {
    if (!this.layer) return;
    const layer = plain(this.layer);
    const wanted = new Set(layer.patches.map((patch) => patch.signal));
    const held = { layer, signals: plain(this.signals.filter((signal) => wanted.has(signal.id))) };
    localStorage.setItem("velvet-layer", JSON.stringify(held));
    this.tell(`${layer.name} is copied; paste it here or in another project.`);
  },
  /** Paste the kept layer in front of the chosen one. Signals that this project lacks come with it. */
  pasteLayer() {
    let held;
    try { held = JSON.parse(localStorage.getItem("velvet-layer")); } catch { held = null; }
    if (!held || !held.layer) {
      this.tell("No layer has been copied yet: choose one and press Ctrl C.");
      return;
    }
    const known = new Set(this.signals.map((signal) => signal.id));
    const brought = held.signals.filter((signal) => !known.has(signal.id) && signal.kind !== "mix");
    for (const signal of brought) known.add(signal.id);
    const layer = { ...held.layer, id: Math.random().toString(16).slice(2, 10), locked: false, solo: false };
    layer.patches = layer.patches.filter((patch) => known.has(patch.signal));
    const place = this.layerIndex + 1;
    this.edit(`Paste ${layer.name}`, [
      ...brought.map((signal) => ({ op: "add", path: "/signals/-", value: signal })),
      { op: "add", path: `/layers/${place}`, value: layer },
    ]);
    this.choose(layer);
    if (layer.patches.length < held.layer.patches.length) this.tell(`${layer.name} is pasted; a mix that drove it belongs to the other project.`);
  },
  addChoice(choice) {
    const layer = plain(choice.layer);
    layer.id = Math.random().toString(16).slice(2, 10);
    const behind = layer.kind === "backdrop" ? 0 : layer.kind === "graticule" ? this.document.layers.filter((other) => other.kind === "backdrop").length : this.document.layers.length;
    this.closeChoices();
    this.edit(`Add ${layer.name}`, [{ op: "add", path: `/layers/${behind}`, value: layer }]);
    this.choose(layer);
    this.tab = "shape";
  },
};
