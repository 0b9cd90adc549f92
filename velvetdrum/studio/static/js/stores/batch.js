// Many videos from a table: what it lacks, its files brought, a start, and how each row is.

import { ask, send, refusalOf } from "../lib/api.js";
import { wait } from "../lib/time.js";
import { without } from "../lib/json_patch.js";
import { partWith } from "../lib/studio_part.js";

const TURN = 800;
/** @type {Record<string, string>} */
const WORDS = { ready: "ready", lacks: "lacks files", running: "in the queue", done: "made", failed: "failed" };

export class Batch extends partWith("exports", "newExport", "page", "project") {
  /** @type {any} */
  batch = null;
  fault = "";
  busy = "";
  watching = false;
  async open() {
    this.fault = "";
    const found = await ask(`/projects/${this.project.state.id}/batches`).catch(() => null);
    this.batch = found && found.state === "running" ? found : null;
    this.page.refs.batch.showModal();
    this.watch();
  }

  close() {
    this.page.refs.batch.close();
  }

  get rows() {
    return this.batch ? this.batch.rows : [];
  }

  get needs() {
    return this.batch ? Object.entries(this.batch.needs).map(([name, kind]) => ({ name, kind })) : [];
  }

  get isOpen() {
    return Boolean(this.batch && this.batch.state === "open");
  }

  get readyCount() {
    return this.rows.filter((/** @type {any} */ row) => row.state === "ready").length;
  }

  get summary() {
    if (!this.batch) return "";
    const count = (/** @type {any} */ state) =>
      this.rows.filter((/** @type {any} */ row) => row.state === state).length;
    if (this.isOpen) return `${this.rows.length} rows, ${this.readyCount} ready, ${this.needs.length} files missing`;
    return `${count("done")} of ${this.rows.length} made, ${count("failed")} failed`;
  }

  /** @param {any} row */
  stateText(row) {
    return WORDS[row.state] || row.state;
  }

  /** @param {any} row */
  noteOf(row) {
    return row.message || (row.lacks.length ? row.lacks.join(", ") : row.made.join(", "));
  }

  get reportAddress() {
    return this.batch ? `/batches/${this.batch.id}/report.csv` : "";
  }

  /** @param {FieldEvent} event */
  async takeTable(event) {
    const [file] = event.target.files;
    if (file) await this.sent(file, `/projects/${this.project.state.id}/batches`);
    event.target.value = "";
  }

  /**
   * Files that the table names; others are passed over, and said.
   * @param {FieldEvent} event
   */
  async takeFiles(event) {
    const files = [...event.target.files];
    const other = files.filter((file) => !(file.name in this.batch.needs));
    for (const file of files)
      if (file.name in this.batch.needs) await this.sent(file, `/batches/${this.batch.id}/files`);
    if (other.length && !this.fault)
      this.fault = `The table names no ${other.map((file) => file.name).join(", ")}; passed over.`;
    event.target.value = "";
  }

  /**
   * @param {File} file
   * @param {string} path
   */
  async sent(file, path) {
    this.fault = "";
    this.busy = file.name;
    try {
      this.batch = await send(path, file, () => {}, {});
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
    this.busy = "";
  }

  async start() {
    const { newExport } = this;
    const [body] = newExport.bodies;
    const wanted = without(body, "frame", "from_s", "to_s");
    const frames = newExport.frames.map((item) => item.size.join("x"));
    try {
      this.batch = await ask(`/batches/${this.batch.id}/start`, { json: { ...wanted, frames } });
      this.watch();
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
  }

  async stop() {
    this.batch = await ask(`/batches/${this.batch.id}/cancel`, { method: "POST" }).catch(() => this.batch);
  }

  async watch() {
    if (this.watching) return;
    this.watching = true;
    const goes = () =>
      this.batch &&
      (this.batch.state === "running" ||
        (this.batch.state === "done" && this.rows.some((/** @type {any} */ r) => r.state === "running")));
    while (goes()) {
      await wait(TURN);
      this.batch = await ask(`/batches/${this.batch.id}`).catch(() => this.batch);
      this.exports.loadExports();
    }
    this.watching = false;
  }
}
