// Markers on the time line.

import { ask, refusalOf, send } from "../lib/api.js";
import { newId } from "../lib/ids.js";
import { plain } from "../lib/json_patch.js";
import { readClock } from "../lib/time.js";
import { partWith } from "../lib/studio_part.js";

/** @typedef {{ time_s: number, end_s: number | null, kind: string, text: string }} Entry */

export class Markers extends partWith(
  "cueEdits",
  "cues",
  "events",
  "keyframes",
  "messages",
  "playback",
  "project",
  "tempo",
  "trim",
) {
  markerFault = "";
  get markers() {
    return this.project.document.markers || [];
  }

  /**
   * @param {any} markers
   * @param {string} label
   */
  putMarkers(markers, label) {
    this.markerFault = "";
    const sorted = [...markers].sort((a, b) => a.time_s - b.time_s);
    this.project.edit(label, [{ op: "add", path: "/markers", value: sorted }]);
    this.events.emit("markers");
  }

  markHere() {
    const time = Math.round((this.playback.frame / this.project.rate) * 1e4) / 1e4;
    if (this.markers.some((marker) => Math.abs(marker.time_s - time) < this.keyframes.nearFrame)) {
      this.messages.tell("There is a marker here already.");
      return;
    }
    this.putMarkers(
      [...plain(this.markers), { time_s: time, text: `Marker ${this.markers.length + 1}` }],
      "Set a marker",
    );
  }

  markBars() {
    const bars = this.tempo.beatGrid.beats.filter(
      (/** @type {any} */ [time, first]) => first && time >= 0 && time <= this.project.length,
    );
    if (!bars.length) {
      this.markerFault = "There is no steady beat to take bars from; type a tempo in the Sound room.";
      return;
    }
    const others = plain(this.markers).filter((/** @type {Marker} */ marker) => !/^Bar \d+$/.test(marker.text));
    this.putMarkers(
      [
        ...others,
        ...bars.slice(0, 900).map((/** @type {any} */ [time], /** @type {number} */ index) => ({
          time_s: Math.round(time * 1e4) / 1e4,
          text: `Bar ${index + 1}`,
        })),
      ],
      "Markers on every bar",
    );
  }

  get numberedMarkers() {
    return this.markers.map((marker, index) => ({
      ...marker,
      index,
      clock: this.playback.time(marker.time_s),
    }));
  }

  /**
   * @param {Marker & { index: number }} marker
   * @param {FieldEvent} event
   */
  nameMarker(marker, event) {
    const markers = plain(this.markers);
    markers[marker.index].text = event.target.value.slice(0, 200);
    this.putMarkers(markers, "Name a marker");
  }

  /**
   * @param {Marker & { index: number }} marker
   * @param {FieldEvent} event
   */
  timeMarker(marker, event) {
    const time = readClock(event.target.value);
    if (time === null || time > this.project.length) {
      const { lengthText } = this.playback;
      this.markerFault = `A marker lies between 0:00 and ${lengthText}; “${event.target.value}” does not.`;
      return;
    }
    const markers = plain(this.markers);
    markers[marker.index].time_s = time;
    this.putMarkers(markers, "Move a marker");
  }

  /**
   * The marker begins a chapter, or does no more.
   * @param {Marker & { index: number }} marker
   */
  markChapter(marker) {
    const markers = plain(this.markers);
    const one = markers[marker.index];
    if (one.chapter) delete one.chapter;
    else one.chapter = true;
    this.putMarkers(markers, "Mark a chapter");
  }

  /** @param {Marker & { index: number }} marker */
  dropMarker(marker) {
    this.putMarkers(
      plain(this.markers).filter((/** @type {any} */ _, /** @type {number} */ index) => index !== marker.index),
      "Delete a marker",
    );
  }

  dropMarkers() {
    this.putMarkers([], "Delete all markers");
  }

  /**
   * Where markers, chapters and cues lie as a file.
   * @param {string} form
   */
  file(form) {
    return `/projects/${this.project.state.id}/markers.${form}`;
  }

  /** @param {FieldEvent} event */
  async bringList(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    const path = `/projects/${this.project.state.id}/markers`;
    await this.take(() => send(path, file, () => {}, {}), file.name);
  }

  /** Markers that the recording brings in itself: cue points, chapters. */
  async fromRecording() {
    await this.take(() => ask(`/projects/${this.project.state.id}/recording-marks`), "the recording");
  }

  /**
   * @param {() => Promise<any>} read
   * @param {string} name
   */
  async take(read, name) {
    this.markerFault = "";
    try {
      const { entries } = await read();
      const added = entries
        .filter((/** @type {Entry} */ { kind, end_s }) => !["in", "out"].includes(kind) && !(kind === "cue" && end_s))
        .map((/** @type {Entry} */ { time_s, text, kind }) => ({
          time_s,
          text: text || "Marker",
          ...(kind === "chapter" ? { chapter: true } : {}),
        }));
      const cues = this.takeCues(entries, name);
      this.offerCuts(entries, name);
      if (added.length) this.putMarkers([...plain(this.markers), ...added], `Markers of ${name}`);
      else if (!cues) this.markerFault = `There are no markers in ${name}.`;
    } catch (thrown) {
      this.markerFault = refusalOf(thrown).message;
    }
  }

  /**
   * Cues of a list that are not there yet, beside those that are.
   * @param {Entry[]} entries
   * @param {string} name
   */
  takeCues(entries, name) {
    const { inS } = this.trim;
    const there = new Set(this.cues.row.map(({ start_s, text }) => `${start_s.toFixed(2)} ${text.trim()}`));
    const cues = entries
      .filter(({ kind, end_s }) => kind === "cue" && end_s !== null)
      .map(({ time_s, end_s, text }) => ({ start_s: time_s + inS, end_s: /** @type {number} */ (end_s) + inS, text }))
      .filter(({ start_s, end_s, text }) => end_s > start_s && !there.has(`${start_s.toFixed(2)} ${text.trim()}`));
    const value = Object.fromEntries(cues.map((cue) => [newId(), cue]));
    if (cues.length) this.cueEdits.take(`Cues of ${name}`, /** @type {any} */ (value), "", { ids: [] });
    return entries.some(({ kind }) => kind === "cue");
  }

  /**
   * In and out points of a list are used when somebody says so: they cut the project.
   * @param {Entry[]} entries
   * @param {string} name
   */
  offerCuts(entries, name) {
    const of = (/** @type {string} */ wanted) =>
      entries.filter(({ kind }) => kind === wanted).map((one) => one.time_s);
    const { inS, outS } = this.trim;
    const begin = Math.min(outS, inS + (of("in")[0] ?? 0));
    const end = Math.min(outS, inS + (of("out").at(-1) ?? outS - inS));
    const near = this.keyframes.nearFrame;
    if ((Math.abs(begin - inS) < near && Math.abs(end - outS) < near) || end - begin < 0.05) return;
    const clock = (/** @type {number} */ second) => this.playback.time(second);
    this.messages.tell(`${name} cuts from ${clock(begin - inS)} to ${clock(end - inS)}.`, "Use this part", () => {
      const by = begin - this.trim.inS;
      const markers = plain(this.markers)
        .map((/** @type {Marker} */ marker) => ({ ...marker, time_s: Math.round((marker.time_s - by) * 1e4) / 1e4 }))
        .filter((/** @type {Marker} */ marker) => marker.time_s >= 0);
      const steps = this.trim.pointSteps({ in: begin, out: end });
      const rest = this.markers.length ? [{ op: "add", path: "/markers", value: markers }] : [];
      this.project.edit(`The part of ${name}`, [...steps, ...rest]);
      this.events.emit("markers");
    });
  }

  /** @param {any} marker */
  goToMarker(marker) {
    this.playback.seek(Math.round(marker.time_s * this.project.rate));
  }

  markerBefore() {
    const found = [...this.markers]
      .reverse()
      .find((marker) => marker.time_s < this.playback.frame / this.project.rate - this.keyframes.nearFrame);
    if (found) this.goToMarker(found);
  }

  markerAfter() {
    const found = this.markers.find(
      (marker) => marker.time_s > this.playback.frame / this.project.rate + this.keyframes.nearFrame,
    );
    if (found) this.goToMarker(found);
  }
}
