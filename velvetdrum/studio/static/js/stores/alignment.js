// Words that find their times: pasted, aligned in the background, taken when they are there; and files in and out.

import { ask, send, refusalOf } from "../lib/api.js";
import { wait } from "../lib/time.js";
import { partWith } from "../lib/studio_part.js";

const POLL_MS = 350;
// How far a cue's words are looked for beside it, at the least and at the most.
const NEAR_S = 0.3;
const REACH_S = 600;

export class Alignment extends partWith("cueEdits", "cues", "given", "messages", "page", "project") {
  text = "";
  language = "en";
  song = false;
  by = "sentence";
  chars = 32;
  lines = 2;
  speaker = "";
  /** @type {any} */
  work = null; // {id, share, words, place}
  fault = "";
  /** @type {any[]} */
  repairs = [];
  // Ways to read a file's letters that are as likely as each other: {encoding, title, line}; and that file.
  /** @type {any[]} */
  readings = [];
  /** @type {any} */
  asked = null;
  // Speakers' names before the words, in files of formats that have no place for them.
  named = false;
  note = "";

  get languages() {
    return this.given.languages;
  }

  /** @param {string} code */
  languageName(code) {
    const known = this.languages.find((language) => language.code === code);
    return known ? known.name : code;
  }

  get ways() {
    return [
      { name: "sentence", title: "By sentence" },
      { name: "pause", title: "By pause" },
      { name: "line", title: "As the lines are" },
      { name: "word", title: "Word by word" },
    ];
  }

  get busyText() {
    return this.work ? `Finding the times of ${this.work.words} words` : "";
  }

  get busyBar() {
    return { width: `${Math.round(100 * (this.work ? this.work.share : 0))}%` };
  }

  open() {
    this.fault = "";
    this.page.refs.pasting.showModal();
  }

  close() {
    this.page.refs.pasting.close();
  }

  async begin() {
    const json = {
      text: this.text,
      language: this.language,
      song: this.song,
      by: this.by,
      chars: Number(this.chars) || 32,
      lines: Number(this.lines) || 2,
      speaker: this.speaker.trim(),
    };
    if (await this.ask(json, null)) this.close();
  }

  /**
   * The chosen cue, or it and all after it, once more.
   * @param {number} whole
   */
  again(whole) {
    const { cue, row, index } = this.cues;
    if (!cue) return;
    const rest = whole ? row.slice(index) : [cue];
    const last = rest[rest.length - 1];
    // Where nothing else is said, it may lie anywhere.
    const before = row[index - 1] ? row[index - 1].end_s : 0;
    const after = whole ? Infinity : row[index + 1] ? row[index + 1].start_s : Infinity;
    const stretch = [
      Math.max(0, Math.min(before, cue.start_s - NEAR_S)),
      Math.max(Math.min(after, last.end_s + REACH_S), last.end_s + NEAR_S),
    ];
    const text = rest.map((other) => other.text.replaceAll("\n", " ")).join("\n");
    const { speaker } = cue;
    const language = this.languages.some(({ code }) => code === this.cues.track.language)
      ? this.cues.track.language
      : this.language;
    const place = { stretch, ids: rest.map(({ id }) => id) };
    this.ask({ text, by: "line", speaker, start_s: stretch[0], end_s: stretch[1], language }, place);
  }

  /**
   * @param {any} json
   * @param {any} place
   */
  async ask(json, place) {
    this.fault = "";
    try {
      const { alignment } = await ask(`/projects/${this.project.state.id}/alignments`, { json });
      this.watch(alignment, json.text.split(/\s+/).filter(Boolean).length, place);
      return true;
    } catch (thrown) {
      const problem = refusalOf(thrown);
      // Asked for from the dialog, it is said there; else under the list.
      if (place) this.note = problem.message;
      else this.fault = problem.message;
      return false;
    }
  }

  /**
   * `place` says which cues the words are of, and where they lie; null for a whole text.
   * @param {string} id
   * @param {any} words
   * @param {any} place
   */
  async watch(id, words, place) {
    this.work = { id, share: 0, words, place };
    while (this.work && this.work.id === id) {
      await wait(POLL_MS);
      let told;
      try {
        told = await ask(`/alignments/${id}`);
      } catch (thrown) {
        const problem = refusalOf(thrown);
        if (problem.status === 0) continue;
        this.work = null;
        this.messages.tell(problem.message);
        return;
      }
      if (!this.work) return;
      this.work.share = told.share;
      this.work.words = told.words;
      if (told.state === "running") continue;
      const { work } = this;
      this.work = null;
      if (told.state === "done") this.take(told.found, work.place || { stretch: told.stretch }, told.language);
      else if (told.error) this.note = told.error;
      if (told.state !== "cancelled") ask(`/alignments/${id}/taken`, { json: {} }).catch(() => {});
    }
  }

  /**
   * @param {any} found
   * @param {string} place
   * @param {string} language
   */
  take(found, place, language) {
    this.cueEdits.take("Align the words", found.cues, language, place);
    const parts = [`${found.words - found.lost} of ${found.words} words found their times.`];
    if (found.open.length) {
      const [low, high] = found.open[0];
      const { cues } = this;
      parts.push(`From ${cues.clock(low)} to ${cues.clock(high)} they are not said; that is left open.`);
    }
    if (found.guess) parts.push("All of it is a guess, from the voice's band of a song.");
    if (found.rough) parts.push("In this language the times are rough.");
    this.note = parts.join(" ");
  }

  async cancel() {
    if (!this.work) return;
    const { id } = this.work;
    this.work = null;
    await ask(`/alignments/${id}/cancel`, { json: {} }).catch(() => {});
    this.note = "Stopped; the cues are as they were.";
  }

  /** What was aligned while no page was open, or is still on its way. */
  async resume() {
    try {
      const { alignment } = await ask(`/projects/${this.project.state.id}/alignments/latest`);
      if (alignment && !this.work) this.watch(alignment, "", null);
    } catch {
      /* asked again when the room is opened */
    }
  }

  /** Empty cues between the pauses of the voice. */
  async guessLines() {
    try {
      const json = { song: this.song };
      const { cues } = await ask(`/projects/${this.project.state.id}/lines`, { json });
      this.cueEdits.take("Lines from pauses", cues, "");
      this.close();
      this.note = `${Object.keys(cues).length} empty cues between the pauses; type what is said in each.`;
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
  }

  /** @param {FieldEvent} event */
  async openFile(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (file) await this.readFile(file);
  }

  /**
   * Read a file of cues; where its letters can be read in several ways, ask which is meant.
   * @param {File} file
   * @param {string} [encoding]
   */
  async readFile(file, encoding = "") {
    this.repairs = this.readings = [];
    try {
      const query = encoding ? `?encoding=${encodeURIComponent(encoding)}` : "";
      const found = await send(`/projects/${this.project.state.id}/cues${query}`, file, () => {}, {});
      if (found.readings.length) {
        [this.asked, this.readings] = [file, found.readings];
        this.note = "";
        return;
      }
      this.cueEdits.take("Open cues", found.cues, found.language);
      this.repairs = found.repairs;
      const count = Object.keys(found.cues).length;
      this.note = `${count} ${count === 1 ? "cue" : "cues"} from ${file.name}.`;
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.note = `${file.name}: ${problem.message}`;
    }
  }

  /** @param {any} reading */
  async chooseReading(reading) {
    await this.readFile(this.asked, reading.encoding);
  }

  get formats() {
    const { id } = this.project.state;
    const query = this.named ? "?named=true" : "";
    return this.given.cueFormats.map(({ suffix, title, keeps }) => ({
      suffix,
      title: [title, ...this.leftOut(title, keeps)].join("\n"),
      loses: this.leftOut(title, keeps),
      address: `/projects/${id}/cues/${this.cues.shown}.${suffix}${query}`,
    }));
  }

  /**
   * What of the shown track a format can't hold, in sentences.
   * @param {string} title
   * @param {any} keeps
   */
  leftOut(title, keeps) {
    const { cues } = this.project.document.cue_tracks[this.cues.shown || ""] || { cues: {} };
    const row = /** @type {ListedCue[]} */ (Object.values(cues || {}));
    /** @type {Record<string, boolean>} */
    const has = {
      times: row.length > 0,
      lines: row.some(({ text }) => text.includes("\n")),
      speakers: row.some(({ speaker }) => speaker) && !this.named,
      words: row.some(({ words }) => words && words.length),
    };
    return Object.entries(this.given.leftOut)
      .filter(([name]) => has[name] && !keeps.includes(name))
      .map(([, sentence]) => `${title} ${sentence}`);
  }

  /** What the formats leave out, for those that leave out something. */
  get losses() {
    return this.formats.filter(({ loses }) => loses.length).flatMap(({ loses }) => loses);
  }

  get hasSpeakers() {
    return this.cueEdits.speakers.length > 0;
  }
}
