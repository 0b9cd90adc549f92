// Adding an effect: every one as a picture of the user's own layer with it, tried by pointing, added by a click.

import { ask, refusalOf } from "../lib/api.js";
import { DrawnChoices } from "../lib/drawn_choices.js";
import { newId } from "../lib/ids.js";
import { plain } from "../lib/json_patch.js";
import { partWith } from "../lib/studio_part.js";

export class EffectChoices extends partWith("effectChains", "layerEdits", "parts", "project", "selection", "stage") {
  shown = false;
  shelf = false; // the chains, in place of single effects
  of = ""; // id of the layer that the pictures are of
  pointed = -1; // place of the choice that the pointer or the focus is on, while it waits to be drawn
  list = new DrawnChoices(
    "/effect-choices",
    async (first, count) => {
      const { project } = this;
      await project.settled();
      const json = { layer: this.of, first, count };
      return (await ask(`/projects/${project.state.id}/effect-choices`, { json })).choices;
    },
    () => {
      if (this.pointed >= 0) this.point(this.list.all[this.pointed]);
    },
  );

  get tabs() {
    return [...this.list.tabs, { name: "chains", title: "Chains" }];
  }

  /** @param {string} name */
  isTab(name) {
    return this.shelf ? name === "chains" : this.list.isOpen(name);
  }

  /** @param {FieldEvent} event */
  seek(event) {
    this.shelf = false;
    this.list.seek(event.target.value);
  }

  /** @param {string} name */
  show(name) {
    this.shelf = name === "chains";
    if (this.shelf) this.effectChains.load();
    else this.list.open(name);
  }

  get adds() {
    return this.selection.tab === "effect";
  }

  toggle() {
    this.shown = !this.shown;
    if (this.shown) {
      this.load();
    } else {
      this.list.close();
      this.leave();
    }
  }

  /** The pictures are those of one layer: another one has its own. */
  layerChosen() {
    if (!this.shown) return;
    this.leave();
    if (this.selection.chosen && this.selection.chosen !== this.of) this.load();
  }

  load() {
    this.of = this.selection.chosen || "";
    this.list.close();
    for (const choice of this.list.all) choice.picture = "";
    this.list.open(this.list.family || "light");
  }

  /**
   * @param {Part[]} effects
   * @param {Patch[]} [patches]
   */
  steps(effects, patches = []) {
    const { selection } = this;
    const base = `/layers/${selection.layerIndex}`;
    return [
      ...effects.map((value) => ({ op: "add", path: `${base}/effects/-`, value })),
      ...patches.map((value) => ({ op: "add", path: `${base}/patches/-`, value })),
    ];
  }

  /**
   * The picture shows it while the pointer, or the focus, is on it: as soon as it is drawn.
   * @param {import("../lib/drawn_choices.js").Choice} choice
   */
  point(choice) {
    this.pointed = choice.effect ? -1 : choice.place;
    if (choice.effect) this.project.tryOut(this.steps([plain(choice.effect)]));
  }

  leave() {
    this.pointed = -1;
    if (!this.project.draft) return;
    this.project.draft = null;
    this.stage.showStill();
  }

  /** @param {any} named */
  async add(named) {
    const { layerEdits, parts, project, selection } = this;
    if (layerEdits.refuseLocked()) return;
    let choice;
    try {
      choice = await this.list.complete(named);
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.list.fault = problem.message;
      return;
    }
    const effect = { ...plain(choice.effect), id: newId() };
    project.edit(`${selection.layer.name}: add ${choice.name.toLowerCase()}`, this.steps([effect]));
    parts.openPart = effect.id;
    this.shown = false;
  }
}
