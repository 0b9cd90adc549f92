// Adding an effect: every one as a picture of the user's own layer with it, tried by pointing, added by a click.

import { ask } from "../lib/api.js";
import { newId } from "../lib/ids.js";
import { plain } from "../lib/json_patch.js";
import { StudioPart } from "../lib/studio_part.js";

export class EffectChoices extends StudioPart {
  shown = false;
  shelf = false; // the chains, in place of single effects
  families = {};
  family = "light";
  choices = [];
  state = ""; // busy, failed or ready
  fault = "";
  of = ""; // id of the layer that the pictures are of

  get tabs() {
    const own = Object.entries(this.families).map(([name, title]) => ({ name, title }));
    return [...own, { name: "chains", title: "Chains" }];
  }
  isTab(name) {
    return this.shelf ? name === "chains" : name === this.family;
  }
  show(name) {
    this.shelf = name === "chains";
    if (this.shelf) this.studio.effectChains.load();
    else this.family = name;
  }
  get listed() {
    return this.choices.filter(({ family }) => family === this.family);
  }
  get adds() {
    return this.studio.selection.tab === "effect";
  }
  toggle() {
    this.shown = !this.shown;
    if (this.shown) this.load();
    else this.leave();
  }
  /** The pictures are those of one layer: another one has its own. */
  layerChosen() {
    if (!this.shown) return;
    this.leave();
    if (this.studio.selection.chosen && this.studio.selection.chosen !== this.of) this.load();
  }
  async load() {
    const { project, selection } = this.studio;
    this.of = selection.chosen;
    this.state = "busy";
    this.fault = "";
    try {
      await project.settled();
      const json = { layer: selection.chosen };
      const found = await ask(`/projects/${project.state.id}/effect-choices`, { json });
      if (this.of !== json.layer) return;
      this.families = found.families;
      this.choices = found.choices;
      this.state = "ready";
    } catch (problem) {
      this.fault = problem.message;
      this.state = "failed";
    }
  }
  steps(effects, patches = []) {
    const { selection } = this.studio;
    const base = `/layers/${selection.layerIndex}`;
    return [
      ...effects.map((value) => ({ op: "add", path: `${base}/effects/-`, value })),
      ...patches.map((value) => ({ op: "add", path: `${base}/patches/-`, value })),
    ];
  }
  /** The picture shows it while the pointer, or the focus, is on it. */
  point(choice) {
    this.studio.project.tryOut(this.steps([plain(choice.effect)]));
  }
  leave() {
    if (!this.studio.project.draft) return;
    this.studio.project.draft = null;
    this.studio.stage.showStill();
  }
  add(choice) {
    const { layerEdits, parts, project, selection } = this.studio;
    if (layerEdits.refuseLocked()) return;
    const effect = { ...plain(choice.effect), id: newId() };
    project.edit(`${selection.layer.name}: add ${choice.name.toLowerCase()}`, this.steps([effect]));
    parts.openPart = effect.id;
    this.shown = false;
  }
}
