// Signals: the list, their settings, what each is doing now, suggestions, fitting; and their curves for the canvases.

import { ask, plain } from "./api.js";

// Outside of Alpine's reach: a wrapped list is slow to walk, and this one never changes.
const AXIS = JSON.parse(document.getElementById("given").textContent).axis;
const BLOCK = 512; // frames of values that are asked for at once

const ident = () => Math.random().toString(16).slice(2, 10).padEnd(8, "0");

export const signals = {
  chosenSignal: null,
  soundView: "signals",
  spectrumView: "now",
  live: {}, // id -> value now, 0 to 1
  lit: [], // ids of signals that are pointed at
  suggested: null,
  judged: { at_0: 0, at_1: 0, advice: "" },
  point: -1,
  hearing: null,
  leaving: null, // {signal, hangs}: what a deletion would take along
  pointsFault: "",

  get signals() { return this.document.signals; },
  get signal() { return this.signals.find((signal) => signal.id === this.chosenSignal) || null; },
  get signalIndex() { return this.signals.findIndex((signal) => signal.id === this.chosenSignal); },
  signalById(id) { return this.signals.find((signal) => signal.id === id) || null; },
  signalKind(signal) { return this.given.signalKinds.find((kind) => kind.kind === signal.kind); },
  isSignal(signal) { return signal.id === this.chosenSignal; },
  /** The kind that a band of the spectrum becomes. */
  get bandKind() { return this.given.signalKinds.find((kind) => kind.band).kind; },
  /** True when the chosen signal's kind says so of itself: that it follows a band, is drawn, reads others, keeps to beats. */
  isOfKind(trait) { return Boolean(this.signal && this.signalKind(this.signal)[trait]); },
  hasBand(signal) { return Boolean(signal && this.signalKind(signal).band); },
  get isPickup() { return this.hasBand(this.signal); },
  get isDrawn() { return this.isOfKind("drawn"); },
  get isMix() { return this.isOfKind("reads"); },
  get isClock() { return this.isOfKind("beats"); },
  get anyPickup() { return this.signals.some((signal) => this.hasBand(signal)); },
  dot(signal) { return signal ? { "--dot": signal.colour } : {}; },
  signalNote(signal) { return this.summaryOf(this.signalKind(signal), signal.settings).join(" · "); },
  countText(signal) {
    const count = this.hangsOn(signal).length;
    return count ? String(count) : "";
  },
  liveBar(signal) { return { width: `${Math.round(Math.max(0, Math.min(1, this.live[signal.id] || 0)) * 100)}%`, background: signal.colour }; },
  chooseSignal(signal) {
    this.chosenSignal = signal.id;
    this.point = -1;
    if (this.hearing) this.hear(signal);
    this.readCurve();
  },
  openSignal(signal) {
    this.soundView = "signals";
    this.chooseSignal(signal);
    this.go("sound");
  },
  showView(name) {
    this.soundView = name;
    this.$nextTick(() => { this.drawWaves(); this.spectrum.draw(); this.curveView.draw(); });
  },
  isView(name) { return this.soundView === name; },

  // Adding, naming, deleting
  nextColour() {
    const used = this.signals.map((signal) => signal.colour);
    const { colours } = this.given;
    const least = Math.min(...colours.map((colour) => used.filter((other) => other === colour).length));
    return colours.find((colour) => used.filter((other) => other === colour).length === least);
  },
  freeName(name) {
    const names = this.signals.map((signal) => signal.name);
    if (!names.includes(name)) return name;
    let number = 2;
    while (names.includes(`${name} ${number}`)) number += 1;
    return `${name} ${number}`;
  },
  addSignal(kindName, settings = {}, name = "") {
    const kind = this.given.signalKinds.find((candidate) => candidate.kind === kindName);
    const defaults = Object.fromEntries(kind.settings.map((setting) => [setting.name, plain(setting.default)]));
    const signal = { id: ident(), kind: kindName, name: this.freeName(name || kind.title), colour: this.nextColour(), settings: { ...defaults, ...settings } };
    this.edit(`Add ${signal.name}`, [{ op: "add", path: "/signals/-", value: signal }]);
    if (this.$refs.addingSignal) this.$refs.addingSignal.open = false;
    this.chooseSignal(signal);
    return signal;
  },
  addKind(kind) { this.addSignal(kind.kind); },
  async addPlace(place) {
    const limit = this.nyquist;
    const signal = this.addSignal(this.bandKind, { low_hz: place.low, high_hz: Math.min(place.high, limit) }, place.name);
    await this.settled();
    await this.fitSignals([signal.id]);
  },
  addSuggestion(found) {
    this.addSignal(this.bandKind, plain(found.settings), found.name);
    this.suggested = this.suggested.filter((other) => other !== found);
  },
  addSuggestions() { for (const found of [...this.suggested]) this.addSuggestion(found); },
  copySignal() {
    const copy = { ...plain(this.signal), id: ident(), name: this.freeName(this.signal.name), colour: this.nextColour() };
    this.edit(`Copy ${this.signal.name}`, [{ op: "add", path: `/signals/${this.signalIndex + 1}`, value: copy }]);
    this.chooseSignal(copy);
  },
  renameSignal(event) {
    const name = event.target.value.trim();
    if (name && name !== this.signal.name) this.edit(`Rename ${this.signal.name}`, [{ op: "replace", path: `/signals/${this.signalIndex}/name`, value: name }]);
    else event.target.value = this.signal.name;
  },
  recolour(event) {
    this.edit(`Colour of ${this.signal.name}`, [{ op: "replace", path: `/signals/${this.signalIndex}/colour`, value: event.target.value }]);
  },
  /** Everything that a signal drives: patches of layers, and mixes that read it. */
  hangsOn(signal) {
    const found = [];
    this.document.layers.forEach((layer, layerIndex) => (layer.patches || []).forEach((patch, patchIndex) => {
      if (patch.signal === signal.id) found.push({ layer, layerIndex, patch, patchIndex, text: `${layer.name}: ${this.settingOf(layer, patch.setting).label}` });
    }));
    this.signals.forEach((other, index) => {
      if (this.signalKind(other).reads && other.settings[this.signalKind(other).reads].includes(signal.id)) found.push({ mix: other, index, text: `${other.name} (${this.signalKind(other).title.toLowerCase()})` });
    });
    return found;
  },
  askToDrop() {
    const hangs = this.hangsOn(this.signal).map((item) => item.text);
    this.leaving = { signal: this.signal, hangs };
    if (hangs.length) this.$refs.leaving.showModal();
    else this.dropSignal();
  },
  stay() { this.$refs.leaving.close(); },
  dropSignal() {
    const { signal } = this.leaving;
    const index = this.signals.findIndex((other) => other.id === signal.id);
    const hangs = this.hangsOn(signal);
    const patch = hangs.filter((item) => item.patch)
      .sort((a, b) => b.layerIndex - a.layerIndex || b.patchIndex - a.patchIndex)
      .map((item) => ({ op: "remove", path: `/layers/${item.layerIndex}/patches/${item.patchIndex}` }));
    for (const item of hangs.filter((candidate) => candidate.mix)) {
      patch.push({ op: "replace", path: `/signals/${item.index}/settings/of`, value: item.mix.settings.of.filter((id) => id !== signal.id) });
    }
    patch.push({ op: "remove", path: `/signals/${index}` });
    if (this.$refs.leaving.open) this.$refs.leaving.close();
    this.edit(`Delete ${signal.name}`, patch);
    const next = this.signals[Math.max(0, index - 1)];
    this.chosenSignal = next ? next.id : null;
    this.tell(`${signal.name} is deleted.`, "Undo", () => this.undo());
  },
  toggleInput(other) {
    const of = this.signal.settings.of.includes(other.id) ? this.signal.settings.of.filter((id) => id !== other.id) : [...this.signal.settings.of, other.id];
    this.edit(`${this.signal.name}: signals`, [{ op: "replace", path: `/signals/${this.signalIndex}/settings/of`, value: of }]);
  },
  get otherSignals() { return this.signals.filter((signal) => signal.id !== this.chosenSignal); },
  reads(other) { return this.signal.settings.of.includes(other.id); },
  get mixFault() { return this.faults[`/signals/${this.signalIndex}/settings/of`] || ""; },

  // Fitting and suggestions
  async fitSignals(ids, stretch = false) {
    const json = { signals: ids };
    if (stretch && this.loop) Object.assign(json, { from_s: this.loop.first / this.rate, to_s: this.loop.last / this.rate });
    try {
      const found = await ask(`/projects/${this.state.id}/fit-signals`, { json });
      const patch = [];
      for (const [id, range] of Object.entries(found)) {
        const index = this.signals.findIndex((signal) => signal.id === id);
        for (const [name, value] of Object.entries(range)) patch.push({ op: "replace", path: `/signals/${index}/settings/${name}`, value });
      }
      if (patch.length) this.edit(ids && ids.length === 1 ? `Fit ${this.signalById(ids[0]).name}` : "Fit all pickups", patch);
    } catch (problem) { this.tell(problem.message); }
  },
  fitSignal() { return this.fitSignals([this.signal.id], true); },
  fitAll() { return this.fitSignals(null); },
  get fitTitle() { return this.loop ? "Read Quiet and Loud from the loop" : "Read Quiet and Loud from the whole project"; },
  async loadSuggestions() {
    const name = this.track ? [this.track.media, this.track.in_s, this.track.out_s].join(":") : "";
    if (!name || this.suggestedFor === name) return;
    this.suggestedFor = name;
    try {
      const found = await ask(`/projects/${this.state.id}/suggestions`);
      const known = this.signals.map((signal) => signal.name);
      this.suggested = found.filter((item) => !known.includes(item.name));
    } catch { this.suggestedFor = null; }
  },
  get suggestionsShown() { return Boolean(this.suggested && this.suggested.length && this.track); },
  settled() { return new Promise((resolve) => { const look = () => (this.waiting.length || this.sending ? setTimeout(look, 20) : resolve()); look(); }); },

  // What the canvases show
  get nyquist() { return this.facts ? Math.min(24000, this.facts.sample_rate / 2) : 24000; },
  /** The document as it is being dragged. */
  draftValue(path, value) {
    const step = this.draft && this.draft.find((candidate) => candidate.path === path);
    return step ? step.value : value;
  },
  spectrumSource() {
    const pickups = this.signals.map((signal, index) => ({ signal, index })).filter(({ signal }) => this.hasBand(signal)).map(({ signal, index }) => {
      const get = (name) => this.draftValue(`/signals/${index}/settings/${name}`, signal.settings[name]);
      return { id: signal.id, name: signal.name, colour: signal.colour, low_hz: get("low_hz"), high_hz: get("high_hz"), quiet_db: get("quiet_db"), loud_db: get("loud_db"), heard: signal.id === this.chosenSignal ? this.heardLevel(get("quiet_db"), get("loud_db")) : null };
    });
    const highest = Math.max(0, ...pickups.map((pickup) => Math.ceil((pickup.loud_db + 3) / 6) * 6));
    return {
      key: this.track && this.facts ? this.track.media : "", channel: this.isPickup ? this.signal.settings.channel : "mix",
      from: this.inS, to: this.outS, now: this.inS + this.frame / this.rate, axis: AXIS, pickups,
      chosen: this.chosenSignal, top: highest, view: this.spectrumView, nyquist: this.nyquist,
    };
  },
  /** The level that the chosen pickup hears now, in dB; null outside its range. */
  heardLevel(quiet, loud) {
    const near = this.curves && this.curves.mark === this.curveMark && this.curves.near;
    if (!near || !near.unshaped || this.signal.settings.response !== 1) return null;
    const index = Math.floor(((this.frame / this.rate - near.from) / (near.to - near.from)) * near.unshaped.length);
    const part = (near.unshaped[index] || 0) / 1000;
    return part > 0.005 && part < 0.995 ? quiet + part * (loud - quiet) : null;
  },
  dragPickup(id, changes) {
    const index = this.signals.findIndex((signal) => signal.id === id);
    if (index < 0) { this.draft = null; this.showStill(); return; }
    this.tryOut(Object.entries(changes).map(([name, value]) => ({ op: "replace", path: `/signals/${index}/settings/${name}`, value })));
  },
  placePickup(id, changes) {
    const index = this.signals.findIndex((signal) => signal.id === id);
    const patch = Object.entries(changes).map(([name, value]) => ({ op: "replace", path: `/signals/${index}/settings/${name}`, value }));
    this.edit(`${this.signals[index].name}: band and range`, patch);
  },
  curveSource() {
    const { signal } = this;
    const points = this.isDrawn ? this.draftValue(`/signals/${this.signalIndex}/settings/curve`, signal.settings.curve) : null;
    return {
      id: signal ? signal.id : null, colour: signal ? signal.colour : "ink", length: this.length, now: this.frame / this.rate,
      whole: this.curves && this.curves.whole, near: this.curves && this.curves.near, points, point: this.point, beats: this.beatGrid.beats, kind: signal ? signal.kind : "",
    };
  },
  get curveMark() {
    const { signals: listed, beats, tracks, length_s, rate } = this.document;
    return JSON.stringify([listed, beats, tracks, length_s, rate, this.draft, this.chosenSignal]);
  },
  /** Read the chosen signal's curve: one question on its way, the newest state wins. */
  async readCurve() {
    this.curveView.draw();
    if (this.room !== "sound" || !this.signal || !this.facts) return;
    // With an edit on its way the answer could be of before or after it; when it is saved, this is called again.
    if (this.waiting.length && !this.draft) return;
    if (this.readingCurve) { this.readAgain = true; return; }
    this.readingCurve = true;
    do {
      this.readAgain = false;
      const { signal, curveMark } = this;
      const spans = this.curveView.spans();
      const width = Math.max(60, Math.min(2000, Math.round(this.$refs.curve.getBoundingClientRect().width)));
      // Around the playhead more than is seen, so that playing on needs no new question each moment.
      const near = [Math.max(0, spans.near[0] - 3), Math.min(this.length, spans.near[1] + 9)];
      const draft = this.draft || [];
      try {
        const columns = Math.max(60, Math.min(1600, Math.round((width * (near[1] - near[0])) / (spans.near[1] - spans.near[0]))));
        const wanted = [[spans.whole, width], [near, columns]].map(([[from_s, to_s], count]) => ({ from_s, to_s, columns: count }));
        const json = { signals: [signal.id], spans: wanted, detail: signal.id, ...(draft.length ? { draft } : {}) };
        const found = await ask(`/projects/${this.state.id}/curves`, { json });
        const shaped = (part, [from, to]) => ({ from, to, low: part.curves[signal.id][0], high: part.curves[signal.id][1], unshaped: part.unshaped });
        this.curves = { mark: curveMark, whole: shaped(found.spans[0], spans.whole), near: shaped(found.spans[1], near) };
        this.judged = found.judged;
        this.curveReads = (this.curveReads || 0) + 1;
      } catch { /* a state that can't be drawn: the last good curve stays, the reason stands beside the setting */ }
      this.curveView.draw();
    } while (this.readAgain);
    this.readingCurve = false;
  },
  /** While the playhead moves: ask for more of the curve when it comes near the end of what is there. */
  followCurve() {
    this.curveView.draw();
    this.spectrum.draw();
    if (this.room !== "sound" || !this.curves) return;
    const [from, to] = this.curveView.spans().near;
    const { near } = this.curves;
    if (from < near.from - 1e-6 || to > near.to - (this.playing ? Math.min(2, this.length - to) : 0) + 1e-6) this.readCurve();
  },

  // Values now, for the list and for patched settings
  async updateLive() {
    if (!this.signals.length) { this.live = {}; return; }
    const mark = `${this.state.revision}:${this.rate}:${Math.floor(this.frame / BLOCK)}`;
    this.liveBlocks ||= new Map();
    let block = this.liveBlocks.get(mark);
    if (!block) {
      block = {};
      this.liveBlocks.set(mark, block);
      if (this.liveBlocks.size > 24) this.liveBlocks.delete(this.liveBlocks.keys().next().value);
      const start = Math.floor(this.frame / BLOCK) * BLOCK;
      try { block.values = (await ask(`/projects/${this.state.id}/curves`, { json: { start, count: BLOCK } })).values; }
      catch { this.liveBlocks.delete(mark); return; }
    }
    if (!block.values) return;
    const next = {};
    for (const [id, values] of Object.entries(block.values)) next[id] = (values[this.frame % BLOCK] || 0) / 1000;
    this.live = next;
  },

  // Hearing
  hear(signal) {
    this.hearing = this.hasBand(signal) ? signal.id : null;
    const heard = this.hearing ? this.signalById(this.hearing) : null;
    this.player.hear(heard ? plain(heard.settings) : null);
  },
  async toggleHear() {
    this.hear(this.hearing ? null : this.signal);
    if (this.hearing && !this.playing) await this.toggle();
  },
  get hearText() { return this.hearing ? "hear everything" : "hear what it hears"; },

  // Drawn curves
  choosePoint(index) { this.point = index; this.curveView.draw(); },
  get pointChosen() { return this.isDrawn && this.signal.settings.curve[this.point] ? this.signal.settings.curve[this.point] : null; },
  tryPoints(points) { this.tryOut([{ op: "replace", path: `/signals/${this.signalIndex}/settings/curve`, value: points }]); },
  placeCurve(points, label) {
    this.pointsFault = "";
    this.edit(`${this.signal.name}: ${label.toLowerCase()}`, [{ op: "replace", path: `/signals/${this.signalIndex}/settings/curve`, value: points }]);
  },
  setPoint(change) {
    const points = plain(this.signal.settings.curve);
    Object.assign(points[this.point], change);
    this.placeCurve(points, "Move a point");
  },
  typeCurvePoint(name, event) {
    const value = Number(event.target.value.trim().replace(",", "."));
    if (event.target.value.trim() === "" || !Number.isFinite(value)) {
      this.pointsFault = `A point needs a number, not “${event.target.value}”.`;
      return;
    }
    this.setPoint({ [name]: value });
  },
  easePoint(event) { this.setPoint({ ease: event.target.value }); },
  dropPoint() {
    this.placeCurve(this.signal.settings.curve.filter((_, index) => index !== this.point), "Remove a point");
    this.point = -1;
  },
  get pointsProblem() {
    return this.pointsFault || this.faults[`/signals/${this.signalIndex}/settings/curve`] || "";
  },
  async importPoints(event) {
    const file = event.target.files[0];
    event.target.value = "";
    if (!file) return;
    try {
      const answer = await fetch(`/projects/${this.state.id}/points`, { method: "POST", body: file, headers: { "X-Velvet-Drum": "1", Accept: "application/json", "Content-Type": "text/csv" } });
      const data = await answer.json();
      if (!answer.ok) { this.pointsFault = `${file.name} was not read: ${data.error}`; return; }
      this.placeCurve(data.points, `Import ${file.name}`);
      this.tell(`${data.points.length} points from ${file.name}.`);
    } catch { this.pointsFault = "The server does not answer. Try again."; }
  },
  signalsFile(form, signal = null) {
    return `/projects/${this.state.id}/signals.${form}${signal ? `?signal=${signal.id}` : ""}`;
  },
  get pinnedText() {
    const per = (share) => `${(share * 100).toFixed(share > 0 && share < 0.1 ? 1 : 0)} %`;
    return { top: per(this.judged.at_1), bottom: per(this.judged.at_0) };
  },
  setSpectrumView(name) { this.spectrumView = name; this.spectrum.draw(); },
};
