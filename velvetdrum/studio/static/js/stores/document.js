// The document with what is on its way to the server: shown at once, sent in order, kept until the server has it.

import { ask, refusalOf } from "../lib/api.js";
import { both, concernsOf } from "../lib/concerns.js";
import { patched, plain } from "../lib/json_patch.js";
import { merge } from "../lib/merge.js";
import { wait } from "../lib/time.js";
import { typeOf } from "../lib/setting_type.js";
import { usedOf } from "../lib/track_places.js";
import { partWith } from "../lib/studio_part.js";

// Until an edit that could not be sent is tried again.
const AGAIN_MS = 1500;

export class DocumentStore extends partWith("events", "kinds", "messages", "raw", "settings") {
  /** @type {any} */
  steps = null;
  /** @type {any} */
  state = null; // {id, revision, document, undo, redo}: as the server last said
  /** @type {Project} */
  document = /** @type {any} */ (null); // with edits that are still on their way
  /** @type {{ label: string; patch: Step[] }[]} */
  waiting = [];
  sending = false;
  offline = false;
  offlineWhy = ""; // what the server said of an edit that waits
  /** @type {number | null} */
  conflict = null;
  heardKey = ""; // content hash of the recording, or the name of the sum, that is heard
  /** @type {Record<string, string>} */
  faults = {}; // JSON Pointer -> sentence
  /** @type {Step[] | null} */
  draft = null;
  /** @type {string[]} */
  draftFaults = [];
  /**
   * What an edit waits for before it is sent: its picture, which the eye waits for.
   * @type {() => Promise<unknown>}
   */
  ahead = () => Promise.resolve();
  get saved() {
    if (this.conflict) return "not saved: changed in another window";
    if (this.offline) return `not saved yet: ${this.offlineWhy} (${this.waiting.length} waiting)`;
    if (this.waiting.length || this.sending) return "saving";
    return `saved · edit ${this.state.revision - 1}`;
  }

  get canUndo() {
    return Boolean(this.state.undo) && !this.waiting.length;
  }

  get canRedo() {
    return Boolean(this.state.redo) && !this.waiting.length;
  }

  get undoTitle() {
    return this.state.undo ? `Undo: ${this.state.undo} (Ctrl+Z)` : "Nothing to undo";
  }

  get redoTitle() {
    return this.state.redo ? `Redo: ${this.state.redo} (Ctrl+Shift+Z)` : "Nothing to redo";
  }

  /**
   * Make an edit. It is seen at once and sent behind those before it.
   * @param {string} label
   * @param {Step[]} patch
   */
  edit(label, patch) {
    this.draft = this.settings.dragValue = null;
    this.waiting.push({ label, patch });
    this.take(patched(this.raw(this.document), patch));
    for (const step of patch) delete this.faults[step.path];
    this.events.emit("changed", concernsOf(patch));
    this.flush();
  }

  /**
   * What the server does not have yet: edits on their way and what is being dragged, with the revision that they are
   * made on; nothing where there is none. Part of what a request for a picture says.
   */
  get unsent() {
    const draft = [...this.waiting.flatMap((edit) => edit.patch), ...(this.draft || [])];
    return draft.length ? { draft, revision: this.state.revision } : null;
  }

  /**
   * Show a change without making it: while a slider is being dragged.
   * @param {Step[]} patch
   */
  tryOut(patch) {
    this.draft = patch;
    this.events.emit("draft");
  }

  async flush() {
    if (this.sending || this.conflict) return;
    this.sending = true;
    let concerns = concernsOf([]);
    await this.ahead();
    while (this.waiting.length) {
      const { label, patch } = this.waiting[0];
      concerns = both(concerns, concernsOf(patch));
      try {
        const json = { revision: this.state.revision, label, patch };
        this.accept(await ask(`/projects/${this.state.id}/edits`, { json }), 1);
        this.offline = false;
      } catch (thrown) {
        const problem = refusalOf(thrown);
        // What is not the edit's fault is tried again: no server, a full disk, a held folder, a session that ended.
        if (problem.status === 0 || problem.status === 401 || /** @type {number} */ (problem.status) >= 500) {
          this.offlineWhy = problem.status
            ? problem.message.replace(/^This was not saved: /, "").replace(/\.$/, "")
            : "the server does not answer";
          this.offline = true;
          await wait(AGAIN_MS);
          continue;
        }
        if (problem.status === 409) {
          this.conflict = problem.data.revision;
          this.events.emit("conflict", true);
          break;
        }
        this.refused(problem, this.waiting[0].patch);
        break;
      }
    }
    this.sending = false;
    this.events.emit("saved", concerns);
  }

  /**
   * The document goes back to what the server has; what was typed stays in its field, with the reason.
   * @param {any} problem
   * @param {Step[]} patch
   */
  refused(problem, patch) {
    this.waiting = [];
    this.take(this.raw(this.state.document));
    this.draftFaults = [];
    const found = problem.data.problems || [];
    for (const { path, value } of patch) {
      if (!/\/(settings|patches|beats)\//.test(path) || !found.length || path.endsWith("/layers")) continue;
      const text = this.kinds.some(({ settings }) =>
        settings.some((setting) => typeOf(setting).typed && path.endsWith(`/settings/${setting.name}`)),
      );
      if (typeof value !== "number" && !text) continue;
      this.settings.typed[path] = String(value);
      this.faults[path] = found[0].sentence;
    }
    for (const { path, sentence } of found) {
      if (!Object.values(this.faults).includes(sentence)) this.faults[path] = sentence;
    }
    if (
      !found.some(
        (/** @type {any} */ { path }) =>
          /\/(settings|patches|beats)\//.test(path) ||
          path.startsWith("/frame") ||
          path.startsWith("/length") ||
          path.startsWith("/tracks"),
      )
    ) {
      this.messages.tell(problem.message);
    }
    this.events.emit("changed");
  }

  /**
   * @param {any} answer
   * @param {number} [sent]
   */
  accept(answer, sent = 0) {
    const { raw } = this;
    const { patch, ...state } = answer;
    // A change is told by its patch alone.
    if (patch) state.document = patched(raw(this.state.document), patch);
    this.state = state;
    this.waiting.splice(0, sent);
    this.take(this.waiting.reduce((document, { patch }) => patched(document, raw(patch)), raw(state.document)));
  }

  /**
   * The document is like this now: only what differs is written, so that only what shows it is drawn anew.
   * @param {Project} document
   */
  take(document) {
    if (!this.document) this.document = plain(document);
    else merge(this.document, document, this.raw);
  }

  /**
   * Undo or redo. Quick presses wait for each other: each is a step from where the one before it led.
   * @param {any} way
   */
  step(way) {
    this.steps = (this.steps || Promise.resolve()).then(() => this.takeStep(way));
    return this.steps;
  }

  /** @param {any} way */
  async takeStep(way) {
    if (this.waiting.length || !this.state[way]) return;
    const label = this.state[way];
    try {
      const answer = await ask(`/projects/${this.state.id}/${way}`, { json: { revision: this.state.revision } });
      this.accept(answer);
      this.faults = {};
      this.messages.tell(`${way === "undo" ? "Undone" : "Done again"}: ${label}`);
      const concerns = concernsOf(answer.patch);
      this.events.emit("changed", concerns);
      this.events.emit("saved", concerns);
    } catch (thrown) {
      const problem = refusalOf(thrown);
      if (problem.status === 409) {
        this.conflict = problem.data.revision;
        this.events.emit("conflict", true);
      } else {
        this.messages.tell(problem.message);
      }
    }
  }

  undo() {
    return this.step("undo");
  }

  redo() {
    return this.step("redo");
  }

  async takeOther() {
    this.events.emit("conflict", false);
    this.waiting = [];
    this.conflict = null;
    this.accept(await ask(`/projects/${this.state.id}/state`));
    this.events.emit("changed");
    this.events.emit("saved");
  }

  async keepMine() {
    this.events.emit("conflict", false);
    const state = await ask(`/projects/${this.state.id}/state`);
    this.conflict = null;
    this.accept(state);
    this.events.emit("changed");
    this.flush();
  }

  /** @returns {Promise<void>} once the server has all edits */
  settled() {
    return new Promise((resolve) => {
      const look = () => (this.waiting.length || this.sending ? setTimeout(look, 20) : resolve());
      look();
    });
  }

  /**
   * The document as it is being dragged.
   * @param {string} path
   * @param {any} value
   */
  draftValue(path, value) {
    const step = this.draft && this.draft.find((candidate) => candidate.path === path);
    return step ? step.value : value;
  }

  get ownLength() {
    return this.document.length_s !== null;
  }

  /** What is heard as one recording: the only track, or the sum of all; null in a project without a sound. */
  get track() {
    const { tracks } = this.document;
    if (!tracks.length) return null;
    return { ...usedOf(this.document), name: tracks[0].name, media: this.heardKey || tracks[0].media };
  }

  get rate() {
    const [top, bottom] = this.document.rate.split("/").map(Number);
    return top / (bottom || 1);
  }

  get length() {
    if (this.document.length_s !== null) return this.document.length_s;
    return this.track ? this.track.out_s - this.track.in_s : 10;
  }

  get frames() {
    return Math.max(1, Math.ceil(this.length * this.rate - 1e-6));
  }

  /** @param {FieldEvent} event */
  rename(event) {
    const name = event.target.value.trim();
    if (name && name !== this.document.name) this.edit("Rename", [{ op: "replace", path: "/name", value: name }]);
    else event.target.value = this.document.name;
  }
}
