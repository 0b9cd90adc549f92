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
  /** Where in the order a new layer of a kind is put: as far back as its kind asks, else in front of all. */
  placeFor(kind) {
    const depth = (name) => (this.kinds.find((candidate) => candidate.kind === name) || { depth: 2 }).depth;
    const { layers } = this.document;
    return depth(kind) < 2 ? layers.filter((other) => depth(other.kind) < depth(kind)).length : layers.length;
  },
  addChoice(choice) {
    const layer = plain(choice.layer);
    layer.id = Math.random().toString(16).slice(2, 10);
    for (const [name, empty] of Object.entries({ ...this.emptyParts, keyframes: {}, frames: {}, group: "" })) layer[name] ??= empty;
    const behind = this.placeFor(layer.kind);
    this.closeChoices();
    this.edit(`Add ${layer.name}`, [{ op: "add", path: `/layers/${behind}`, value: layer }]);
    this.choose(layer);
    this.tab = "shape";
  },
};
