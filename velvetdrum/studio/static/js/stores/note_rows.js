// Notes of MIDI files: brought in, and their tempo taken for the project's beats.

import { send, refusalOf } from "../lib/api.js";
import { newId } from "../lib/ids.js";
import { partWith } from "../lib/studio_part.js";

export class NoteRows extends partWith("messages", "project", "tempo") {
  fault = "";

  get listed() {
    const { notes } = this.project.document;
    return Object.entries(notes || {}).map(([id, { name }]) => ({ id, name }));
  }

  get firstText() {
    return this.listed.length ? "the first" : "none yet";
  }

  /** @param {string} id */
  rowOf(id) {
    const { notes } = this.project.document;
    return (notes || {})[id || (this.listed[0] || { id: "" }).id];
  }

  /** @param {string} id */
  tempoOf(id) {
    const row = this.rowOf(id);
    return (row && row.tempo_bpm) || 0;
  }

  /** @param {string} id */
  tempoText(id) {
    const { map } = this.rowOf(id) || {};
    if (map && map.length) return `its ${map.length} tempos for the beats`;
    return `beats at its ${Math.round(this.tempoOf(id) * 100) / 100} bpm`;
  }

  /**
   * Beats and bars as the file has them, from the begin of its time on.
   * @param {string} id
   */
  takeTempo(id) {
    const row = this.rowOf(id);
    if (!row || !row.tempo_bpm) return;
    if (row.map && row.map.length) {
      const change = { source: "map", tempos: row.map, pickup: 0, anchor_s: 0, shift: 0, moved: [] };
      this.tempo.putBeats(`Tempo map of ${row.name}`, change);
      return;
    }
    this.tempo.putBeats(`Beats of ${row.name}`, {
      source: "typed",
      tempo_bpm: Math.max(20, Math.min(400, row.tempo_bpm)),
      anchor_s: 0,
      bar: row.bar || 4,
      first_bar_s: 0,
      shift: 0,
      moved: [],
    });
  }

  /** @param {FieldEvent} event */
  async bring(event) {
    const [file] = event.target.files;
    event.target.value = "";
    this.fault = "";
    if (!file) return;
    try {
      const { rows, tempo_bpm, bar, map, note } = await send(
        `/projects/${this.project.state.id}/notes`,
        file,
        () => {},
        {},
      );
      const value = { name: file.name.slice(0, 200), rows, tempo_bpm, bar, map };
      const steps = this.project.document.notes ? [] : [{ op: "add", path: "/notes", value: {} }];
      this.project.edit(`Notes of ${file.name}`, [...steps, { op: "add", path: `/notes/${newId()}`, value }]);
      this.messages.tell(`${rows.length} notes from ${file.name}. ${note}`.trim());
    } catch (thrown) {
      this.fault = `${file.name} was not read: ${refusalOf(thrown).message}`;
    }
  }
}
