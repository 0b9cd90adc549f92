// Before it is posted: every frame looked at in the background, what was found, and what one press does about it.

import { ask, refusalOf } from "../lib/api.js";
import { wait } from "../lib/time.js";
import { partWith } from "../lib/studio_part.js";

const TURN = 400;
const MOST = 6; // flashes a second that the curve is high

export class Reviews extends partWith(
  "formats",
  "layers",
  "messages",
  "newExport",
  "page",
  "playback",
  "project",
  "selection",
  "signals",
) {
  /** @type {any} */
  review = null;
  watching = false;
  fault = "";
  /** @type {Record<string, any>} */
  offers = {}; // number of a stretch -> the edit that softens it, or null where there is none
  async load() {
    try {
      this.review = await ask(`/projects/${this.project.state.id}/reviews`);
    } catch {
      /* the next turn asks again */
    }
    this.offers = {};
    if (this.running) this.watch();
  }

  get running() {
    return Boolean(this.review && this.review.state === "running");
  }

  get found() {
    return this.review && this.review.state === "done" ? this.review.found : null;
  }

  get share() {
    return { width: `${this.review ? (100 * this.review.done) / this.review.frames : 0}%` };
  }

  get text() {
    if (this.fault) return this.fault;
    if (!this.review) return "";
    if (this.running) return `${this.review.done} of ${this.review.frames} frames`;
    if (this.review.state === "failed") return this.review.error;
    if (this.review.state === "cancelled") return "stopped";
    const ago = Math.max(0, Date.now() / 1000 - this.review.made_at);
    const old = this.review.edit !== this.project.state.revision ? " · changed since" : "";
    const when = ago < 90 ? `${Math.round(ago)} s` : `${Math.round(ago / 60)} min`;
    return `looked at every frame · ${when} ago${old}`;
  }

  async begin() {
    this.fault = "";
    const { newExport } = this;
    const { stretch } = newExport;
    const json = {
      frames: newExport.frames.map((item) => item.size.join("x")),
      ...(stretch ? { from_s: stretch[0], to_s: stretch[1] } : {}),
    };
    try {
      this.review = await ask(`/projects/${this.project.state.id}/reviews`, { json });
      this.offers = {};
      this.watch();
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
  }

  async cancel() {
    if (this.review) await ask(`/reviews/${this.review.id}/cancel`, { method: "POST" }).catch(() => {});
  }

  async watch() {
    if (this.watching) return;
    this.watching = true;
    while (this.running) {
      await wait(TURN);
      try {
        this.review = await ask(`/reviews/${this.review.id}`);
      } catch {
        /* the server is away: it goes on when it is back */
      }
    }
    this.watching = false;
    this.findOffers();
  }

  /**
   * The curve of flashes as an SVG path in a box of 100 by 100.
   * @param {any} which
   */
  path(which) {
    if (!this.found) return "";
    const values = this.found.curve[which];
    const step = 100 / Math.max(1, values.length - 1);
    const points = values.map(
      (/** @type {any} */ value, /** @type {number} */ index) => `${(index * step).toFixed(2)},${this.height(value)}`,
    );
    return points.length ? `M0,100 L${points.join(" L")} L100,100 Z` : "";
  }

  /** @param {any} value */
  height(value) {
    return (100 - (Math.min(value, MOST) / MOST) * 92).toFixed(2);
  }

  get limit() {
    return this.height(3);
  }

  /** Where there are too many, as an SVG path in the same box. */
  get tooMany() {
    if (!this.found) return "";
    const whole = this.found.frames / this.found.rate;
    return this.found.flashes
      .map((/** @type {any} */ span) => {
        const left = (100 * span.start_s) / whole;
        const width = Math.max(0.6, (100 * (span.end_s - span.start_s)) / whole);
        return `M${left.toFixed(2)},0 h${width.toFixed(2)} V100 h${(-width).toFixed(2)} Z`;
      })
      .join(" ");
  }

  get curveText() {
    if (!this.found) return "No curve of flashes yet";
    const most = Math.max(0, ...this.found.curve.flat());
    return `Flashes a second over time, ${most.toFixed(0)} at the most; three are allowed`;
  }

  /** @param {PressEvent} event */
  seekCurve(event) {
    const box = event.currentTarget.getBoundingClientRect();
    const share = (event.clientX - box.left) / box.width;
    const seconds = this.review.start_s + (share * this.found.frames) / this.found.rate;
    this.playback.seek(Math.round(seconds * this.project.rate));
  }

  /** Lines, those that are not well first. */
  get lines() {
    if (!this.found) return [];
    const lines = this.found.watch.map((/** @type {any} */ item, /** @type {string} */ id) => ({ ...item, id }));
    return [
      ...lines.filter((/** @type {any} */ item) => !item.good),
      ...lines.filter((/** @type {any} */ item) => item.good),
    ];
  }

  get badCount() {
    return this.lines.filter((item) => !item.good).length;
  }

  async findOffers() {
    if (!this.found) return;
    for (let number = 0; number < Math.min(this.found.flashes.length, 3); number += 1) {
      try {
        const offer = await ask(`/reviews/${this.review.id}/soften`, { json: { number } });
        this.offers = { ...this.offers, [number]: offer };
      } catch {
        /* the moment is offered all the same */
      }
    }
  }

  /** @param {any} item */
  offerOf(item) {
    return item.target.soften === undefined ? null : this.offers[item.target.soften] || null;
  }

  /** @param {any} item */
  actText(item) {
    return item.act || "fine";
  }

  /** @param {any} item */
  async soften(item) {
    const offer = this.offerOf(item);
    if (!offer || this.review.edit !== this.project.state.revision) {
      this.messages.tell("The project was changed since it was looked at; look at it again.");
      return;
    }
    await this.project.edit(`Soften ${offer.signal_name} to ${offer.layer_name}`, offer.steps);
    const after = `${offer.after.toFixed(0)} flashes a second are left of ${offer.before.toFixed(0)}.`;
    this.messages.tell(after, "Look again", () => this.begin());
  }

  /** @param {any} item */
  act(item) {
    const { target } = item;
    if (target.shape) this.formats.viewShape(target.shape);
    if (target.cover) this.newExport.makeCover();
    if (target.loudness) this.newExport.set("loudness", String(target.loudness));
    if (target.part) {
      this.playback.setLoop(target.part[0], target.part[1]);
      this.newExport.set("part", "loop");
    }
    if (target.frame !== undefined) this.playback.seek(target.frame);
    const layer = target.layer && this.layers.byId(target.layer);
    if (layer) this.selection.choose(layer);
    if (target.room) this.page.go(target.room);
    if (target.signal) this.signals.chooseSignal(this.signals.signals.find((one) => one.id === target.signal));
  }
}
