// What there is to choose, by families: the names stand there at once, the pictures come in runs, those in sight first.

import { ask, refusalOf } from "./api.js";
import { wait } from "./time.js";

const RUN = 6;
// From a letter until pictures are asked for: the next one may follow.
const SEEK_MS = 120;

/**
 * @typedef {object} Choice
 * @property {string} family
 * @property {string} name
 * @property {number} place in the list of all
 * @property {string} [help] what an effect does
 * @property {string} [picture] as data for `img`, once it is drawn
 * @property {boolean} [stale] drawn before the choices were closed
 * @property {any} [layer] what is added, once it is drawn: a layer with its signals, or an effect
 * @property {any[]} [signals]
 * @property {any} [effect]
 */

export class DrawnChoices {
  /** @type {Choice[]} */
  all = [];
  /** @type {Record<string, string>} titles by name */
  families = {};
  family = "";
  sought = ""; // words that all families are searched for; empty: a family is on show
  state = ""; // busy, failed or ready
  fault = "";
  round = 0; // pictures of an earlier round are not waited for

  /** @type {string} */
  names = "";
  /** @type {(first: number, count: number) => Promise<Partial<Choice>[]>} */
  draw = async () => [];
  /** @type {() => void} called when choices got their pictures */
  filled = () => {};

  /**
   * @param {string} names the path that gives families and names
   * @param {(first: number, count: number) => Promise<Partial<Choice>[]>} draw what a run of choices has beside its
   *   names: pictures, and what is added
   * @param {() => void} [filled] called when choices got theirs
   */
  constructor(names, draw, filled = () => {}) {
    Object.defineProperty(this, "names", { value: names, enumerable: false });
    Object.defineProperty(this, "draw", { value: draw, enumerable: false });
    Object.defineProperty(this, "filled", { value: filled, enumerable: false });
  }

  get tabs() {
    return Object.entries(this.families).map(([name, title]) => ({ name, title }));
  }

  get listed() {
    const words = this.sought.toLowerCase().split(/\s+/).filter(Boolean);
    if (!words.length) return this.all.filter((choice) => choice.family === this.family);
    return this.all.filter(({ family, name, help }) => {
      const text = `${name} ${this.families[family]} ${help || ""}`.toLowerCase();
      return words.every((word) => text.includes(word));
    });
  }

  get nothing() {
    return this.state === "ready" && Boolean(this.sought) && !this.listed.length;
  }

  /** @param {string} name */
  isOpen(name) {
    return !this.sought && this.family === name;
  }

  /**
   * Search all families; no words: the family that was on show.
   * @param {string} words
   */
  async seek(words) {
    this.sought = words;
    const round = ++this.round;
    await wait(SEEK_MS);
    const lacking = this.listed.filter(({ picture, stale }) => !picture || stale);
    await this.attempt(round, () => this.drawRuns(lacking, round));
  }

  /**
   * Show a family, and have its pictures drawn anew: the project may look different by now.
   * @param {string} [family]
   */
  async open(family = this.family) {
    const round = ++this.round;
    this.sought = "";
    if (!this.all.length) this.state = "busy";
    await this.attempt(round, async () => {
      if (!this.all.length) await this.load();
      this.family = family in this.families ? family : this.tabs[0].name;
      this.state = "ready";
      await this.drawRuns(this.listed, round);
    });
  }

  /**
   * Pictures of choices, in runs of neighbours.
   * @param {Choice[]} choices
   * @param {number} round
   */
  async drawRuns(choices, round) {
    const places = choices.map(({ place }) => place);
    while (places.length && this.round === round) {
      let count = 1;
      while (count < RUN && places[count] === places[0] + count) count += 1;
      await this.fill(places.splice(0, count)[0], count, round);
    }
  }

  /**
   * @param {number} round
   * @param {() => Promise<void>} run
   */
  async attempt(round, run) {
    this.fault = "";
    try {
      await run();
    } catch (thrown) {
      const problem = refusalOf(thrown);
      if (this.round !== round) return;
      this.fault = problem.message;
      this.state = this.listed.some((choice) => choice.picture) ? "ready" : "failed";
    }
  }

  /** Nothing that is under way is wanted any more; by the next time the project may look different. */
  close() {
    this.round += 1;
    for (const choice of this.all) choice.stale = true;
  }

  /**
   * A choice with all that is needed to add it, drawn now if its turn has not come.
   * @param {import("../lib/drawn_choices.js").Choice} choice
   */
  async complete(choice) {
    if (!choice.picture) await this.fill(choice.place, 1, this.round);
    return this.all[choice.place];
  }

  async load() {
    const { families, choices } = await ask(this.names);
    this.families = families;
    this.all = choices.map(
      (/** @type {import("../lib/drawn_choices.js").Choice} */ choice, /** @type {string} */ place) => ({
        ...choice,
        place,
        picture: "",
      }),
    );
  }

  /**
   * @param {number} first
   * @param {number} count
   * @param {any} round
   */
  async fill(first, count, round) {
    const drawn = await this.draw(first, count);
    if (this.round !== round) return;
    drawn.forEach((more, n) => Object.assign(this.all[first + n], more, { stale: false }));
    this.filled();
  }
}
