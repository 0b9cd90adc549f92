// Bringing a sound in: dropped or chosen, sent, analysed.

import { ask, send, refusalOf } from "../lib/api.js";
import { droppedFiles } from "../lib/dropped_files.js";
import { wait } from "../lib/time.js";

export class SoundImport {
  /**
   * @param {object} use
   * @param {() => string} use.address where a file is sent
   * @param {(project: string, note: string, opened: boolean) => any} use.brought what follows when it is in, with what
   *   there is to say, and whether it was a project file
   * @param {(values: Int16Array) => void} use.wave shows the waveform as far as it was read: low, high, RMS
   * @param {(files: File[]) => boolean} [use.taken] true for files that were something else
   * @param {(ident: string) => boolean} [use.opened] true where its first seconds are enough to go on
   */
  constructor({ address, brought, wave, taken = () => false, opened = () => false }) {
    this.address = address;
    this.brought = brought;
    this.wave = wave;
    this.taken = taken;
    this.opened = opened;
  }

  dragging = false;
  bringing = false;
  bringingText = "";
  bringingFault = "";
  bringingBar = { width: "0%" };
  /** @type {{ abort?: () => void }} */
  _hold = {};
  /** @type {string | null} */
  _import = null;
  /** @param {DropEvent} event */
  dragOver(event) {
    if (event.dataTransfer && [...event.dataTransfer.types].includes("Files")) this.dragging = true;
  }
  /** @param {PressEvent} event */
  dragLeave(event) {
    if (!event.relatedTarget) this.dragging = false;
  }
  /** @param {DropEvent} event */
  async dropped(event) {
    this.dragging = false;
    const files = await droppedFiles(event.dataTransfer);
    if (files.length && !this.taken(files)) this.bring(files[0]);
  }
  /** @param {FieldEvent} event */
  fileChosen(event) {
    const files = [...event.target.files];
    event.target.value = "";
    const other = files.length > 1 || /^image\//.test(files[0]?.type || "");
    if (files.length && !(other && this.taken(files))) this.bring(files[0]);
  }
  /** @param {File} file */
  async bring(file) {
    if (this.bringing && !this.bringingFault) return;
    this.bringing = true;
    this.bringingFault = "";
    this._hold = {};
    this._import = null;
    const opens = /\.vdrum$/i.test(file.name);
    const show = (/** @type {string} */ text, /** @type {number} */ share) => {
      this.bringingText = text;
      this.bringingBar = { width: `${Math.round(share * 100)}%` };
    };
    try {
      show(`Sending ${file.name}`, 0);
      const begun = await send(this.address(), file, (share) => show(`Sending ${file.name}`, share), this._hold);
      this._import = begun.import;
      for (;;) {
        const state = await ask(`/imports/${begun.import}`);
        show(`${opens ? "Opening" : "Listening to"} ${state.name}`, state.share);
        if (state.state === "running" || state.state === "done") await this.showWave(begun.import);
        if (state.opening && this.opened(begun.import)) return undefined;
        if (state.state === "done") return await this.brought(state.project, state.error, opens);
        if (state.state === "cancelled") return this.dismissBringing();
        if (state.state === "failed") {
          this.bringingText = `${state.name} was not brought in`;
          this.bringingFault = state.error;
          return undefined;
        }
        await wait(150);
      }
    } catch (thrown) {
      const problem = refusalOf(thrown);
      if (!problem.message) return this.dismissBringing();
      this.bringingText = `${file.name} was not brought in`;
      this.bringingFault = problem.message;
    }
    return undefined;
  }
  /** @param {any} ident */
  async showWave(ident) {
    this.wave(new Int16Array(await ask(`/imports/${ident}/wave`, { bytes: true })));
  }
  cancelBringing() {
    if (this._import) ask(`/imports/${this._import}/cancel`, { method: "POST" });
    else if (this._hold.abort) this._hold.abort();
  }
  dismissBringing() {
    this.bringing = false;
    this.bringingFault = "";
  }
}
