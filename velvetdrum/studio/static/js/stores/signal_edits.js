// Signals added, copied, fitted, suggested and deleted.

import { ask } from "../lib/api.js";
import { plain } from "../lib/json_patch.js";
import { newId } from "../lib/ids.js";
import { StudioPart } from "../lib/studio_part.js";

export class SignalEdits extends StudioPart {
  suggestedFor = null;
  suggested = null;
  leaving = null; // {signal, hangs}: what a deletion would take along
  addSignal(kindName, settings = {}, name = "") {
    const kind = this.studio.given.signalKinds.find((candidate) => candidate.kind === kindName);
    const defaults = Object.fromEntries(kind.settings.map((setting) => [setting.name, plain(setting.default)]));
    const signal = {
      id: newId(),
      kind: kindName,
      name: this.studio.signals.freeName(name || kind.title),
      colour: this.studio.signals.nextColour(),
      settings: { ...defaults, ...settings },
    };
    this.studio.project.edit(`Add ${signal.name}`, [{ op: "add", path: "/signals/-", value: signal }]);
    this.studio.events.emit("signal-added");
    this.studio.signals.chooseSignal(signal);
    return signal;
  }
  addKind(kind) {
    this.addSignal(kind.kind);
  }
  async addPlace(place) {
    const limit = this.studio.spectrumPanel.nyquist;
    const signal = this.addSignal(
      this.studio.signals.bandKind,
      { low_hz: place.low, high_hz: Math.min(place.high, limit) },
      place.name,
    );
    await this.studio.project.settled();
    await this.fitSignals([signal.id]);
  }
  addSuggestion(found) {
    this.addSignal(this.studio.signals.bandKind, plain(found.settings), found.name);
    this.suggested = this.suggested.filter((other) => other !== found);
  }
  addSuggestions() {
    for (const found of [...this.suggested]) this.addSuggestion(found);
  }
  copySignal() {
    const copy = {
      ...plain(this.studio.signals.signal),
      id: newId(),
      name: this.studio.signals.freeName(this.studio.signals.signal.name),
      colour: this.studio.signals.nextColour(),
    };
    this.studio.project.edit(`Copy ${this.studio.signals.signal.name}`, [
      { op: "add", path: `/signals/${this.studio.signals.signalIndex + 1}`, value: copy },
    ]);
    this.studio.signals.chooseSignal(copy);
  }
  renameSignal(event) {
    const name = event.target.value.trim();
    if (name && name !== this.studio.signals.signal.name)
      this.studio.project.edit(`Rename ${this.studio.signals.signal.name}`, [
        { op: "replace", path: `/signals/${this.studio.signals.signalIndex}/name`, value: name },
      ]);
    else event.target.value = this.studio.signals.signal.name;
  }
  recolour(event) {
    this.studio.project.edit(`Colour of ${this.studio.signals.signal.name}`, [
      {
        op: "replace",
        path: `/signals/${this.studio.signals.signalIndex}/colour`,
        value: event.target.value,
      },
    ]);
  }
  askToDrop() {
    const hangs = this.studio.signals.hangsOn(this.studio.signals.signal).map((item) => item.text);
    this.leaving = { signal: this.studio.signals.signal, hangs };
    if (hangs.length) this.studio.events.emit("leaving", true);
    else this.dropSignal();
  }
  stay() {
    this.studio.events.emit("leaving", false);
  }
  dropSignal() {
    const { signal } = this.leaving;
    const index = this.studio.signals.signals.findIndex((other) => other.id === signal.id);
    const hangs = this.studio.signals.hangsOn(signal);
    /** @type {{op: string, path: string, value?: any}[]} */
    const patch = hangs
      .filter((item) => item.patch)
      .sort((a, b) => b.layerIndex - a.layerIndex || b.patchIndex - a.patchIndex)
      .map((item) => ({ op: "remove", path: `/layers/${item.layerIndex}/patches/${item.patchIndex}` }));
    for (const item of hangs.filter((candidate) => candidate.mix)) {
      patch.push({
        op: "replace",
        path: `/signals/${item.index}/settings/of`,
        value: item.mix.settings.of.filter((id) => id !== signal.id),
      });
    }
    patch.push({ op: "remove", path: `/signals/${index}` });
    this.studio.events.emit("leaving", false);
    this.studio.project.edit(`Delete ${signal.name}`, patch);
    const next = this.studio.signals.signals[Math.max(0, index - 1)];
    this.studio.signals.chosenSignal = next ? next.id : null;
    this.studio.messages.tell(`${signal.name} is deleted.`, "Undo", () => this.studio.project.undo());
  }
  toggleInput(other) {
    const of = this.studio.signals.signal.settings.of.includes(other.id)
      ? this.studio.signals.signal.settings.of.filter((id) => id !== other.id)
      : [...this.studio.signals.signal.settings.of, other.id];
    this.studio.project.edit(`${this.studio.signals.signal.name}: signals`, [
      { op: "replace", path: `/signals/${this.studio.signals.signalIndex}/settings/of`, value: of },
    ]);
  }
  get otherSignals() {
    return this.studio.signals.signals.filter((signal) => signal.id !== this.studio.signals.chosenSignal);
  }
  reads(other) {
    return this.studio.signals.signal.settings.of.includes(other.id);
  }
  get mixFault() {
    return this.studio.project.faults[`/signals/${this.studio.signals.signalIndex}/settings/of`] || "";
  }
  async fitSignals(ids, stretch = false) {
    const json = { signals: ids };
    if (stretch && this.studio.playback.loop)
      Object.assign(json, {
        from_s: this.studio.playback.loop.first / this.studio.project.rate,
        to_s: this.studio.playback.loop.last / this.studio.project.rate,
      });
    try {
      const found = await ask(`/projects/${this.studio.project.state.id}/fit-signals`, { json });
      const patch = [];
      for (const [id, range] of Object.entries(found)) {
        const index = this.studio.signals.signals.findIndex((signal) => signal.id === id);
        for (const [name, value] of Object.entries(range))
          patch.push({ op: "replace", path: `/signals/${index}/settings/${name}`, value });
      }
      if (patch.length)
        this.studio.project.edit(
          ids && ids.length === 1 ? `Fit ${this.studio.signals.signalById(ids[0]).name}` : "Fit all pickups",
          patch,
        );
    } catch (problem) {
      this.studio.messages.tell(problem.message);
    }
  }
  fitSignal() {
    return this.fitSignals([this.studio.signals.signal.id], true);
  }
  fitAll() {
    return this.fitSignals(null);
  }
  get fitTitle() {
    return this.studio.playback.loop
      ? "Read Quiet and Loud from the loop"
      : "Read Quiet and Loud from the whole project";
  }
  async loadSuggestions() {
    const name = this.studio.project.track
      ? [this.studio.project.track.media, this.studio.project.track.in_s, this.studio.project.track.out_s].join(":")
      : "";
    if (!name || this.suggestedFor === name) return;
    this.suggestedFor = name;
    try {
      const found = await ask(`/projects/${this.studio.project.state.id}/suggestions`);
      const known = this.studio.signals.signals.map((signal) => signal.name);
      this.suggested = found.filter((item) => !known.includes(item.name));
    } catch {
      this.suggestedFor = null;
    }
  }
  get suggestionsShown() {
    return Boolean(this.suggested && this.suggested.length && this.studio.project.track);
  }
  signalsFile(form, signal = null) {
    return `/projects/${this.studio.project.state.id}/signals.${form}${signal ? `?signal=${signal.id}` : ""}`;
  }
}
