// Before and after: while the key or the button is held, the picture is shown without effects.

import { StudioPart } from "../lib/studio_part.js";

export class BeforeAfter extends StudioPart {
  held = false;

  get steps() {
    return this.studio.project.document.layers.flatMap((layer, index) =>
      (layer.effects || []).flatMap((effect, number) =>
        effect.on === false ? [] : [{ op: "add", path: `/layers/${index}/effects/${number}/on`, value: false }],
      ),
    );
  }
  hold() {
    const { steps } = this;
    if (this.held || !steps.length) return;
    this.held = true;
    this.studio.project.tryOut(steps);
  }
  release() {
    if (!this.held) return;
    this.held = false;
    this.studio.project.draft = null;
    this.studio.stage.showStill();
  }
}
