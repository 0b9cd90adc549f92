// Signals added, copied, fitted, suggested and deleted.

import { ask, refusalOf } from "../lib/api.js";
import { plain } from "../lib/json_patch.js";
import { newId } from "../lib/ids.js";
import { partWith } from "../lib/studio_part.js";

export class SignalEdits extends partWith(
  "events",
  "given",
  "messages",
  "playback",
  "project",
  "signals",
  "spectrumPanel",
  "tracks",
) {
  /** @type {string | null} */
  suggestedFor = null;
  /** @type {any} */
  suggested = null;
  /** @type {any} */
  leaving = null; // {signal, hangs}: what a deletion would take along
  /**
   * @param {any} kindName
   * @param {any} [settings]
   * @param {string} [name]
   */
  addSignal(kindName, settings = {}, name = "") {
    const kind = /** @type {SignalKind} */ (this.given.signalKinds.find((candidate) => candidate.kind === kindName));
    const defaults = Object.fromEntries(kind.settings.map((setting) => [setting.name, plain(setting.default)]));
    const signal = {
      id: newId(),
      kind: kindName,
      name: this.signals.freeName(name || kind.title),
      colour: this.signals.nextColour(),
      settings: { ...defaults, ...settings },
    };
    this.project.edit(`Add ${signal.name}`, [{ op: "add", path: "/signals/-", value: signal }]);
    this.events.emit("signal-added");
    this.signals.chooseSignal(signal);
    return signal;
  }

  /** @param {any} kind */
  addKind(kind) {
    const { signal } = this.signals;
    const reads = kind.settings.find((/** @type {Setting} */ { name }) => name === kind.reads);
    // What is made of one or two signals is mostly wanted of the one that is looked at.
    const of = signal && reads && reads.hi <= 2 ? { [reads.name]: [signal.id] } : {};
    this.addSignal(kind.kind, {
      ...of,
      ...(kind.voice && this.tracks.voice ? { listens: this.tracks.voice.id } : {}),
    });
  }

  /** @param {any} place */
  async addPlace(place) {
    const limit = this.spectrumPanel.nyquist;
    const signal = this.addSignal(
      this.signals.bandKind,
      { low_hz: place.low, high_hz: Math.min(place.high, limit) },
      place.name,
    );
    await this.project.settled();
    await this.fitSignals([signal.id]);
  }

  /** @param {any} found */
  addSuggestion(found) {
    this.addSignal(this.signals.bandKind, plain(found.settings), found.name);
    this.suggested = this.suggested.filter((/** @type {any} */ other) => other !== found);
  }

  addSuggestions() {
    for (const found of [...this.suggested]) this.addSuggestion(found);
  }

  copySignal() {
    const copy = {
      ...plain(this.signals.signal),
      id: newId(),
      name: this.signals.freeName(this.signals.signal.name),
      colour: this.signals.nextColour(),
    };
    this.project.edit(`Copy ${this.signals.signal.name}`, [
      { op: "add", path: `/signals/${this.signals.signalIndex + 1}`, value: copy },
    ]);
    this.signals.chooseSignal(copy);
  }

  /** @param {FieldEvent} event */
  renameSignal(event) {
    const name = event.target.value.trim();
    if (name && name !== this.signals.signal.name)
      this.project.edit(`Rename ${this.signals.signal.name}`, [
        { op: "replace", path: `/signals/${this.signals.signalIndex}/name`, value: name },
      ]);
    else event.target.value = this.signals.signal.name;
  }

  /** @param {FieldEvent} event */
  recolour(event) {
    this.project.edit(`Colour of ${this.signals.signal.name}`, [
      {
        op: "replace",
        path: `/signals/${this.signals.signalIndex}/colour`,
        value: event.target.value,
      },
    ]);
  }

  askToDrop() {
    const hangs = this.signals.hangsOn(this.signals.signal).map((item) => item.text);
    this.leaving = { signal: this.signals.signal, hangs };
    if (hangs.length) this.events.emit("leaving", true);
    else this.dropSignal();
  }

  stay() {
    this.events.emit("leaving", false);
  }

  dropSignal() {
    const { signal } = this.leaving;
    const index = this.signals.signals.findIndex((other) => other.id === signal.id);
    const hangs = this.signals.hangsOn(signal);
    /** @type {{op: string, path: string, value?: any}[]} */
    const patch = hangs
      .filter((item) => item.patch)
      .sort((a, b) => b.layerIndex - a.layerIndex || b.patchIndex - a.patchIndex)
      .map((item) => ({ op: "remove", path: `/layers/${item.layerIndex}/patches/${item.patchIndex}` }));
    for (const item of hangs.filter((candidate) => candidate.mix)) {
      patch.push({
        op: "replace",
        path: this.signals.inputsPath(item.mix),
        value: this.signals.inputsOf(item.mix).filter((id) => id !== signal.id),
      });
    }
    patch.push({ op: "remove", path: `/signals/${index}` });
    this.events.emit("leaving", false);
    this.project.edit(`Delete ${signal.name}`, patch);
    const next = this.signals.signals[Math.max(0, index - 1)];
    this.signals.chosenSignal = next ? next.id : null;
    this.messages.tell(`${signal.name} is deleted.`, "Undo", () => this.project.undo());
  }

  /** @param {any} other */
  toggleInput(other) {
    const { signal } = this.signals;
    const inputs = this.signals.inputsOf(signal);
    // Where no more have room, it takes the place of the last.
    const most = this.signals.mostInputs(signal);
    const value = inputs.includes(other.id)
      ? inputs.filter((id) => id !== other.id)
      : [...inputs.slice(0, most - 1), other.id];
    const path = this.signals.inputsPath(signal);
    this.project.edit(`${signal.name}: signals`, [{ op: "replace", path, value }]);
  }

  get otherSignals() {
    return this.signals.signals.filter((signal) => signal.id !== this.signals.chosenSignal);
  }

  /** @param {any} other */
  reads(other) {
    return this.signals.inputsOf(this.signals.signal).includes(other.id);
  }

  /**
   * Its place among those that are read, where there may be several.
   * @param {any} other
   */
  orderOf(other) {
    const { signal } = this.signals;
    return this.reads(other) && this.signals.mostInputs(signal) > 1
      ? String(this.signals.inputsOf(signal).indexOf(other.id) + 1)
      : "";
  }

  get mixFault() {
    return this.project.faults[this.signals.inputsPath(this.signals.signal)] || "";
  }

  /**
   * @param {any} ids
   * @param {boolean} [stretch]
   */
  async fitSignals(ids, stretch = false) {
    const json = { signals: ids };
    if (stretch && this.playback.loop)
      Object.assign(json, {
        from_s: this.playback.loop.first / this.project.rate,
        to_s: this.playback.loop.last / this.project.rate,
      });
    try {
      const found = await ask(`/projects/${this.project.state.id}/fit-signals`, { json });
      const patch = [];
      for (const [id, range] of Object.entries(found)) {
        const index = this.signals.signals.findIndex((signal) => signal.id === id);
        for (const [name, value] of Object.entries(range))
          patch.push({ op: "replace", path: `/signals/${index}/settings/${name}`, value });
      }
      if (patch.length)
        this.project.edit(
          ids && ids.length === 1 ? `Fit ${this.signals.signalById(ids[0]).name}` : "Fit all pickups",
          patch,
        );
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.messages.tell(problem.message);
    }
  }

  fitSignal() {
    return this.fitSignals([this.signals.signal.id], true);
  }

  fitAll() {
    return this.fitSignals(null);
  }

  get fitTitle() {
    return this.playback.loop ? "Read Quiet and Loud from the loop" : "Read Quiet and Loud from the whole project";
  }

  async loadSuggestions() {
    const name = this.project.track
      ? [this.project.track.media, this.project.track.in_s, this.project.track.out_s].join(":")
      : "";
    if (!name || this.suggestedFor === name) return;
    this.suggestedFor = name;
    try {
      const found = await ask(`/projects/${this.project.state.id}/suggestions`);
      const known = this.signals.signals.map((signal) => signal.name);
      this.suggested = found.filter((/** @type {any} */ item) => !known.includes(item.name));
    } catch {
      this.suggestedFor = null;
    }
  }

  get suggestionsShown() {
    return Boolean(this.suggested && this.suggested.length && this.project.track);
  }

  /**
   * @param {any} form
   * @param {Signal | null} [signal]
   */
  signalsFile(form, signal = null) {
    return `/projects/${this.project.state.id}/signals.${form}${signal ? `?signal=${signal.id}` : ""}`;
  }
}
