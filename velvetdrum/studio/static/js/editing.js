// Edits: shown at once, sent in order, kept until the server has them. A slider's drag is one edit.

import { ask, plain } from "./api.js";

/** A changed copy of a document. Knows the RFC 6902 steps that the page itself makes. */
export function patched(document, patch) {
  const copy = plain(document);
  for (const { op, path, value } of patch) {
    const keys = path.split("/").slice(1).map((key) => key.replaceAll("~1", "/").replaceAll("~0", "~"));
    const last = keys.pop();
    const target = keys.reduce((node, key) => node[key], copy);
    if (Array.isArray(target)) {
      const index = last === "-" ? target.length : Number(last);
      if (op === "add") target.splice(index, 0, plain(value));
      else if (op === "remove") target.splice(index, 1);
      else target[index] = plain(value);
    } else if (op === "remove") delete target[last];
    else target[last] = plain(value);
  }
  return copy;
}

export const editing = {
  state: null, // {id, revision, document, undo, redo}: as the server last said
  document: null, // with edits that are still on their way
  waiting: [],
  sending: false,
  offline: false,
  offlineWhy: "", // what the server said of an edit that waits
  conflict: null,
  faults: {}, // JSON Pointer -> sentence
  draft: null,

  get saved() {
    if (this.conflict) return "not saved: changed in another window";
    if (this.offline) return `not saved yet: ${this.offlineWhy} (${this.waiting.length} waiting)`;
    if (this.waiting.length || this.sending) return "saving";
    return `saved · edit ${this.state.revision - 1}`;
  },
  get canUndo() { return Boolean(this.state.undo) && !this.waiting.length; },
  get canRedo() { return Boolean(this.state.redo) && !this.waiting.length; },
  get undoTitle() { return this.state.undo ? `Undo: ${this.state.undo} (Ctrl+Z)` : "Nothing to undo"; },
  get redoTitle() { return this.state.redo ? `Redo: ${this.state.redo} (Ctrl+Shift+Z)` : "Nothing to redo"; },

  /** Make an edit. It is seen at once and sent behind those before it. */
  edit(label, patch) {
    this.draft = this.dragValue = null;
    this.waiting.push({ label, patch });
    this.document = patched(this.document, patch);
    for (const step of patch) delete this.faults[step.path];
    this.changed();
    this.flush();
  },

  /** Show a change without making it: while a slider is being dragged. */
  tryOut(patch) {
    this.draft = patch;
    this.showStill();
    this.readCurve();
    this.spectrum.draw();
  },

  async flush() {
    if (this.sending || this.conflict) return;
    this.sending = true;
    while (this.waiting.length) {
      const { label, patch } = this.waiting[0];
      try {
        const json = { revision: this.state.revision, label, patch };
        this.accept(await ask(`/projects/${this.state.id}/edits`, { json }), 1);
        this.offline = false;
      } catch (problem) {
        // What is not the edit's fault is tried again: no server, a full disk, a held data folder, a session that ended.
        if (problem.status === 0 || problem.status === 401 || problem.status >= 500) {
          this.offlineWhy = problem.status ? problem.message.replace(/^This was not saved: /, "").replace(/\.$/, "") : "the server does not answer";
          this.offline = true;
          await new Promise((resolve) => setTimeout(resolve, 1500));
          continue;
        }
        if (problem.status === 409) {
          this.conflict = problem.data.revision;
          this.$refs.conflict.showModal();
          break;
        }
        this.refused(problem, this.waiting[0].patch);
        break;
      }
    }
    this.sending = false;
    this.refresh();
  },

  /** The document goes back to what the server has; what was typed stays in its field, with the reason. */
  refused(problem, patch) {
    this.waiting = [];
    this.document = plain(this.state.document);
    this.draftFaults = [];
    const found = problem.data.problems || [];
    for (const { path, value } of patch) {
      if (!/\/(settings|patches|beats)\//.test(path) || !found.length || path.endsWith("/layers")) continue;
      const text = this.kinds.some(({ settings }) => settings.some(({ name, type }) => type === "text" && path.endsWith(`/settings/${name}`)));
      if (typeof value !== "number" && !text) continue;
      this.typed[path] = String(value);
      this.faults[path] = found[0].sentence;
    }
    for (const { path, sentence } of found) {
      if (!Object.values(this.faults).includes(sentence)) this.faults[path] = sentence;
    }
    if (!found.some(({ path }) => /\/(settings|patches|beats)\//.test(path) || path.startsWith("/frame") || path.startsWith("/length") || path.startsWith("/tracks"))) {
      this.tell(problem.message);
    }
    this.changed();
  },

  accept(state, sent = 0) {
    this.state = state;
    this.waiting.splice(0, sent);
    this.document = this.waiting.reduce((document, { patch }) => patched(document, patch), state.document);
  },

  /** Undo or redo. Quick presses wait for each other: each is a step from where the one before it led. */
  step(way) {
    this.steps = (this.steps || Promise.resolve()).then(() => this.takeStep(way));
    return this.steps;
  },
  async takeStep(way) {
    if (this.waiting.length || !this.state[way]) return;
    const label = this.state[way];
    try {
      this.accept(await ask(`/projects/${this.state.id}/${way}`, { json: { revision: this.state.revision } }));
      this.faults = {};
      this.tell(`${way === "undo" ? "Undone" : "Done again"}: ${label}`);
      this.changed();
      this.refresh();
    } catch (problem) {
      if (problem.status === 409) {
        this.conflict = problem.data.revision;
        this.$refs.conflict.showModal();
      } else {
        this.tell(problem.message);
      }
    }
  },
  undo() { return this.step("undo"); },
  redo() { return this.step("redo"); },

  async takeOther() {
    this.$refs.conflict.close();
    this.waiting = [];
    this.conflict = null;
    this.accept(await ask(`/projects/${this.state.id}/state`));
    this.changed();
    this.refresh();
  },
  async keepMine() {
    this.$refs.conflict.close();
    const state = await ask(`/projects/${this.state.id}/state`);
    this.conflict = null;
    this.accept(state);
    this.changed();
    this.flush();
  },
};
