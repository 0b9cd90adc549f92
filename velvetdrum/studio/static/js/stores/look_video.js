// From the chosen look to a finished video, or to the studio.

import { ask, refusalOf } from "../lib/api.js";
import { wait } from "../lib/time.js";

const PARTS = [
  { key: 15, label: "15 s" },
  { key: 30, label: "best 30 s" },
  { key: 60, label: "60 s" },
  { key: 0, label: "all" },
];
const POLL = 250;

export class LookVideo {
  /**
   * @param {any} given what the page was given
   * @param {import("./look_filling.js").LookFilling} filling
   * @param {import("./look_sound.js").LookSound} sound
   */
  constructor(given, filling, sound) {
    this.given = given;
    this.filling = filling;
    this.sound = sound;
    this.shapes = given.shapes;
    this.revision = given.project.revision;
  }

  part = 30;
  busy = false;
  step = "";
  share = 0;
  fault = "";
  file = "";
  /** @type {string | null} */
  _export = null;

  /** What is shorter than the sound, and all of it. */
  get parts() {
    return PARTS.filter((part) => part.key < this.sound.length);
  }

  /** @param {number} key */
  isPart(key) {
    return (this.sound.best ? this.part : 0) === key;
  }

  /** @param {number} key */
  async take(key) {
    this.part = key;
    try {
      await this.given.whole;
      await this.sound.find(key);
    } catch (thrown) {
      this.fault = refusalOf(thrown).message;
    }
  }

  /** @param {string} shape */
  isShape(shape) {
    return this.filling.frame === shape;
  }

  get label() {
    return this.busy ? this.step : "Make the video";
  }

  get bar() {
    return { width: `${Math.round(this.share * 100)}%` };
  }

  /** Where the file is saved from, under its name. */
  get saved() {
    return `${this.file}?download=1`;
  }

  get room() {
    return `/projects/${this.given.project.id}`;
  }

  /** Put the look into the project, as soon as there is one. */
  async apply() {
    await this.given.whole;
    const json = { revision: this.revision, look: this.filling.look.id, ...this.filling.body };
    const state = await ask(`/projects/${this.given.project.id}/look`, { json });
    this.revision = state.revision;
  }

  async make() {
    Object.assign(this, { busy: true, step: "Listening to the sound first", share: 0, fault: "", file: "" });
    try {
      await this.given.whole;
      this.step = "Putting the look on";
      await this.apply();
      const [from, to] = this.sound.best || [];
      const json = { speed: "quick", format: "mp4", ...(this.sound.best ? { from_s: from, to_s: to } : {}) };
      const { id } = await ask(`/projects/${this.given.project.id}/exports`, { json });
      this._export = id;
      for (;;) {
        const state = await ask(`/exports/${id}`);
        this.share = state.done / state.frames;
        this.step = `Making the video, ${Math.round(this.share * 100)} %`;
        if (state.state === "failed") throw new Error(state.error);
        if (state.state === "cancelled") break;
        if (state.state === "done") {
          this.file = `/exports/${id}/video`;
          break;
        }
        await wait(POLL);
      }
    } catch (thrown) {
      this.fault = refusalOf(thrown).message;
    } finally {
      this.busy = false;
      this._export = null;
    }
  }

  cancel() {
    if (this._export) ask(`/exports/${this._export}/cancel`, { json: {} }).catch(() => {});
  }

  async open() {
    try {
      await this.apply();
      location.href = `/projects/${this.given.project.id}`;
    } catch (thrown) {
      this.fault = refusalOf(thrown).message;
    }
  }
}
