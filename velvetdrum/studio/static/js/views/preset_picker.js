// Adding a layer: every figure as a picture, drawn from the project's own sound at its loudest moment.

import { ask, refusalOf } from "../lib/api.js";
import { DrawnChoices } from "../lib/drawn_choices.js";
import { newId } from "../lib/ids.js";
import { plain } from "../lib/json_patch.js";
import { partWith } from "../lib/studio_part.js";

export class PresetPicker extends partWith(
  "kinds",
  "layers",
  "page",
  "partReaders",
  "project",
  "selection",
  "signals",
) {
  list = new DrawnChoices("/choices", async (first, count) => {
    const json = { first, count };
    return (await ask(`/projects/${this.project.state.id}/choices`, { json })).choices;
  });

  get note() {
    return this.project.track
      ? "Drawn from your sound at its loudest moment."
      : "There is no sound yet; bring one in to see them at work.";
  }

  openChoices() {
    this.page.refs.choices.showModal();
    this.list.open(this.list.family || "spectrum");
  }

  /** @param {FieldEvent} event */
  seek(event) {
    this.list.seek(event.target.value);
  }

  closeChoices() {
    this.page.refs.choices.close();
    this.list.close();
  }

  /** @param {any} named */
  async addChoice(named) {
    let choice;
    try {
      choice = await this.list.complete(named);
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.list.fault = problem.message;
      return;
    }
    const layer = plain(choice.layer);
    layer.id = newId();
    for (const [name, empty] of Object.entries({
      ...this.partReaders.emptyParts,
      keyframes: {},
      frames: {},
      group: "",
    }))
      layer[name] ??= empty;
    this.leadToChosen(layer);
    const behind = this.layers.placeFor(layer.kind);
    this.closeChoices();
    this.project.edit(`Add ${layer.name}`, [
      ...this.freshSignals(choice, layer),
      { op: "add", path: `/layers/${behind}`, value: layer },
      ...this.takenIn(layer, behind),
    ]);
    this.selection.choose(layer);
    this.selection.openTab("shape");
  }

  /**
   * A layer that always shows another one begins with the one that is chosen.
   * @param {Layer} layer
   */
  leadToChosen(layer) {
    const kind = this.kinds.find((known) => known.kind === layer.kind);
    const shows = kind?.settings.find((setting) => setting.names_layer && !setting.when.length);
    if (shows && this.selection.chosen) layer.settings[shows.name] ||= this.selection.chosen;
  }

  /**
   * The signals that a design's patches follow and the project lacks; each gets an id of its own.
   * @param {import("../lib/drawn_choices.js").Choice} choice
   * @param {Layer} layer
   */
  freshSignals(choice, layer) {
    return plain(choice.signals || []).map((/** @type {Signal} */ signal) => {
      const id = newId();
      for (const patch of layer.patches) if (patch.signal === signal.id) patch.signal = id;
      const value = { ...signal, id, name: this.signals.freeName(signal.name) };
      return { op: "add", path: "/signals/-", value };
    });
  }

  /**
   * A layer that holds others begins with those that are chosen.
   * @param {Layer} layer
   * @param {number} at
   */
  takenIn(layer, at) {
    if (!this.layers.isGroup(layer)) return [];
    return this.selection.selected
      .filter((id) => !this.layers.groupOf(this.layers.byId(id)))
      .map((id) => {
        const place = this.layers.indexOf(id);
        return { op: "replace", path: `/layers/${place < at ? place : place + 1}/group`, value: layer.id };
      });
  }
}
