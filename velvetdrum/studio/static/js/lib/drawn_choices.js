// What there is to choose, by families: the names stand there at once, the pictures come in runs, those in sight first.

import { ask, refusalOf } from "./api.js";

const RUN = 6;

/**
 * @typedef {object} Choice
 * @property {string} family
 * @property {string} name
 * @property {number} place in the list of all
 * @property {string} [picture] as data for `img`, once it is drawn
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
    return this.all.filter((choice) => choice.family === this.family);
  }

  /**
   * Show a family, and have its pictures drawn anew: the project may look different by now.
   * @param {string} [family]
   */
  async open(family = this.family) {
    const round = ++this.round;
    this.fault = "";
    if (!this.all.length) this.state = "busy";
    try {
      if (!this.all.length) await this.load();
      this.family = family in this.families ? family : this.tabs[0].name;
      this.state = "ready";
      const places = this.listed.map((choice) => choice.place);
      for (let at = 0; at < places.length && this.round === round; at += RUN)
        await this.fill(places[at], Math.min(RUN, places.length - at), round);
    } catch (thrown) {
      const problem = refusalOf(thrown);
      if (this.round !== round) return;
      this.fault = problem.message;
      this.state = this.listed.some((choice) => choice.picture) ? "ready" : "failed";
    }
  }

  /** Nothing that is under way is wanted any more. */
  close() {
    this.round += 1;
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
    drawn.forEach((more, n) => Object.assign(this.all[first + n], more));
    this.filled();
  }
}
