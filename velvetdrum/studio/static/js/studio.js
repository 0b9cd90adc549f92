// The studio page: one project, its rooms, the picture and the strip that stay in sight.

import Alpine from "../vendor/alpine-csp.esm.min.js";
import { ask, blend, unpack } from "./api.js";
import { adding } from "./adding.js";
import { beating } from "./beating.js";
import { bringing } from "./bringing.js";
import { CurveView } from "./curveview.js";
import { editing } from "./editing.js";
import { exporting } from "./exporting.js";
import { framing } from "./framing.js";
import { palettes } from "./palettes.js";
import { panel } from "./panel.js";
import { patching } from "./patching.js";
import { footing } from "./footing.js";
import { Handles } from "./handles.js";
import { KeyCurve } from "./keycurve.js";
import { keyframing } from "./keyframing.js";
import { Lanes } from "./lanes.js";
import { layering } from "./layering.js";
import { parts } from "./parts.js";
import { placing } from "./placing.js";
import { Player } from "./player.js";
import { Preview } from "./preview.js";
import { summary } from "./summary.js";
import { signals } from "./signals.js";
import { sizing } from "./sizing.js";
import { spanning } from "./spanning.js";
import { Spectrum } from "./spectrum.js";
import { transport } from "./transport.js";
import { Wave, clock } from "./wave.js";

const given = JSON.parse(document.getElementById("given").textContent);
const THUMB_WIDTH = 92;
const MOMENT_WIDTH = 260;
const TOLD_MS = 90;
// Where the playhead is while it plays. Not reactive: it changes with every frame.
const playhead = { frame: 0, frames: 0, rate: 30, inS: 0, told: 0 };

const base = {
  room: "picture",
  given,
  kinds: given.kinds,
  frame: 0,
  playing: false,
  volume: 1,
  muted: false,
  loop: null, // {first, last, on}
  guides: "off",
  picture: { width: 0, height: 0, rate: null, fault: "" },
  facts: null,
  thumbs: {},
  moments: [],
  draftFaults: [],
  layerFaults: {}, // id of a layer -> why it could not be drawn
  pending: {}, // in and out while they are dragged

  get track() { return this.document.tracks[0] || null; },
  get rate() {
    const [top, bottom] = this.document.rate.split("/").map(Number);
    return top / (bottom || 1);
  },
  get length() {
    if (this.document.length_s !== null) return this.document.length_s;
    return this.track ? this.track.out_s - this.track.in_s : 10;
  },
  get frames() { return Math.max(1, Math.ceil(this.length * this.rate - 1e-6)); },
  get clockText() { return clock(this.frame / this.rate); },
  get lengthText() { return clock(this.length); },
  get sizeText() {
    const { width, height, rate } = this.picture;
    if (!width) return "";
    const size = `${width} × ${height}`;
    return rate ? `${size} · ${Math.round(rate * 100) / 100} frames/s` : size;
  },
  get channelText() { return { 1: "mono", 2: "stereo", 6: "5.1", 8: "7.1" }[this.facts.channels] || String(this.facts.channels); },
  get rateText() { return `${this.facts.sample_rate / 1000} kHz`; },
  get loudnessText() { return this.facts && this.facts.loudness_lufs !== null ? `${this.facts.loudness_lufs.toFixed(1).replace("-", "−")} LUFS` : "too short to rate"; },
  get rangeText() { return this.facts.loudness_range_lu === null ? "–" : `${this.facts.loudness_range_lu.toFixed(1)} LU`; },
  get peakText() { return `${this.facts.true_peak_dbtp.toFixed(1).replace("-", "−")} dBTP`; },
  get rateName() { return (this.rateNames.find((item) => item.value === this.document.rate) || {}).name; },
  unitText(setting) { return setting.unit === "dB/octave" ? "dB/o" : setting.unit; },
  layerClass(layer) {
    const dim = layer.visible && (layer.solo || !this.document.layers.some((other) => other.solo && other.visible));
    const drop = this.dropTarget && this.dropTarget.id === layer.id ? `drop-${this.dropTarget.where}` : "";
    return `${this.isChosen(layer) ? "on" : ""} ${dim ? "" : "off"} ${drop} ${this.lit.length && this.layerLit(layer) ? "lit" : ""}`;
  },
  get studioClass() {
    const lanes = this.lanesOn ? `rows-${this.laneCount}` : this.signals.length ? `lanes-${Math.min(4, this.signals.length)}` : "";
    return `${this.dragging ? "dropping" : ""} ${lanes} ${this.curveShown ? "with-curve" : ""}`;
  },
  get stageText() { return this.layer ? `${this.selectedText || this.layer.name} on the picture. ${this.gripNote}. Arrows nudge, Alt and arrows size and turn.` : "The picture. Choose a layer to place it."; },
  get lanesText2() { return this.laneLayers.map((layer) => { const span = this.spanOf(layer); return `${layer.name} ${clock(span.from)} to ${clock(span.to)}`; }).join(", "); },
  get frameNote() { return `${this.document.frame.width} × ${this.document.frame.height}`; },
  get easings() { return ["linear", "ease", "ease-in", "ease-out", "ease-in-out", "hold"]; },
  get spectrumText() { return this.isPickup ? `Spectrum of the recording. ${this.signal.name} hears ${this.signalNote(this.signal)}, ${this.signal.settings.quiet_db} to ${this.signal.settings.loud_db} dB.` : "Spectrum of the recording"; },
  get curveText() { return this.signal ? `Curve of ${this.signal.name}: ${Math.round((this.live[this.signal.id] || 0) * 100)} % now, pinned at 1 in ${this.pinnedText.top} and at 0 in ${this.pinnedText.bottom} of the frames` : "No signal is chosen"; },
  overlayStyle(area) { return this.areaStyle(area, this.frameSize.width, this.frameSize.height); },
  areaStyle(area, width, height) {
    const part = (value, whole) => `${(value / whole) * 100}%`;
    return { left: part(area.x, width), top: part(area.y, height), width: part(area.width, width), height: part(area.height, height) };
  },
  get inS() { return this.pending.in ?? (this.track ? this.track.in_s : 0); },
  get outS() { return this.pending.out ?? (this.track ? this.track.out_s : 0); },
  get trackTitle() { return this.track ? this.track.name.replace(/\.[a-z0-9]{1,5}$/i, "") : "No sound yet"; },
  time(seconds) { return clock(seconds); },

  async init() {
    this.accept(given.project);
    this.ask = ask;
    this.player = new Player(() => this.stopped());
    this.preview = new Preview(this.$refs.picture, () => ({
      id: this.state.id, ...this.frameSize, frames: this.frames, rate: this.rate, more: this.sizeWanted,
    }), (shown) => this.pictureShown(shown));
    this.strip = new Wave(this.$refs.strip, () => this.stripSource(), {
      seek: (second) => this.seek(second * this.rate),
      loop: (from, to) => this.setLoop(from, to),
      seen: () => this.readLanes(),
    });
    this.whole = new Wave(this.$refs.whole, () => this.wholeSource(), {
      seek: (second) => this.seek((second - this.inS) * this.rate),
      handle: (kind, second) => this.dragPoint(kind, second),
      handleEnd: () => this.placePoints(),
    });
    this.spectrum = new Spectrum(this.$refs.spectrum, () => this.spectrumSource(), {
      choose: (id) => this.chooseSignal(this.signalById(id)),
      drag: (id, changes) => this.dragPickup(id, changes),
      placed: (id, changes) => this.placePickup(id, changes),
    });
    this.curveView = new CurveView(this.$refs.curve, () => this.curveSource(), {
      seek: (second) => this.seek(second * this.rate),
      points: (points) => this.tryPoints(points),
      placedPoints: (points, label) => this.placeCurve(points, label),
      choosePoint: (index) => this.choosePoint(index),
    });
    this.lanesView = new Lanes(this.$refs.lanes, () => this.lanesSource(), {
      pick: (id, event) => this.pickLane(id, event),
      drag: (id, change) => this.dragSpan(id, change),
      placed: (id, change, label) => this.placeSpan(id, change, label),
      pickKey: (id, time, add) => this.pickKey(id, time, add),
      dragKeys: (by) => this.dragKeys(by),
      placeKeys: (by) => this.placeKeyDrag(by),
      seek: (second) => this.seek(second * this.rate),
      snap: (second, id) => this.snapTime(second, id),
      scroll: (by) => this.scrollLanes(by),
    });
    this.handlesView = new Handles(this.$refs.handles, () => this.handlesSource(), {
      down: (what, point, event) => this.gripDown(what, point, event),
      move: (point, event) => this.gripMove(point, event),
      up: () => this.gripUp(),
      cancel: () => this.gripCancel(),
    });
    this.keyCurve = new KeyCurve(this.$refs.keycurve, () => this.keyCurveSource(), {
      choose: (index) => { this.curveKey = index; },
      drag: (frames) => this.tryKeys(frames),
      placed: (frames, label) => this.placeKeys(frames, label),
      seek: (second) => this.seek(second * this.rate),
      snap: (second) => this.snapTime(second),
    });
    if (this.signals.length) this.chosenSignal = this.signals[0].id;
    const front = this.layersFrontFirst[0];
    if (front) this.choose(front);
    document.addEventListener("keydown", (event) => { this.settle(); this.key(event); });
    document.addEventListener("pointerdown", () => this.settle(), true);
    new ResizeObserver(() => { this.fitStage(); this.showStill(); }).observe(this.$refs.stage);
    window.addEventListener("beforeunload", (event) => { if (this.waiting.length) event.preventDefault(); });
    window.velvet = this; // for tests and for the curious
    await this.loadFacts();
    this.changed();
    this.refresh();
    this.loadExports();
    this.checkMissing();
  },
  bringTo() { return `/sounds?project=${this.state.id}`; },
  async brought() {
    this.dismissBringing();
    this.accept(await ask(`/projects/${this.state.id}/state`));
    this.loop = null;
    await this.loadFacts();
    this.changed();
    this.refresh();
    const fit = this.anyPickup;
    this.tell(fit ? "The sound is in; the signals listen to it now." : "The sound is in. Undo brings the old one back.", fit ? "Fit all pickups" : "", () => this.fitAll());
  },
  async loadFacts() {
    this.facts = null;
    if (!this.track) return;
    try {
      this.facts = await ask(`/sounds/${this.track.media}`);
      this.factsOf = this.track.media;
    } catch (problem) {
      this.tell(problem.message);
    }
  },

  /** What clips are heard in what the server has, as a text that changes when the mixed sound does; empty when none is. */
  get soundMark() {
    const { layers } = this.state.document;
    const timing = ({ settings, visible, group }) => ["from_at", "from_s", "to_at", "to_s", "fade_in_s", "fade_out_s"].map((name) => settings[name]).concat(visible, group);
    const kindOf = (layer) => this.kinds.find((kind) => kind.kind === layer.kind);
    const isHeard = (layer) => layer.visible && kindOf(layer).sounding.length > 0
      && kindOf(layer).sounds.every(([name, values]) => this.holds(kindOf(layer).settings, layer.settings, name, values));
    const heard = layers.filter(isHeard).map((layer) => kindOf(layer).sounding.map((name) => layer.settings[name]).concat(timing(layer)));
    return heard.length ? JSON.stringify([heard, layers.filter((layer) => this.isGroup(layer)).map(timing)]) : "";
  },
  setTrack() {
    this.player.track = this.track && this.facts
      ? { key: this.track.media, address: this.soundAddress, mark: this.soundMark, inS: this.track.in_s, outS: this.track.out_s, samples: this.facts.samples, channels: this.soundMark ? 2 : this.facts.heard }
      : null;
  },
  get soundAddress() { return this.soundMark ? `/projects/${this.state.id}` : `/sounds/${this.track.media}`; },

  /** After any change of the document: everything that is drawn from it. */
  changed() {
    if (this.track && this.track.media !== this.factsOf) this.loadFacts().then(() => this.changed());
    this.player.rate = this.rate;
    this.player.frames = this.frames;
    this.setTrack();
    if (this.frame > this.frames - 1) this.player.frame = this.frame = this.frames - 1;
    if (this.loop && this.loop.last > this.frames) this.loop = null;
    if (!this.layer && this.document.layers.length) this.choose(this.layersFrontFirst[0]);
    if (this.signals.length && !this.signal) this.chosenSignal = this.signals[0].id;
    if (this.hearing) this.hear(this.signalById(this.hearing));
    this.applyLoop();
    this.fitStage();
    this.showStill();
    this.drawWaves();
    this.readCurve();
    this.loadBeats();
    this.pickedKeys = this.pickedKeys.filter((key) => this.byId(key.layer) && this.keyTimes(this.byId(key.layer)).some((time) => Math.abs(time - key.time) < 1e-6));
    this.also = this.also.filter((id) => this.byId(id));
    if (this.curveOf && !this.curveShown) this.closeCurve();
    this.lanesView.draw();
    this.keyCurve.draw();
  },
  /** After the server has the change: small pictures, which need not be instant. */
  refresh() {
    clearTimeout(this.refreshTimer);
    this.setTrack();
    this.refreshTimer = setTimeout(() => {
      this.showStill();
      this.updateLive();
      this.readLanes();
      this.readCurve();
      if (this.room === "sound") this.loadSuggestions();
      const files = this.document.layers.flatMap((layer) => [layer.settings.image, layer.settings.clip]).filter(Boolean).join();
      if (files !== this.filesSeen) { this.filesSeen = files; this.checkMissing(); }
      this.loadMoments().then(() => this.loadThumbs());
    }, 60);
  },
  fitStage() {
    const box = this.$refs.stage.getBoundingClientRect();
    const { width, height } = this.frameSize;
    const scale = Math.min(box.width / width, box.height / height);
    this.$refs.fit.style.width = `${Math.floor(width * scale)}px`;
    this.$refs.fit.style.height = `${Math.floor(height * scale)}px`;
    this.handlesView.draw();
  },
  showStill() {
    if (this.playing) return;
    if (this.threeUp) { this.drawThree(); return; }
    const unsent = this.waiting.flatMap((edit) => edit.patch);
    this.preview.still(this.frame, this.draft ? [...unsent, ...this.draft] : unsent.length ? unsent : null);
  },
  pictureShown(shown) {
    if (shown.problems) {
      for (const path of this.draftFaults) delete this.faults[path];
      this.draftFaults = this.draft ? shown.problems.map(({ path }) => path) : [];
      if (this.draftFaults.length) for (const { path, sentence } of shown.problems) this.faults[path] = sentence;
    }
    if (shown.layers) this.blameLayers(shown.layers);
    if (shown.fault !== undefined && shown.fault !== this.picture.fault) this.picture.fault = shown.fault;
    if (shown.width) {
      if (shown.width !== this.picture.width || shown.height !== this.picture.height) Object.assign(this.picture, { width: shown.width, height: shown.height });
      if (shown.rate !== this.picture.rate) this.picture.rate = shown.rate;
      if (!this.playing && !this.grip) this.askHandles();
    }
    if (this.playing) {
      const frame = Math.min(Math.floor(this.player.now), playhead.frames);
      if (frame !== playhead.frame) this.movePlayhead(frame);
    }
  },
  /** Layers that could not be drawn, each with the reason beside it. */
  blameLayers(problems) {
    const found = problems.map(({ path, sentence }) => [/^\/layers\/(\d+)$/.exec(path), sentence]).filter(([place]) => place);
    if (!found.length && !Object.keys(this.layerFaults).length) return;
    this.layerFaults = Object.fromEntries(found.map(([place, sentence]) => [(this.document.layers[place[1]] || {}).id, sentence]));
  },
  layerFault(layer) { return this.layerFaults[layer.id] || ""; },
  /** While it plays: canvases follow each frame; what reacts to the frame hears of it a few times a second. */
  movePlayhead(frame) {
    playhead.frame = frame;
    const second = frame / playhead.rate;
    this.strip.follow(second);
    this.whole.follow(playhead.inS + second);
    this.lanesView.follow({ now: second, seen: this.strip.seen });
    if (this.curveOf) this.keyCurve.draw();
    if (this.room === "sound") this.followCurve();
    const at = performance.now();
    if (at - playhead.told < TOLD_MS) return;
    playhead.told = at;
    this.frame = frame;
    this.updateLive();
    this.readLanes();
  },
  /** The frame that is on show, for what somebody does while it plays. */
  settle() { if (this.playing) this.frame = playhead.frame; },

  /** Where the layers lie is asked for once the picture rests. */
  askHandles() {
    clearTimeout(this.handlesTimer);
    this.handlesTimer = setTimeout(() => this.loadHandles(), 30);
  },

  async loadMoments() {
    const turn = (this.momentsTurn = (this.momentsTurn || 0) + 1);
    try {
      const listed = await ask(`/projects/${this.state.id}/moments`);
      const packed = await this.pictures(listed.map((moment) => moment.frame), MOMENT_WIDTH);
      if (turn !== this.momentsTurn) return;
      for (const moment of this.moments) URL.revokeObjectURL(moment.picture);
      this.moments = listed.map((moment, index) => ({ ...moment, picture: URL.createObjectURL(packed[index].blob) }));
      this.moments.splice(2, 0, { name: "now", label: "now", frame: this.frame, picture: "" });
      await this.loadNow();
      if (!this.warmed && !this.playing) { this.warmed = true; this.preview.warm(); }
    } catch { /* the stage says what is wrong */ }
  },
  async loadNow() {
    const now = this.moments.find((moment) => moment.name === "now");
    if (!now || this.playing) return;
    const frame = this.frame;
    try {
      const [packed] = await this.pictures([frame], MOMENT_WIDTH);
      if (now.picture) URL.revokeObjectURL(now.picture);
      now.frame = frame;
      now.picture = URL.createObjectURL(packed.blob);
    } catch { /* the stage says what is wrong */ }
  },
  async loadThumbs() {
    const loudest = this.moments.find((moment) => moment.name === "loudest");
    const frame = loudest ? loudest.frame : 0;
    for (const layer of this.document.layers) {
      const inside = this.branch(layer.id).map((member) => [member.settings, this.given.partSorts.map((sort) => this.partsOf(member, sort)), member.keyframes, member.frames, member.patches, member.visible]);
      const mark = JSON.stringify([inside, layer.patches && layer.patches.length ? this.signals : 0, frame, this.frameSize]);
      if ((this.marks ||= {})[layer.id] === mark) continue;
      try {
        const [packed] = await this.pictures([frame], THUMB_WIDTH, layer.id);
        this.marks[layer.id] = mark;
        this.thumbs[layer.id] = URL.createObjectURL(packed.blob);
      } catch { /* shown without a picture */ }
    }
  },
  async pictures(frames, width, only = undefined) {
    const json = { frames, width: Math.min(width, this.frameSize.width), form: "jpeg", only, ...this.sizeWanted };
    return unpack(await ask(`/projects/${this.state.id}/frames`, { json, bytes: true }), "jpeg");
  },
  momentTime(moment) { return clock((moment.name === "now" ? this.frame : moment.frame) / this.rate, 2); },
  momentLabel(moment) { return `${moment.label} ${this.momentTime(moment)}`; },
  goToMoment(moment) { if (moment.name !== "now") this.seek(moment.frame); },

  // Waveforms
  stripSource() {
    const loop = this.loop ? { from: this.loop.first / this.rate, to: this.loop.last / this.rate, on: this.loop.on } : null;
    const used = this.track ? this.outS - this.inS : 0;
    const { beats } = this.beatGrid;
    return { key: this.track ? this.track.media : "", length: this.length, offset: this.inS, from: 0, to: used, loop, handles: false, beats, beatMark: this.beatMark, lanes: this.lanesOn ? [] : this.lanes, markers: this.markers };
  },
  wholeSource() {
    const length = this.facts ? this.facts.duration_s : 10;
    return { key: this.track ? this.track.media : "", length, offset: 0, from: this.inS, to: this.outS, loop: null, handles: Boolean(this.track) };
  },
  drawWaves() { this.followWaves(); },
  followWaves() {
    const second = this.frame / this.rate;
    Object.assign(playhead, { frame: this.frame, frames: this.frames - 1, rate: this.rate, inS: this.inS });
    this.strip.draw();
    this.whole.draw();
    this.strip.follow(second);
    this.whole.follow(this.inS + second);
    this.followCurve();
    this.lanesView.draw();
    if (this.curveOf) this.keyCurve.draw();
    this.updateLive();
    this.readLanes();
  },
  /** Up to four signals under the waveform, over what the strip shows; the chosen one among them. */
  get laneSignals() {
    const { signals: listed } = this;
    const first = listed.slice(0, 4);
    if (this.signal && listed.length > 4 && !first.includes(this.signal)) first[3] = this.signal;
    return first;
  },
  get lanes() {
    return this.laneSignals.map((signal) => {
      const found = this.laneData && this.laneData.curves[signal.id];
      return { colour: signal.colour, mark: `${signal.id}:${signal.colour}:${this.laneData ? this.laneData.mark : ""}`, from: found ? this.laneData.from : 0, to: found ? this.laneData.to : 1, high: found ? found[1] : null };
    });
  },
  async readLanes() {
    if (!this.playing) this.lanesView.draw();
    if (this.lanesOn || !this.signals.length || !this.facts) return;
    const { start, span } = this.strip.seen;
    const mark = [this.state.revision, start.toFixed(4), span.toFixed(4), this.laneSignals.map((signal) => signal.id).join()].join(":");
    if (mark === this.laneMark) return;
    this.laneMark = mark;
    const columns = Math.max(100, Math.min(1600, Math.round(this.$refs.strip.getBoundingClientRect().width)));
    try {
      const json = { signals: this.laneSignals.map((signal) => signal.id), spans: [{ from_s: start, to_s: start + span, columns }] };
      const found = await ask(`/projects/${this.state.id}/curves`, { json });
      if (mark === this.laneMark) this.laneData = { ...found.spans[0], from: start, to: start + span, mark };
    } catch { this.laneMark = null; }
    this.strip.draw();
  },
  zoomIn() { this.strip.zoom(0.5); this.readLanes(); },
  zoomOut() { this.strip.zoom(2); this.readLanes(); },
  zoomAll() { this.strip.all(); this.readLanes(); },
  wholeIn() { this.whole.zoom(0.5); },
  wholeOut() { this.whole.zoom(2); },
  wholeAll() { this.whole.all(); },
  get stripText() { return `${this.clockText} of ${this.lengthText}`; },

  // The page
  shut(menu) { menu.open = false; },
  isRoom(name) { return this.room === name; },
  go(name) { this.room = name; this.roomChanged(); },
  roomChanged() {
    this.socket = null;
    if (this.room === "export") this.loadExports();
    if (this.room === "sound") this.loadSuggestions();
    this.$nextTick(() => { this.fitStage(); this.showStill(); this.drawWaves(); this.readCurve(); });
  },
  rename(event) {
    const name = event.target.value.trim();
    if (name && name !== this.document.name) this.edit("Rename", [{ op: "replace", path: "/name", value: name }]);
    else event.target.value = this.document.name;
  },
  nextGuides() { this.guides = { off: "safe", safe: "channel", channel: "off" }[this.guides]; },
  get guidesText() { return { off: "guides", safe: "safe areas", channel: "channel areas" }[this.guides]; },
  get guidesBox() { return `0 0 ${this.frameSize.width} ${this.frameSize.height}`; },
  /** EBU R 95: action within 3.5 %, graphics within 5 % of each edge. */
  inset(part) {
    const { width, height } = this.frameSize;
    return { x: width * part, y: height * part, width: width * (1 - 2 * part), height: height * (1 - 2 * part) };
  },
  /** Where channels usually lay their own words and buttons over a video of this shape. */
  get overlays() { return this.overlaysIn(this.frameSize.width, this.frameSize.height); },
  overlaysIn(width, height) {
    return this.given.areas[this.shapeOf({ width, height })].map(([x, y, w, h], id) => ({ id, x: x * width, y: y * height, width: w * width, height: h * height }));
  },
  fullScreen() {
    if (document.fullscreenElement) document.exitFullscreen();
    else this.$refs.stage.requestFullscreen();
  },
  showKeys() { this.$refs.keys.showModal(); },
  closeKeys() { this.$refs.keys.close(); },
  key(event) {
    const target = event.target;
    const typing = target.matches("input:not([type=range], [type=file], [type=color]), select, textarea, [contenteditable]") || document.querySelector("dialog[open]");
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing) {
      event.preventDefault();
      if (event.shiftKey) this.redo();
      else this.undo();
      return;
    }
    if ((event.ctrlKey || event.metaKey) && !typing && this.room === "picture" && !String(getSelection())) {
      const keys = this.pickedKeys.length > 0;
      const act = {
        c: () => { if (keys) this.copyKeys(); else { this.heldKeys = null; this.keepLayer(); } },
        v: () => (this.heldKeys ? this.pasteKeys() : this.pasteLayer()),
        d: () => this.layer && this.copyLayer(),
        g: () => (event.shiftKey ? this.ungroup() : this.groupLayers()),
        a: () => this.chooseAll(),
      }[event.key.toLowerCase()];
      if (act) {
        event.preventDefault();
        act();
        return;
      }
    }
    if (event.altKey && !typing && this.room === "picture" && !event.ctrlKey) {
      const act = { i: () => this.comeHere(), o: () => this.goHere() }[event.key.toLowerCase()];
      if (act) { event.preventDefault(); act(); return; }
    }
    if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
    const range = target.matches("input[type=range]");
    const jump = event.shiftKey ? Math.round(this.rate) : 1;
    const actions = {
      " ": () => this.toggle(),
      ArrowLeft: () => this.seek(this.frame - jump),
      ArrowRight: () => this.seek(this.frame + jump),
      Home: () => this.seek(0),
      End: () => this.seek(this.frames - 1),
      l: () => this.toggleLoop(),
      m: () => this.toggleMute(),
      g: () => this.nextGuides(),
      n: () => this.toggleSnap(),
      t: () => this.track && this.tap(),
      f: () => this.fullScreen(),
      a: () => { this.go("picture"); this.openChoices(); },
      i: () => this.track && this.inHere(),
      o: () => this.track && this.outHere(),
      "+": () => this.zoomIn(),
      "-": () => this.zoomOut(),
      0: () => this.zoomAll(),
      "?": () => this.showKeys(),
      k: () => this.room === "picture" && this.keyAll(),
      ".": () => this.markHere(),
      PageUp: () => this.markerBefore(),
      PageDown: () => this.markerAfter(),
      Escape: () => { this.pickedKeys = []; this.also = []; this.handlesView.draw(); this.lanesView.draw(); },
    };
    if ((event.key === "Delete" || event.key === "Backspace") && this.room === "picture") {
      if (this.pickedKeys.length) { event.preventDefault(); this.dropKeys(); }
      return;
    }
    const action = actions[event.key.length === 1 ? event.key.toLowerCase() : event.key];
    // A slider keeps the keys that move it.
    if (!action || (range && /^(Arrow|Home|End)/.test(event.key))) return;
    if (event.key === " " && target.matches("button, summary, a") && !target.matches(".play")) return;
    event.preventDefault();
    action();
  },
};

Alpine.data("studio", () => blend(bringing, editing, layering, parts, summary, keyframing, spanning, placing, sizing, footing, adding, palettes, panel, patching, signals, beating, exporting, framing, transport, base));
Alpine.start();
