// When layers are there: the lanes of the strip, and markers.

import { plain } from "./api.js";
import { ROW } from "./lanes.js";

const COLOURS = ["sea", "brass", "iris", "coral", "sky", "leaf"];
const MOST_ROWS = 4;
const near = (a, b) => Math.abs(a - b) < 1e-6;

export const spanning = {
  laneSet: "layers", // layers, signals
  laneTop: 0,
  laneDraft: null, // {id, change}: a span while it is dragged
  markerFault: "",

  get lanesOn() { return this.laneSet === "layers" && this.document.layers.length > 0; },
  nextLanes() { this.laneSet = this.laneSet === "layers" ? "signals" : "layers"; this.laneMark = null; this.$nextTick(() => { this.lanesView.draw(); this.readLanes(); this.strip.draw(); this.fitStage(); }); },
  get lanesText() { return this.laneSet === "layers" ? "layers" : "signals"; },
  get laneCount() { return this.lanesOn ? Math.max(3, Math.min(MOST_ROWS, this.layersFrontFirst.length)) : 0; },
  get lanesStyle() { return { height: `${this.laneCount * ROW}px` }; },
  /** The layers whose lanes are shown: a window of the list, which follows the chosen one. */
  get laneLayers() {
    const listed = this.layersFrontFirst;
    const top = Math.max(0, Math.min(this.laneTop, listed.length - MOST_ROWS));
    return listed.slice(top, top + MOST_ROWS);
  },
  scrollLanes(by) {
    this.laneTop = Math.max(0, Math.min(this.laneTop + by, this.layersFrontFirst.length - MOST_ROWS));
    this.lanesView.draw();
  },
  showLane(id) {
    const at = this.layersFrontFirst.findIndex((layer) => layer.id === id);
    if (at < 0) return;
    if (at < this.laneTop) this.laneTop = at;
    else if (at >= this.laneTop + MOST_ROWS) this.laneTop = at - MOST_ROWS + 1;
  },
  laneColour(layer) {
    const driver = this.drivers(layer)[0];
    return driver ? driver.colour : COLOURS[this.indexOf(layer.id) % COLOURS.length];
  },
  laneDot(layer) { const colour = this.laneColour(layer); return { "--dot": colour.startsWith("#") ? colour : `var(--${colour})` }; },

  /** First and last sound in seconds of the project; its ends where there is no sound. */
  get soundEnds() {
    if (!this.track || !this.facts) return [0, this.length];
    const [first, last] = [this.facts.first_sound_s, this.facts.last_sound_s].map((second) => Math.max(0, Math.min(second - this.inS, this.outS - this.inS)));
    return last > first ? [first, last] : [0, this.outS - this.inS];
  },
  /** When a layer comes and goes, and its fades, in seconds. */
  spanOf(layer) {
    const [first, last] = this.soundEnds;
    const value = (name) => layer.settings[name] ?? this.settingOf(layer, name).default;
    const from = { start: 0, sound: first, time: value("from_s") }[value("from_at")];
    const to = { end: this.length, sound: last, time: value("to_s") }[value("to_at")];
    return { from, to, fadeIn: value("fade_in_s"), fadeOut: value("fade_out_s") };
  },
  lanesSource() {
    return {
      seen: this.strip.seen, now: this.frame / this.rate, length: this.length, markers: this.markers, beats: this.beatGrid.beats,
      rows: this.laneLayers.map((layer) => ({
        id: layer.id, name: layer.name, colour: this.laneColour(layer), on: this.isChosen(layer), locked: Boolean(layer.locked), hidden: !layer.visible,
        ...this.spanOf(layer), ...(this.laneDraft && this.laneDraft.id === layer.id ? this.laneDraft.change : {}),
        keys: this.keyTimes(layer).map((time) => (this.keyShift && this.isPickedKey(layer.id, time) ? time + this.keyShift : time)),
        picked: (time) => this.isPickedKey(layer.id, this.keyShift ? time - this.keyShift : time),
      })),
    };
  },
  spanSteps(id, change) {
    const layer = this.byId(id);
    const base = `/layers/${this.indexOf(id)}/settings`;
    const round = (value) => Math.round(value * 1000) / 1000;
    const values = {};
    const span = { ...this.spanOf(layer), ...change };
    if (change.from !== undefined) Object.assign(values, near(span.from, 0) ? { from_at: "start", from_s: 0 } : { from_at: "time", from_s: round(span.from) });
    if (change.to !== undefined) Object.assign(values, near(span.to, this.length) ? { to_at: "end" } : { to_at: "time", to_s: round(span.to) });
    if (change.fadeIn !== undefined) values.fade_in_s = round(change.fadeIn);
    if (change.fadeOut !== undefined) values.fade_out_s = round(change.fadeOut);
    return Object.entries(values).map(([name, value]) => ({ op: "add", path: `${base}/${name}`, value }));
  },
  dragSpan(id, change) {
    this.laneDraft = id ? { id, change } : null;
    if (id) this.tryOut(this.spanSteps(id, change));
    else { this.draft = null; this.showStill(); }
  },
  placeSpan(id, change, label) {
    this.laneDraft = null;
    const layer = this.byId(id);
    if (this.refuseLocked([layer])) return;
    this.edit(`${layer.name}: ${label}`, this.spanSteps(id, change));
  },
  dragKeys(by) {
    const { by: within, steps } = this.shiftSteps(by);
    this.keyShift = within;
    this.tryOut(steps);
  },
  placeKeyDrag(by) {
    this.keyShift = 0;
    this.shiftKeys(by);
  },
  pickLane(id, event) {
    const layer = this.byId(id);
    if (event.ctrlKey || event.metaKey || event.shiftKey) return;
    if (layer.id !== this.chosen) this.choose(layer);
  },
  /** The nearest beat, marker, playhead, end of another span or of the project, within seven pixels of the strip. */
  snapTime(second, except = null) {
    const width = Math.max(1, this.$refs.strip.getBoundingClientRect().width);
    const reach = (7 / width) * this.strip.seen.span;
    const places = [this.frame / this.rate, 0, this.length, ...this.soundEnds, ...this.markers.map((marker) => marker.time_s)];
    if (this.snapping) places.push(...this.beatGrid.beats.map(([time]) => time));
    for (const layer of this.document.layers) {
      if (layer.id !== except) { const { from, to } = this.spanOf(layer); places.push(from, to); }
    }
    const best = places.reduce((found, place) => (Math.abs(place - second) < Math.abs(found - second) ? place : found), Infinity);
    return Math.abs(best - second) <= reach ? best : second;
  },
  comeHere() { this.spanHere({ from: this.frame / this.rate }, "comes here"); },
  goHere() { this.spanHere({ to: Math.min(this.length, (this.frame + 1) / this.rate) }, "goes here"); },
  spanHere(change, label) {
    if (!this.layer) return;
    const span = { ...this.spanOf(this.layer), ...change };
    if (span.to - span.from < 0.01) { this.tell(`${this.layer.name} can't go before it comes.`); return; }
    this.placeSpan(this.layer.id, change, label);
  },

  // Markers
  get markers() { return this.document.markers || []; },
  putMarkers(markers, label) {
    this.markerFault = "";
    const sorted = [...markers].sort((a, b) => a.time_s - b.time_s);
    this.edit(label, [{ op: "add", path: "/markers", value: sorted }]);
    this.lanesView.draw();
  },
  markHere() {
    const time = Math.round((this.frame / this.rate) * 1e4) / 1e4;
    if (this.markers.some((marker) => Math.abs(marker.time_s - time) < this.nearFrame)) { this.tell("There is a marker here already."); return; }
    this.putMarkers([...plain(this.markers), { time_s: time, text: `Marker ${this.markers.length + 1}` }], "Set a marker");
  },
  markBars() {
    const bars = this.beatGrid.beats.filter(([time, first]) => first && time >= 0 && time <= this.length);
    if (!bars.length) { this.markerFault = "There is no steady beat to take bars from; type a tempo in the Sound room."; return; }
    const others = plain(this.markers).filter((marker) => !/^Bar \d+$/.test(marker.text));
    this.putMarkers([...others, ...bars.slice(0, 900).map(([time], index) => ({ time_s: Math.round(time * 1e4) / 1e4, text: `Bar ${index + 1}` }))], "Markers on every bar");
  },
  get numberedMarkers() { return this.markers.map((marker, index) => ({ ...marker, index, clock: this.time(marker.time_s) })); },
  nameMarker(marker, event) {
    const markers = plain(this.markers);
    markers[marker.index].text = event.target.value.slice(0, 200);
    this.putMarkers(markers, "Name a marker");
  },
  timeMarker(marker, event) {
    const time = this.readClock(event.target.value);
    if (time === null || time > this.length) {
      this.markerFault = `A marker lies between 0:00 and ${this.lengthText}; “${event.target.value}” does not.`;
      return;
    }
    const markers = plain(this.markers);
    markers[marker.index].time_s = time;
    this.putMarkers(markers, "Move a marker");
  },
  dropMarker(marker) { this.putMarkers(plain(this.markers).filter((_, index) => index !== marker.index), "Delete a marker"); },
  dropMarkers() { this.putMarkers([], "Delete all markers"); },
  goToMarker(marker) { this.seek(Math.round(marker.time_s * this.rate)); },
  markerBefore() { const found = [...this.markers].reverse().find((marker) => marker.time_s < this.frame / this.rate - this.nearFrame); if (found) this.goToMarker(found); },
  markerAfter() { const found = this.markers.find((marker) => marker.time_s > this.frame / this.rate + this.nearFrame); if (found) this.goToMarker(found); },
};
