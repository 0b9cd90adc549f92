// Bringing a sound in: dropped or chosen, sent, analysed; and short messages at the foot of the page.

import { ask, send } from "./api.js";

const wait = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

export const bringing = {
  dragging: false,
  bringing: false,
  bringingText: "",
  bringingFault: "",
  bringingBar: { width: "0%" },
  toasts: [],
  _hold: {},
  _import: null,

  dragOver(event) {
    if (event.dataTransfer && [...event.dataTransfer.types].includes("Files")) this.dragging = true;
  },
  dragLeave(event) {
    if (!event.relatedTarget) this.dragging = false;
  },
  dropped(event) {
    this.dragging = false;
    const files = [...event.dataTransfer.files];
    if (files.length && !(this.dropPicture && this.dropPicture(files))) this.bring(files[0]);
  },
  fileChosen(event) {
    const file = event.target.files[0];
    event.target.value = "";
    if (file) this.bring(file);
  },
  async bring(file) {
    if (this.bringing && !this.bringingFault) return;
    this.bringing = true;
    this.bringingFault = "";
    this._hold = {};
    this._import = null;
    const show = (text, share) => {
      this.bringingText = text;
      this.bringingBar = { width: `${Math.round(share * 100)}%` };
    };
    try {
      show(`Sending ${file.name}`, 0);
      const begun = await send(this.bringTo(), file, (share) => show(`Sending ${file.name}`, share), this._hold);
      if (begun.project) return await this.brought(begun.project);
      this._import = begun.import;
      for (;;) {
        const state = await ask(`/imports/${begun.import}`);
        show(`Listening to ${state.name}`, state.share);
        if (state.state === "running" || state.state === "done") await this.showListening(begun.import);
        if (state.state === "done") return await this.brought(state.project);
        if (state.state === "cancelled") return this.dismissBringing();
        if (state.state === "failed") {
          this.bringingText = `${state.name} was not brought in`;
          this.bringingFault = state.error;
          return undefined;
        }
        await wait(150);
      }
    } catch (problem) {
      if (!problem.message) return this.dismissBringing();
      this.bringingText = `${file.name} was not brought in`;
      this.bringingFault = problem.message;
    }
    return undefined;
  },
  /** The waveform as far as it has been read. */
  async showListening(ident) {
    const canvas = this.$refs.listening;
    const values = new Int16Array(await ask(`/imports/${ident}/wave`, { bytes: true }));
    const context = canvas.getContext("2d");
    const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
    const [middle, step] = [canvas.height / 2, canvas.width / (values.length / 3)];
    const y = (value) => (value / 32767) * middle;
    context.clearRect(0, 0, canvas.width, canvas.height);
    for (let i = 0; i * 3 < values.length; i += 1) {
      const [low, high, rms] = values.subarray(i * 3, i * 3 + 3);
      context.fillStyle = colour("wave-far");
      context.fillRect(i * step, middle - y(high), step, Math.max(y(high) - y(low), 1));
      context.fillStyle = colour("wave");
      context.fillRect(i * step, middle - y(rms), step, y(rms) * 2);
    }
  },
  cancelBringing() {
    if (this._import) ask(`/imports/${this._import}/cancel`, { method: "POST" });
    else if (this._hold.abort) this._hold.abort();
  },
  dismissBringing() {
    this.bringing = false;
    this.bringingFault = "";
  },
  tell(text, action = "", run = () => {}) {
    const toast = { id: Math.random(), text, action };
    toast.run = () => {
      this.toasts = this.toasts.filter((other) => other.id !== toast.id);
      run();
    };
    this.toasts.push(toast);
    setTimeout(() => { this.toasts = this.toasts.filter((other) => other.id !== toast.id); }, action ? 12000 : 5000);
  },
  switchTheme() {
    const theme = document.documentElement.dataset.theme === "light" ? "dark" : "light";
    localStorage.setItem("velvet-theme", theme);
    document.documentElement.dataset.theme = theme;
    document.documentElement.dataset.bsTheme = theme;
    window.dispatchEvent(new Event("velvet-theme"));
  },
};
