// From the chosen look to finished videos, or to the studio.

import { length, size } from "../lib/amounts.js";
import { ask, refusalOf } from "../lib/api.js";
import { wait } from "../lib/time.js";

const PARTS = [
  { key: 15, label: "15 s" },
  { key: 30, label: "best 30 s" },
  { key: 60, label: "60 s" },
  { key: 0, label: "all" },
];
const POLL = 250;
const RESTED = 2500; // milliseconds without a change after which it is estimated what a video costs

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
  made = 0;
  cost = "";
  /** @type {string[]} */
  _exports = [];
  /** @type {any} */
  _timer = null;

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
      this.weigh();
    } catch (thrown) {
      this.fault = refusalOf(thrown).message;
    }
  }

  /** @param {string} shape */
  isShape(shape) {
    return this.filling.frame === shape;
  }

  get count() {
    return 1 + this.given.others.length;
  }

  get label() {
    if (this.busy) return this.step;
    return this.count > 1 ? `Make ${this.count} videos` : "Make the video";
  }

  /** What other sounds there are that get the same look. */
  get othersText() {
    const names = this.given.others.map((/** @type {any} */ other) => other.name);
    return names.length ? `This look goes to ${names.join(", ")}, too, each under its own title.` : "";
  }

  get costShown() {
    return this.cost !== "" && !this.busy;
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

  /**
   * What an export is asked for by.
   * @param {[number, number] | null} stretch
   */
  _wanted(stretch) {
    return { speed: "quick", format: "mp4", ...(stretch ? { from_s: stretch[0], to_s: stretch[1] } : {}) };
  }

  /** Once nothing has changed for a while: how long the video takes and how large it is. */
  weigh() {
    clearTimeout(this._timer);
    this.cost = "";
    this._timer = setTimeout(() => this._weigh(), RESTED);
  }

  async _weigh() {
    const { id } = this.filling.look;
    if (this.busy || this.given.import || !id) return;
    try {
      const json = { ...this._wanted(this.sound.best), ...this.filling.body };
      const { seconds, bytes } = await ask(`/projects/${this.given.project.id}/looks/${id}/estimate`, { json });
      if (id === this.filling.look.id)
        this.cost = `about ${length(seconds * this.count)}, ${size(bytes * this.count)}`;
    } catch {
      /* it is made without one */
    }
  }

  /** Put the look into the project, as soon as there is one, and into those of the other sounds. */
  async apply() {
    await this.given.whole;
    const { look, body } = this.filling;
    const state = await ask(`/projects/${this.given.project.id}/look`, {
      json: { revision: this.revision, look: look.id, ...body },
    });
    this.revision = state.revision;
    for (const other of this.given.others) {
      const json = { revision: other.revision, look: look.id, ...body, title: other.name, words: {} };
      other.revision = (await ask(`/projects/${other.id}/look`, { json })).revision;
    }
  }

  /** What is exported of each project: its best stretch, or all of it. */
  async _asked() {
    const asked = [{ id: this.given.project.id, stretch: this.sound.best }];
    for (const { id, document } of this.given.others) {
      const [track] = document.tracks;
      const whole = !this.sound.best || this.part >= track.out_s - track.in_s;
      const [first] = whole ? [null] : await ask(`/projects/${id}/excerpts?length_s=${this.part}`);
      asked.push({ id, stretch: first ? [first.start_s, first.end_s] : null });
    }
    return asked;
  }

  async make() {
    Object.assign(this, { busy: true, step: "Listening to the sound first", share: 0, fault: "", file: "", made: 0 });
    try {
      await this.given.whole;
      this.step = "Putting the look on";
      await this.apply();
      this._exports = [];
      for (const { id, stretch } of await this._asked())
        this._exports.push((await ask(`/projects/${id}/exports`, { json: this._wanted(stretch) })).id);
      const [first] = this._exports;
      for (const id of this._exports) {
        if (!(await this._finished(id))) return;
        this.made += 1;
      }
      this.file = `/exports/${first}/video`;
    } catch (thrown) {
      this.fault = refusalOf(thrown).message;
    } finally {
      this.busy = false;
      this._exports = [];
    }
  }

  /**
   * Wait for an export; false where it was stopped.
   * @param {string} id
   */
  async _finished(id) {
    for (;;) {
      const state = await ask(`/exports/${id}`);
      this.share = (this.made + state.done / state.frames) / this.count;
      const which = this.count > 1 ? ` ${this.made + 1} of ${this.count}` : " the video";
      this.step = `Making${which}, ${Math.round(this.share * 100)} %`;
      if (state.state === "failed") throw new Error(state.error);
      if (state.state === "cancelled") return false;
      if (state.state === "done") return true;
      await wait(POLL);
    }
  }

  cancel() {
    for (const id of this._exports) ask(`/exports/${id}/cancel`, { json: {} }).catch(() => {});
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
