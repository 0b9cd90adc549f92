// Rows of effects, kept by name on a shelf, or copied from layer to layer, with the patches that move them.

import { ask, refusalOf } from "../lib/api.js";
import { newId } from "../lib/ids.js";
import { plain } from "../lib/json_patch.js";
import { partWith } from "../lib/studio_part.js";

const HELD = "velvet-effects";

export class EffectChains extends partWith(
  "effectChoices",
  "layerEdits",
  "messages",
  "parts",
  "project",
  "selection",
  "signals",
) {
  /** @type {any[]} */
  chains = [];
  name = "";
  fault = "";

  get listed() {
    return this.chains.map((chain) => ({
      ...chain,
      key: chain.id || chain.name,
      note: `${chain.purpose} · ${chain.chain.effects.length} effects`,
    }));
  }

  get hasEffects() {
    const { layer } = this.selection;
    return Boolean(layer && (layer.effects || []).length);
  }

  async load() {
    this.fault = "";
    try {
      this.chains = (await ask("/effect-chains")).chains;
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
  }

  /** The effects of the chosen layer, with what moves them and the names of those signals. */
  ofLayer() {
    const { layer } = this.selection;
    const names = new Map(this.signals.signals.map(({ id, name }) => [id, name]));
    const patches = layer.patches
      .filter((patch) => patch.setting.startsWith("effect:"))
      .map((patch) => ({ ...plain(patch), signal_name: names.get(patch.signal) || "" }));
    return { effects: plain(layer.effects || []), patches };
  }

  async keep() {
    this.fault = "";
    try {
      await ask("/effect-chains", { json: { name: this.name, chain: this.ofLayer() } });
      this.name = "";
      await this.load();
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
  }

  /** @param {any} chain */
  async remove(chain) {
    try {
      await ask(`/effect-chains/${chain.id}`, { method: "DELETE" });
      await this.load();
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
  }

  /**
   * A chain as this project can have it: ids of its own, signals by id or name, else the first; readers of layers that
   * are not here are cleared.
   * @param {any} values
   */
  fitting({ effects, patches }) {
    const { signals } = this.signals;
    const ids = new Map(effects.map((/** @type {any} */ { id }) => [id, newId()]));
    const known = new Set(this.project.document.layers.map(({ id }) => id));
    const kinds = this.parts.sortNamed("effect").kinds;
    const made = effects.map((/** @type {Part} */ effect) => {
      const settings = { ...plain(effect.settings) };
      const kind = kinds.find((candidate) => candidate.kind === effect.kind);
      for (const setting of kind ? kind.settings : [])
        if (setting.names_layer && !known.has(settings[setting.name])) settings[setting.name] = "";
      return { ...plain(effect), id: ids.get(effect.id), settings };
    });
    const signalOf = (/** @type {any} */ patch) =>
      signals.find(({ id }) => id === patch.signal) ||
      signals.find(({ name }) => name === patch.signal_name) ||
      (patch.signal_name ? null : signals[0]);
    const moved = patches.flatMap((/** @type {any} */ { signal_name, ...patch }) => {
      const signal = signalOf({ signal_name, ...patch });
      const [sort, id, name] = patch.setting.split(":");
      return signal && ids.has(id)
        ? [{ ...plain(patch), setting: `${sort}:${ids.get(id)}:${name}`, signal: signal.id }]
        : [];
    });
    return { effects: made, patches: moved, lost: patches.length - moved.length };
  }

  /** @param {any} chain */
  point(chain) {
    const { effects, patches } = this.fitting(chain.chain);
    this.project.tryOut(this.effectChoices.steps(effects, patches));
  }

  /** @param {any} chain */
  use(chain) {
    this.put(chain.chain, chain.name);
    this.effectChoices.shown = false;
  }

  /**
   * @param {any} chain
   * @param {string} what
   */
  put(chain, what) {
    const { effectChoices, layerEdits, messages, project, selection } = this;
    if (layerEdits.refuseLocked()) return;
    const { effects, patches, lost } = this.fitting(chain);
    project.edit(`${selection.layer.name}: ${what}`, effectChoices.steps(effects, patches));
    if (lost) messages.tell(`Put on ${selection.layer.name}; ${lost} of its patches have no signal here.`);
  }

  copy() {
    const chain = this.ofLayer();
    localStorage.setItem(HELD, JSON.stringify(chain));
    this.messages.tell(`${chain.effects.length} effects are copied; paste them here or in another project.`);
  }

  paste() {
    let chain = null;
    try {
      chain = JSON.parse(localStorage.getItem(HELD) || "null");
    } catch {
      /* nothing that can be read was kept */
    }
    if (chain) this.put(chain, "paste effects");
    else this.messages.tell("No effects have been copied yet.");
  }
}
