// A project's design, or the chosen layers of it, kept as a look under a name.

import { ask, refusalOf } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

export class KeptLooks extends partWith("messages", "page", "project", "selection") {
  name = "";
  about = "";
  fault = "";
  of = "all"; // or the chosen layers
  tags = "";
  uses = { song: true, voice: true, loop: true };

  open() {
    this.fault = "";
    this.name = this.project.document.name.slice(0, 60);
    this.of = this.selection.several ? "chosen" : "all";
    this.page.refs.look.showModal();
  }

  close() {
    this.page.refs.look.close();
  }

  get chosenText() {
    const count = this.selection.selected.length;
    return count === 1 ? "The chosen layer" : `The ${count} chosen layers`;
  }

  async keep() {
    const layers = this.of === "chosen" ? this.selection.selected : null;
    const tags = this.tags
      .split(",")
      .map((tag) => tag.trim().slice(0, 40))
      .filter(Boolean);
    const uses = Object.entries(this.uses).flatMap(([use, on]) => (on ? [use] : []));
    const json = { name: this.name, about: this.about, tags: tags.slice(0, 12), uses, ...(layers ? { layers } : {}) };
    try {
      await ask(`/projects/${this.project.state.id}/looks`, { json });
      this.close();
      this.messages.tell(`${this.name.trim()} is kept. It stands among the looks of every sound, under Mine.`);
    } catch (thrown) {
      this.fault = refusalOf(thrown).message;
    }
  }
}
