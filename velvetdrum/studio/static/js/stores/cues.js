// The cues of the project: tracks, the row of the one on show in order of time, what is chosen of it.

import { indexAt, isTimed, ordered, readingSpeed, timedWords } from "../lib/cues.js";
import { newId } from "../lib/ids.js";
import { partWith } from "../lib/studio_part.js";

const DOUBTFUL = 0.5;

export class Cues extends partWith("cueChecks", "events", "playback", "project", "raw") {
  /** @type {string | null} */
  shown = null; // id of the track on show
  /** @type {string | null} */
  chosen = null; // id of the chosen cue
  word = -1; // its chosen word
  version = 0; // counts changes of the row, which is no part of what Alpine watches
  /** @type {any[]} */
  _row = [];
  _places = new Map();

  /** After the document changed: the row is read anew, once. */
  refresh() {
    const { raw, project } = this;
    const tracks = raw(project.document).cue_tracks || {};
    if (!tracks[this.shown || ""]) this.shown = Object.keys(tracks)[0] || null;
    const cues = this.shown ? raw(raw(tracks[this.shown]).cues) || {} : {};
    this._row = ordered(cues);
    this._places = new Map(this._row.map(({ id }, index) => [id, index]));
    this.version += 1;
    if (this.chosen && !this._row.some(({ id }) => id === this.chosen)) {
      this.chosen = null;
      this.word = -1;
    }
  }

  /** The cues of the track on show, in order of time: plain, not to be changed. */
  get row() {
    return this.version >= 0 ? this.raw(this)._row : [];
  }

  get tracks() {
    const tracks = this.project.document.cue_tracks || {};
    return Object.keys(tracks).map((id) => ({ id, name: tracks[id].name, language: tracks[id].language }));
  }

  get track() {
    return /** @type {any} */ (this.tracks.find(({ id }) => id === this.shown) || null);
  }

  get count() {
    return this.row.length;
  }

  get cue() {
    return this.row[this.index] || null;
  }

  get index() {
    const at = this.version >= 0 ? this.raw(this)._places.get(this.chosen) : undefined;
    return at === undefined ? -1 : at;
  }

  get title() {
    return this.cue ? `Cue ${this.index + 1}` : "No cue chosen";
  }

  /** Seconds of the recording at the start of the project: cues count from the recording's start. */
  get inS() {
    return this.project.track ? this.project.track.in_s : 0;
  }

  /** The time at the playhead, in seconds of the recording. */
  get now() {
    return this.inS + this.playback.frame / this.project.rate;
  }

  get nowIndex() {
    return indexAt(this.row, this.now);
  }

  /** @param {ListedCue} cue */
  isChosen(cue) {
    return cue.id === this.chosen;
  }

  /**
   * @param {{ id: string }} cue
   * @param {any} [word]
   */
  choose(cue, word = -1) {
    this.chosen = cue ? cue.id : null;
    this.word = word;
    this.events.emit("cue-chosen");
  }

  /**
   * Choose a cue and go to its beginning.
   * @param {ListedCue} cue
   */
  go(cue) {
    this.choose(cue);
    this.playback.seek(Math.ceil((cue.start_s - this.inS) * this.project.rate - 1e-6));
  }

  /** @param {number} by */
  step(by) {
    const at = this.index < 0 ? this.nowIndex : this.index + by;
    const next = this.row[Math.max(0, Math.min(at, this.row.length - 1))];
    if (next) this.go(next);
  }

  /** The words of the chosen cue as chips. */
  get chips() {
    const { cue } = this;
    if (!cue) return [];
    return timedWords(cue).map((/** @type {any} */ word, /** @type {number} */ index) => ({
      ...word,
      index,
      doubtful: word.own && word.sure < DOUBTFUL,
    }));
  }

  get chip() {
    return this.chips[this.word] || null;
  }

  get inText() {
    return this.cue ? this.clock(this.cue.start_s) : "";
  }

  get outText() {
    return this.cue ? this.clock(this.cue.end_s) : "";
  }

  get sureStyle() {
    return { width: `${100 * (this.chip ? this.chip.sure : 0)}%` };
  }

  get chipsTimed() {
    return Boolean(this.cue) && isTimed(this.cue);
  }

  /** @param {number} seconds */
  clock(seconds) {
    return this.playback.time(seconds - this.inS);
  }

  /** @param {ListedCue} cue */
  speedText(cue) {
    return `${Math.round(readingSpeed(cue))} c/s`;
  }

  /** @param {string} id */
  chooseTrack(id) {
    this.shown = id;
    this.chosen = null;
    this.refresh();
    this.events.emit("cue-chosen");
    this.cueChecks.load();
  }

  /**
   * A new, empty track; its id.
   * @param {string} [name]
   * @param {string} [language]
   */
  addTrack(name = "", language = "en") {
    const id = newId();
    const value = { name: name || `Words ${this.tracks.length + 1}`, language, cues: {} };
    this.project.edit("Add a cue track", [{ op: "add", path: `/cue_tracks/${id}`, value }]);
    this.chooseTrack(id);
    return id;
  }

  /**
   * The steps that make sure of a track, and its id.
   * @param {string} [language]
   */
  ensured(language = "en") {
    if (this.shown) return { id: this.shown, steps: [] };
    const id = newId();
    const value = { name: "Words", language, cues: {} };
    return { id, steps: [{ op: "add", path: `/cue_tracks/${id}`, value }] };
  }

  dropTrack() {
    if (!this.shown) return;
    this.project.edit("Delete a cue track", [{ op: "remove", path: `/cue_tracks/${this.shown}` }]);
  }

  /** @param {FieldEvent} event */
  nameTrack(event) {
    const value = event.target.value.trim().slice(0, 120);
    this.project.edit("Name a cue track", [{ op: "add", path: `/cue_tracks/${this.shown}/name`, value }]);
  }

  /** @param {FieldEvent} event */
  setLanguage(event) {
    const value = event.target.value;
    this.project.edit("Language", [{ op: "add", path: `/cue_tracks/${this.shown}/language`, value }]);
  }
}
