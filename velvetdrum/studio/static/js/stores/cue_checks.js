// Checks of the cues: what there is to mend, each leading to its cue.

import { ask, refusalOf } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

const REST_MS = 500;
const MOST_LISTED = 40;

export class CueChecks extends partWith("cues", "messages", "project", "raw", "selection") {
  version = 0; // counts what was found: the findings themselves are many, and no part of what Alpine watches
  /** @type {any[]} */
  _listed = [];
  _byCue = new Map();
  /** @type {Record<string, number> | null} */
  contrasts = null; // null: not measured since the last change
  measuring = false;
  speed = 20;
  chars = 42;
  /** @type {any} */
  timer = null;
  turn = 0; // counts what was asked: an answer to an earlier question is no news

  /** @param {any} findings */
  keep(findings) {
    const own = this.raw(this);
    own._listed = this.told(findings);
    own._byCue = new Map();
    for (const finding of findings) own._byCue.set(finding.cue, [...(own._byCue.get(finding.cue) || []), finding]);
    this.version += 1;
  }

  /** @param {ListedCue} cue */
  of(cue) {
    return this.version >= 0 ? this.raw(this)._byCue.get(cue.id) || [] : [];
  }

  /** After a rest, so that typing is not waited for. */
  later() {
    this.contrasts = null;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.load(), REST_MS);
  }

  async load() {
    const { cues, project, selection } = this;
    if (this.measuring) return; // what it finds has all of this
    if (selection.room !== "words" || !cues.shown) {
      this.keep([]);
      return;
    }
    const turn = (this.turn += 1);
    try {
      const query = `track=${cues.shown}&speed=${this.speed}&chars=${this.chars}`;
      const { findings } = await ask(`/projects/${project.state.id}/checks?${query}`);
      if (turn === this.turn) this.keep(findings);
    } catch {
      /* told with the next edit */
    }
  }

  async measure() {
    const { cues, project } = this;
    this.measuring = true;
    clearTimeout(this.timer);
    const turn = (this.turn += 1);
    try {
      await project.settled();
      const query = `track=${cues.shown}&speed=${this.speed}&chars=${this.chars}&contrast=1`;
      const { findings } = await ask(`/projects/${project.state.id}/checks?${query}`);
      if (turn !== this.turn) return;
      this.keep(findings);
      this.contrasts = findings.filter((/** @type {any} */ { check }) =>
        ["contrast", "place"].includes(check),
      ).length;
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.messages.tell(problem.message);
    } finally {
      this.measuring = false;
    }
  }

  /** @param {FieldEvent} event */
  setSpeed(event) {
    this.speed = Math.max(5, Math.min(Number(event.target.value) || 20, 60));
    this.load();
  }

  /** @param {FieldEvent} event */
  setChars(event) {
    this.chars = Math.max(8, Math.min(Math.round(Number(event.target.value)) || 42, 200));
    this.load();
  }

  /** The first findings, as they are listed. */
  get listed() {
    return this.version >= 0 ? this.raw(this)._listed : [];
  }

  /** @param {any} findings */
  told(findings) {
    const numbers = new Map(this.cues.row.map(({ id }, index) => [id, index + 1]));
    return findings.slice(0, MOST_LISTED).map((/** @type {any} */ finding, /** @type {string} */ key) => ({
      ...finding,
      key: `${finding.cue}:${finding.check}:${key}`,
      text: `cue ${numbers.get(finding.cue) || "?"}: ${finding.sentence}`,
      act: MENDINGS[finding.mending] || "",
    }));
  }

  get summary() {
    const { count } = this.cues;
    if (!count) return "";
    const bad = this.version >= 0 ? this.raw(this)._byCue.size : 0;
    return `${count - bad} of ${count} cues are fine`;
  }

  get contrastText() {
    if (this.measuring) return "measuring the picture";
    if (this.contrasts === null) return "measure contrast and places";
    return this.contrasts ? `${this.contrasts} in the picture` : "the picture is fine";
  }

  /** @param {any} finding */
  go(finding) {
    const cue = this.cues.row.find(({ id }) => id === finding.cue);
    if (cue) this.cues.go(cue);
  }

  /**
   * The first thing to say of a cue in the list.
   * @param {ListedCue} cue
   */
  noteOf(cue) {
    const found = this.of(cue).find((/** @type {any} */ { check }) => check !== "reading speed");
    return found ? found.check : "";
  }

  /** @param {ListedCue} cue */
  tooFast(cue) {
    return this.of(cue).some((/** @type {any} */ { check }) => check === "reading speed");
  }
}

/** @type {Record<string, string>} */
const MENDINGS = {
  split: "split it",
  close: "close it",
  lengthen: "lengthen it",
  trim: "trim it",
  listen: "hear it",
  plate: "add a plate",
};
