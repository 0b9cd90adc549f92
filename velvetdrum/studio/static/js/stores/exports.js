// The queue of exports and what is made: watched, ordered, paused, played, taken home, cleaned up.

import { ask, refusalOf } from "../lib/api.js";
import { wait } from "../lib/time.js";
import { length, size } from "../lib/amounts.js";
import { partWith } from "../lib/studio_part.js";

const TURN = 500;

export class Exports extends partWith("messages", "newExport", "playback") {
  watching = false;
  /** @type {any[]} */
  exports = [];
  paused = false;
  free = 0;
  /** @type {Record<string, { at: number; done: number; fps: number }>} */
  rates = {}; // export id -> {at, done, fps}
  shown = ""; // id of the one that is played
  /** @type {Record<string, any[]>} */
  posts = {}; // export id -> its posts
  get waiting() {
    return this.exports.filter((item) => this.isRunning(item));
  }

  get made() {
    return this.exports.filter((item) => !this.isRunning(item) && !item.removed);
  }

  get removed() {
    return this.exports.filter((item) => item.removed);
  }

  get running() {
    return !this.paused && this.exports.some((item) => this.isRunning(item) && !item.held);
  }

  async loadExports() {
    try {
      this.take(await ask("/exports"));
    } catch {
      /* the next turn asks again */
    }
    if (this.exports.some((item) => this.isRunning(item) || this.isLookedAt(item))) this.watchExports();
  }

  /** @param {any} found */
  take(found) {
    const ran = this.running;
    this.paused = found.paused;
    this.free = found.free_bytes;
    for (const item of found.exports) {
      const before = this.exports.find((other) => other.id === item.id);
      if (before && before.state !== "done" && item.state === "done") this.tellDone(item);
      if (before && before.state !== "failed" && item.state === "failed")
        this.messages.tell(`${item.name} stopped: ${item.error}`);
      this.clockExport(item);
    }
    // Rows that did not change stay the same objects, so that a playing video is not drawn anew.
    this.exports = found.exports.map((/** @type {any} */ item) => {
      const before = this.exports.find((other) => other.id === item.id);
      return before && JSON.stringify(before) === JSON.stringify(item) ? before : item;
    });
    if (ran && !this.running) this.newExport.changed();
  }

  /**
   * In the page, and by the browser where that was allowed and the page is out of sight.
   * @param {any} item
   */
  tellDone(item) {
    this.messages.tell(`${item.name} is finished.`);
    const able = "Notification" in window && window.Notification.permission === "granted";
    if (able && document.hidden) new window.Notification("Velvet Drum", { body: `${item.name} is finished.` });
  }

  mayTell() {
    if ("Notification" in window && window.Notification.permission === "default")
      window.Notification.requestPermission();
  }

  /**
   * Looked at after it was made, for a little while.
   * @param {any} item
   */
  isLookedAt(item) {
    return item.state === "done" && !item.found && Date.now() / 1000 - item.made_at < 120 && item.shown === "video";
  }

  async watchExports() {
    if (this.watching) return;
    this.watching = true;
    while (this.watching) {
      await wait(TURN);
      try {
        this.take(await ask("/exports"));
        this.watching = this.exports.some((item) => this.isRunning(item) || this.isLookedAt(item));
      } catch {
        /* the server is away: it goes on when it is back */
      }
    }
  }

  /** @param {any} item */
  clockExport(item) {
    const now = performance.now();
    const watch = this.rates[item.id];
    if (!watch || item.done < watch.done) this.rates[item.id] = { at: now, done: item.done, fps: 0 };
    else if (now - watch.at > 2000) {
      const fps = ((item.done - watch.done) / (now - watch.at)) * 1000;
      this.rates[item.id] = { at: now, done: item.done, fps: watch.fps ? watch.fps * 0.6 + fps * 0.4 : fps };
    }
  }

  /** @param {any} item */
  isRunning(item) {
    return item.state === "running" || item.state === "waiting";
  }

  /** @param {any} item */
  isDone(item) {
    return item.state === "done" && !item.removed;
  }

  /** @param {any} item */
  isStopped(item) {
    return item.state === "failed" || item.state === "cancelled";
  }

  /** @param {any} item */
  isHeld(item) {
    return item.held === "paused";
  }

  /** @param {any} item */
  canBeFirst(item) {
    return item.state === "waiting" && !item.held && this.waiting[0] !== item;
  }

  /** @param {any} item */
  exportBar(item) {
    return { width: `${(item.done / item.frames) * 100}%` };
  }

  /** @param {any} item */
  fpsOf(item) {
    return this.rates[item.id] ? this.rates[item.id].fps : 0;
  }

  /** @param {any} item */
  exportLine(item) {
    const share = `${Math.floor((item.done / item.frames) * 100)} %`;
    if (item.held === "room") return item.error;
    if (item.held) return `paused at ${share}`;
    if (item.state === "waiting") return this.paused ? "waits: the queue is paused" : "waiting for its turn";
    if (item.state === "running") {
      const fps = this.fpsOf(item);
      if (item.done >= item.frames)
        return `putting it together${item.joined ? `, ${Math.floor(item.joined * 100)} %` : ""}`;
      const far = `${item.done} of ${item.frames}`;
      if (!fps) return `${far} · reckoning`;
      return `${far} · ${fps.toFixed(1)} frames/s · ${length((item.frames - item.done) / fps)} left`;
    }
    if (item.state === "done") {
      const words = [size(item.bytes || 0), this.playback.time(item.seconds), item.format];
      return [...words, `${item.speed.toLowerCase()}, took ${length(item.took_s)}`, `edit ${item.edit}`].join(" · ");
    }
    if (item.state === "cancelled") return `cancelled at ${share}`;
    return item.error;
  }

  /**
   * What the finished file was found to be.
   * @param {any} item
   */
  foundLine(item) {
    const { found } = item;
    if (!found) return "";
    const words = [];
    if (found.loudness_lufs !== null)
      words.push(`${minus(found.loudness_lufs)} LUFS`, `${minus(found.true_peak_dbtp)} dBTP`);
    words.push(found.flashes ? `flashes at ${found.flashes} places` : "no flashes");
    if (found.black) words.push("black stretches");
    if (found.frozen) words.push("frozen stretches");
    return words.join(", ");
  }

  /** @param {any} item */
  foundWell(item) {
    return Boolean(item.found && !item.found.flashes && !item.found.black && !item.found.frozen);
  }

  /** Time left of all that waits, from how fast the present one is. */
  get leftText() {
    const now = this.waiting.find((item) => item.state === "running");
    const fps = now ? this.fpsOf(now) : 0;
    const frames = this.waiting.reduce((sum, item) => sum + (item.held ? 0 : item.frames - item.done), 0);
    if (this.paused) return "paused";
    return fps > 0 && this.waiting.length > 1 ? `${length(frames / fps)} left` : "";
  }

  get madeBytes() {
    return this.made.reduce((sum, item) => sum + (item.bytes || 0), 0);
  }

  get madeText() {
    return this.madeBytes ? size(this.madeBytes) : "";
  }

  /** Ways to clean up: {text, ids}. */
  get tidyWays() {
    const week = Date.now() / 1000 - 7 * 86_400;
    const made = this.made.filter((item) => item.state === "done");
    const newest = new Map();
    for (const item of [...made].reverse()) newest.set(`${item.project} ${item.form} ${item.width}`, item.id);
    const ways = [
      { name: "older than a week", items: made.filter((item) => item.made_at < week) },
      { name: "replaced by newer ones", items: made.filter((item) => ![...newest.values()].includes(item.id)) },
      { name: "all", items: made },
    ];
    return ways
      .filter((way) => way.items.length)
      .map((way) => {
        const freed = way.items.reduce((sum, item) => sum + (item.bytes || 0), 0);
        const text = `${way.name}: ${way.items.length}, frees ${size(freed)}`;
        return { name: way.name, text, ids: way.items.map((item) => item.id) };
      });
  }

  /** @param {string[]} ids */
  async tidy(ids) {
    try {
      const { freed_bytes: freed } = await ask("/exports/remove", { json: { ids } });
      this.messages.tell(`${size(freed)} are free again. Each can be made anew from the list below.`);
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.messages.tell(problem.message);
    }
    await this.loadExports();
  }

  /** @param {any} item */
  videoAddress(item) {
    return `/exports/${item.id}/video`;
  }

  /** @param {any} item */
  downloadAddress(item) {
    return `/exports/${item.id}/video?download=1`;
  }

  /**
   * @param {any} item
   * @param {any} form
   */
  captionsAddress(item, form) {
    return `/exports/${item.id}/captions/${form}`;
  }

  /** @param {any} item */
  isShown(item) {
    return this.shown === item.id;
  }

  /** @param {any} item */
  toggleShown(item) {
    this.shown = this.isShown(item) ? "" : item.id;
  }

  /**
   * @param {any} item
   * @param {string} what
   */
  async does(item, what) {
    try {
      await ask(`/exports/${item.id}/${what}`, { method: "POST" });
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.messages.tell(problem.message);
    }
    await this.loadExports();
  }

  async pauseAll() {
    try {
      this.take(await ask("/exports/queue", { json: { paused: this.paused ? "no" : "yes" } }));
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.messages.tell(problem.message);
    }
    await this.loadExports();
  }
}

const minus = (/** @type {any} */ value) => value.toFixed(1).replace("-", "−");
