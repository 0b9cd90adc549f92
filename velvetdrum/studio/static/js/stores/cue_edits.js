// What is done to cues. Each edit is one small patch, and one step for undo.

import { isTimed, joined, mapped, placed, reworded, split, stored, timedWords, wordMoved } from "../lib/cues.js";
import { newId } from "../lib/ids.js";
import { readNumber } from "../lib/numbers.js";
import { readClock } from "../lib/time.js";
import { partWith } from "../lib/studio_part.js";

// The most steps that one patch may have.
const MOST_STEPS = 900;
// Per cent of a plate that mends the contrast of words.
const PLATE_OPACITY = 88;

export class CueEdits extends partWith("cues", "messages", "project") {
  fault = "";
  /** @type {{ id: string; cue: ListedCue } | null} */
  draft = null; // {id, cue}: while an edge is dragged
  shiftBy = "0.5";
  find = "";
  replacement = "";

  /** @param {string} id */
  path(id) {
    return `/cue_tracks/${this.cues.shown}/cues/${id}`;
  }

  /**
   * @param {string} label
   * @param {ListedCue[]} cues
   * @param {any} [gone]
   */
  put(label, cues, gone = []) {
    this.fault = "";
    this.draft = null;
    const steps = [
      ...gone.map((/** @type {string} */ id) => ({ op: "remove", path: this.path(id) })),
      ...cues.map((cue) => ({ op: "add", path: this.path(cue.id), value: stored(cue) })),
    ];
    if (steps.length > MOST_STEPS) {
      this.replaceAll(label, cues, gone);
      return;
    }
    this.project.edit(label, steps);
  }

  /**
   * Many cues at once: the whole row as one step.
   * @param {string} label
   * @param {ListedCue[]} cues
   * @param {any} [gone]
   */
  replaceAll(label, cues, gone = []) {
    const changed = new Map(cues.map((cue) => [cue.id, cue]));
    const kept = this.cues.row.filter(({ id }) => !gone.includes(id) && !changed.has(id));
    const value = Object.fromEntries([...kept, ...cues].map((cue) => [cue.id, stored(cue)]));
    this.project.edit(label, [{ op: "add", path: `/cue_tracks/${this.cues.shown}/cues`, value }]);
  }

  /**
   * Cues in their stored form take the place of those on show, of some by their ids, or of those in a stretch.
   * @param {string} label
   * @param {ListedCue[]} cues
   * @param {string} language
   * @param {any} values
   */
  take(label, cues, language, { stretch = null, ids = null } = {}) {
    const { id, steps } = this.cues.ensured(language);
    const inside = (/** @type {ListedCue} */ cue) =>
      ids ? ids.includes(cue.id) : !stretch || (cue.start_s < stretch[1] - 1e-6 && cue.end_s > stretch[0] + 1e-6);
    const kept = this.cues.row.filter((cue) => !inside(cue)).map((cue) => [cue.id, stored(cue)]);
    const value = { ...Object.fromEntries(kept), ...cues };
    const more = [...steps, { op: "add", path: `/cue_tracks/${id}/cues`, value }];
    if (language) more.push({ op: "add", path: `/cue_tracks/${id}/language`, value: language });
    this.project.edit(label, more);
    this.cues.shown = id;
    this.cues.refresh();
  }

  /** @param {FieldEvent} event */
  typeText(event) {
    const { cue } = this.cues;
    const text = event.target.value.replace(/\n{2,}/g, "\n").trim();
    if (cue && text !== cue.text) this.put("Edit the words", [reworded(cue, text)]);
  }

  /**
   * @param {string} edge
   * @param {FieldEvent} event
   */
  typeTime(edge, event) {
    const { cue, inS } = this.cues;
    const second = readClock(event.target.value);
    const at = second === null ? null : second + inS;
    const fits = at !== null && (edge === "start" ? at < cue.end_s - 0.02 : at > cue.start_s + 0.02);
    if (!fits) {
      const side = edge === "start" ? "before its out" : "after its in";
      this.fault = `“${event.target.value}” is no time ${side}; write it like 1:02.5.`;
      return;
    }
    const [start, end] = edge === "start" ? [at, cue.end_s] : [cue.start_s, at];
    this.put(edge === "start" ? "Move the in" : "Move the out", [placed(cue, start, end)]);
  }

  /** @param {FieldEvent} event */
  typeWord(event) {
    const { cue, word, inS } = this.cues;
    const second = readClock(event.target.value);
    if (second === null) {
      this.fault = `“${event.target.value}” is no time; write it like 1:02.5.`;
      return;
    }
    this.put("Move a word", [wordMoved(cue, word, 0, second + inS)]);
  }

  /** @param {FieldEvent} event */
  typeSpeaker(event) {
    const { cue } = this.cues;
    if (cue) this.put("Name the speaker", [{ ...cue, speaker: event.target.value.trim().slice(0, 120) }]);
  }

  /** Every cue from the chosen one on gets its speaker. */
  speakerOn() {
    const { cue, row, index } = this.cues;
    this.put(
      "Name the speaker from here on",
      row.slice(index).map((other) => ({ ...other, speaker: cue.speaker })),
    );
  }

  get speakers() {
    return [...new Set(this.cues.row.map(({ speaker }) => speaker).filter(Boolean))];
  }

  /**
   * Move the chosen word, or else the cue, by frames.
   * @param {number} frames
   */
  nudge(frames) {
    const { cue, word } = this.cues;
    if (!cue) return;
    const by = frames / this.project.rate;
    if (word >= 0 && isTimed(cue)) this.put("Move a word", [wordMoved(cue, word, 0, cue.words[word][0] + by)]);
    else this.put("Move a cue", [mapped(cue, 1, by)]);
  }

  /** Two cues: at the chosen word, else at the playhead, else in the middle. */
  splitHere() {
    const { cue, word, now } = this.cues;
    if (!cue) return;
    const words = timedWords(cue);
    const inside =
      now > cue.start_s && now < cue.end_s ? words.findIndex((/** @type {any} */ { start }) => start >= now) : -1;
    const at = word > 0 ? word : inside > 0 ? inside : Math.ceil(words.length / 2);
    const parts = split(cue, at);
    if (!parts) {
      this.fault = "A cue of one word can't be split.";
      return;
    }
    const id = newId();
    this.put("Split a cue", [parts[0], { ...parts[1], id }]);
  }

  joinNext() {
    const { row, index } = this.cues;
    const [cue, next] = [row[index], row[index + 1]];
    if (!cue || !next) return;
    this.put("Join two cues", [joined(cue, next)], [next.id]);
  }

  remove() {
    const { cue, row, index } = this.cues;
    if (!cue) return;
    const next = row[index + 1] || row[index - 1] || null;
    this.put("Delete a cue", [], [cue.id]);
    this.cues.choose(next);
  }

  /** A new, empty cue at the playhead. */
  addHere() {
    const { cues } = this;
    const { id: track, steps } = cues.ensured();
    const at = cues.now;
    const following = cues.row.find(({ start_s }) => start_s > at + 1e-6);
    const end = Math.min(at + 2, following ? following.start_s : Infinity);
    const id = newId();
    const value = stored({ start_s: at, end_s: end, text: "", speaker: "", words: [] });
    this.project.edit("Add a cue", [...steps, { op: "add", path: `/cue_tracks/${track}/cues/${id}`, value }]);
    cues.shown = track;
    cues.refresh();
    cues.choose({ id });
  }

  /**
   * All cues, or those from the chosen one on, later by what was typed.
   * @param {number} whole
   */
  shift(whole) {
    const { row, index } = this.cues;
    const by = readNumber(this.shiftBy.replace(/s\s*$/, ""), 0);
    if (!Number.isFinite(by) || Math.abs(by) > 36000) {
      this.fault = `“${this.shiftBy}” is no number of seconds.`;
      return;
    }
    const from = whole ? 0 : Math.max(index, 0);
    this.put(
      whole ? "Shift all cues" : "Shift from here on",
      row.slice(from).map((cue) => mapped(cue, 1, by)),
    );
  }

  /** Stretch the cues from the chosen one on, so that the last one ends at the playhead. */
  stretch() {
    const { row, index, now } = this.cues;
    const rest = row.slice(Math.max(index, 0));
    const [first, last] = [rest[0], rest[rest.length - 1]];
    if (!first || now <= first.start_s + 0.1) {
      this.fault = "Put the playhead where the last cue shall end, after the chosen one.";
      return;
    }
    const factor = (now - first.start_s) / (last.end_s - first.start_s);
    this.put(
      "Stretch from here on",
      rest.map((cue) => mapped(cue, factor, first.start_s * (1 - factor))),
    );
  }

  get foundText() {
    if (!this.find) return "";
    const count = this.cues.row.filter(({ text }) => text.includes(this.find)).length;
    return count === 1 ? "in 1 cue" : `in ${count} cues`;
  }

  replaceFound() {
    if (!this.find) return;
    const hits = this.cues.row.filter(({ text }) => text.includes(this.find));
    if (!hits.length) {
      this.messages.tell(`No cue has “${this.find}”.`);
      return;
    }
    const change = (/** @type {ListedCue} */ cue) => reworded(cue, cue.text.replaceAll(this.find, this.replacement));
    this.put(`Replace “${this.find.slice(0, 40)}”`, hits.map(change));
    this.messages.tell(`Replaced in ${hits.length} cues.`);
  }

  nextFound() {
    const { row, index } = this.cues;
    const order = [...row.slice(index + 1), ...row.slice(0, index + 1)];
    const hit = this.find ? order.find(({ text }) => text.includes(this.find)) : null;
    if (hit) this.cues.go(hit);
  }

  /**
   * What mends a finding of the checks.
   * @param {any} finding
   */
  mend(finding) {
    const { row } = this.cues;
    const index = row.findIndex(({ id }) => id === finding.cue);
    const [cue, next] = [row[index], row[index + 1]];
    if (!cue) return;
    const room = next ? next.start_s : Infinity;
    if (finding.mending === "close") this.put("Close the gap", [placed(cue, cue.start_s, room)]);
    if (finding.mending === "lengthen")
      this.put("Lengthen a cue", [placed(cue, cue.start_s, Math.min(cue.start_s + 1, room))]);
    if (finding.mending === "trim") {
      const [low, high] = [this.cues.inS, this.cues.inS + this.project.length];
      const [start, end] = [Math.max(cue.start_s, low), Math.min(cue.end_s, high)];
      if (end > start + 0.02) this.put("Trim a cue", [placed(cue, start, end)]);
      else this.put("Delete a cue", [], [cue.id]);
    }
    this.cues.choose(cue);
    if (finding.mending === "split") this.splitHere();
    if (finding.mending === "plate") this.addPlate(finding.layer);
  }

  /** @param {string} id */
  addPlate(id) {
    const index = this.project.document.layers.findIndex((layer) => layer.id === id);
    if (index < 0) return;
    const path = `/layers/${index}/settings`;
    const { settings } = this.project.document.layers[index];
    // Dense enough for letters on any ground.
    const solid = Math.max(Number(settings.plate_opacity) || 0, PLATE_OPACITY);
    this.project.edit("Add a plate", [
      { op: "add", path: `${path}/plate`, value: "lines" },
      { op: "add", path: `${path}/plate_opacity`, value: solid },
    ]);
  }
}
