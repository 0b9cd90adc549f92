// The colours of the project, by name: a change of one recolours all that is near it.

import { ask, refusalOf } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

export class ProjectColours extends partWith("messages", "project") {
  get listed() {
    const { colours } = this.project.document;
    return Object.entries(colours || {}).map(([name, value]) => ({ name, value }));
  }

  get none() {
    return this.listed.length === 0;
  }

  /**
   * @param {string} name
   * @param {FieldEvent} event
   */
  set(name, event) {
    return this.ask({ [name]: event.target.value }, `Colour: ${name}`);
  }

  /** Find the colours that the scene is drawn in. */
  find() {
    return this.ask({}, "Project colours");
  }

  /**
   * @param {Record<string, string>} colours
   * @param {string} label
   */
  async ask(colours, label) {
    try {
      const { patch } = await ask(`/projects/${this.project.state.id}/recolour`, { json: { colours } });
      if (patch.length) this.project.edit(label, patch);
    } catch (thrown) {
      this.messages.tell(refusalOf(thrown).message);
    }
  }
}
