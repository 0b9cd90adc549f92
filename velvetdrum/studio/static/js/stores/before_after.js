// Before and after: while the key or the button is held, the picture is shown without effects.

import { partWith } from "../lib/studio_part.js";

export class BeforeAfter extends partWith("project", "stage") {
  held = false;

  get steps() {
    return this.project.document.layers.flatMap((layer, index) =>
      (layer.effects || []).flatMap((effect, number) =>
        effect.on === false ? [] : [{ op: "add", path: `/layers/${index}/effects/${number}/on`, value: false }],
      ),
    );
  }

  hold() {
    const { steps } = this;
    if (this.held || !steps.length) return;
    this.held = true;
    this.project.tryOut(steps);
  }

  release() {
    if (!this.held) return;
    this.held = false;
    this.project.draft = null;
    this.stage.showStill();
  }
}
