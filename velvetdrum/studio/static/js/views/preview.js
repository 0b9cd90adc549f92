// The picture: what the server's renderer drew. At rest one sharp frame; in play a stream of smaller ones, held
// against the audio clock. When they come too slowly the size drops first, and only then the frame rate.

import { ask, unpack } from "../lib/api.js";
import { PassingPictures } from "./passing_pictures.js";

const WIDTHS = [1280, 960, 640, 480, 320, 240];
const DRAG_WIDTH = 640;
// Milliseconds that the playhead rests until the sharp picture is asked for.
const SHARP_AFTER_MS = 140;
// Good seconds before a larger size is tried, and the most of them after tries that failed.
const CLIMB_AFTER = 2;
const CLIMB_AFTER_MOST = 16;
// By how much of a frame a picture may come early: where the screen is refreshed as often as frames are due, one that
// is not quite due at one refresh would be left out for its follower at the next.
const EARLY = 0.15;
// Seconds until the workers have ready what a new size needs.
const SETTLE_S = 1.5;

export class Preview {
  constructor(canvas, project, onShown) {
    this.__v_skip = true; // Alpine then leaves the object as it is: clocks and canvases must not be wrapped
    this.canvas = canvas;
    this.project = project; // () => ({id, width, height, frames, rate})
    this.onShown = onShown;
    this.context = canvas.getContext("2d", { alpha: false });
    this.shown = -1;
    this.wanted = null;
    this.working = false;
    this.passing = new PassingPictures(this);
    this.sharpTimer = null;
    this.level = 2;
    this.every = 1;
    this.latencies = [];
  }

  /** Size in device pixels of the box in which the picture stands. */
  fit() {
    const box = this.canvas.getBoundingClientRect();
    const scale = window.devicePixelRatio || 1;
    return Math.max(64, Math.round(box.width * scale));
  }

  /** Show one frame. `draft` is a JSON Patch that is drawn but not kept: then smaller, for speed. */
  still(frame, draft = null) {
    clearTimeout(this.sharpTimer);
    this.sharpTimer = null;
    this.passing.forget();
    this.wanted = { frame, draft, asked: performance.now() };
    if (!this.working) this.next();
  }

  /** True until what was asked for is on show, sharp. */
  get busy() {
    return this.working || this.sharpTimer !== null || this.passing.count > 0;
  }

  /** A frame that the playhead only passes: smaller, so that the picture follows the hand. Sharp once it rests. */
  pass(frame) {
    clearTimeout(this.sharpTimer);
    this.sharpTimer = setTimeout(() => this.still(frame), SHARP_AFTER_MS);
    this.passing.want(frame);
  }

  async next() {
    this.working = true;
    while (this.wanted) {
      const { frame, draft, asked } = this.wanted;
      this.wanted = null;
      const project = this.project();
      const full = Math.min(this.fit(), project.width);
      const width = draft ? Math.min(DRAG_WIDTH, full) : full;
      const form = draft ? "jpeg" : "png";
      try {
        const [picture] = await this.get([frame], width, form, draft);
        if (this.playing) break;
        const size = { width: picture.bitmap.width, height: picture.bitmap.height };
        this.draw(picture.bitmap, frame);
        if (draft) this.latencies.push(performance.now() - asked);
        this.onShown({ frame, ...size, rate: null, fault: "", problems: [], layers: [] });
      } catch (problem) {
        // A draft that can't be drawn: the last good picture stays, the reason stands beside the setting.
        if (draft && problem.status === 422) this.onShown({ problems: problem.data.problems || [] });
        else if (!this.wanted)
          this.onShown({ frame, fault: problem.message, layers: (problem.data && problem.data.problems) || [] });
      }
    }
    this.working = false;
  }

  async get(frames, width, form, draft = null, signal = undefined) {
    const { id, more } = this.project();
    const json = { frames, width, form, ...more };
    if (draft) json.draft = draft;
    const packed = unpack(await ask(`/projects/${id}/frames`, { json, bytes: true, signal }), form);
    return Promise.all(packed.map(async ({ number, blob }) => ({ number, bitmap: await createImageBitmap(blob) })));
  }

  draw(bitmap, frame) {
    if (this.canvas.width !== bitmap.width || this.canvas.height !== bitmap.height) {
      this.canvas.width = bitmap.width;
      this.canvas.height = bitmap.height;
    }
    this.context.drawImage(bitmap, 0, 0);
    bitmap.close();
    this.shown = frame;
  }

  /** Follow a player until `stop`. */
  play(player) {
    this.playing = true;
    this.player = player;
    this.buffer = new Map(); // by frames since the start
    this.next_ = 0;
    this.inFlight = 0;
    this.stopper = new AbortController();
    this.last = -1;
    this.watch = null;
    this.patience = CLIMB_AFTER;
    this.climbed = 0;
    this.latency = 0.2; // seconds from asking for a pack to having it, of late
    this.judged = null; // the frame from which on the stream is judged; null until the first pack is here
    this.pump();
    const step = () => {
      if (!this.playing) return;
      this.tick();
      requestAnimationFrame(step);
    };
    requestAnimationFrame(step);
  }

  stop() {
    if (!this.playing) return;
    this.playing = false;
    this.stopper.abort();
    for (const bitmap of this.buffer.values()) bitmap.close();
    this.buffer.clear();
  }

  get width() {
    const { width } = this.project();
    const landscape = Math.min(WIDTHS[this.level], width);
    return Math.min(landscape, Math.ceil(this.fit() / 2) * 2);
  }

  pump() {
    if (!this.playing) return;
    const { rate, frames } = this.project();
    const now = Math.floor(this.player.elapsed);
    // What would come too late is not asked for: it would only keep what can be in time waiting.
    if (this.next_ < now) this.next_ = now + Math.ceil(Math.min(this.latency, 1) * rate) + this.every;
    const batch = Math.max(2, Math.round((rate / this.every) * 0.2));
    const ahead = rate * Math.max(1.2, Math.min(this.latency * 2, 3));
    while (this.inFlight < 3 && this.next_ < now + ahead) {
      const wanted = [];
      for (let i = 0; i < batch; i += 1) wanted.push(this.next_ + i * this.every);
      const numbers = wanted.map((elapsed) => Math.round(this.player.frameAt(elapsed)));
      this.next_ += batch * this.every;
      if (numbers[0] >= frames) break;
      this.request(
        wanted,
        numbers.map((number) => Math.min(number, frames - 1)),
      );
    }
  }

  async request(wanted, numbers) {
    this.inFlight += 1;
    const asked = performance.now();
    try {
      const pictures = await this.get(numbers, this.width, "jpeg", null, this.stopper.signal);
      pictures.forEach((picture, index) => {
        if (this.playing && wanted[index] > this.last) this.buffer.set(wanted[index], picture.bitmap);
        else picture.bitmap.close();
      });
      this.latency += 0.3 * ((performance.now() - asked) / 1000 - this.latency);
      if (this.judged === null)
        this.judged = Math.max(wanted[0], this.player.elapsed) + this.project().rate * SETTLE_S;
      this.onShown({ fault: "" });
    } catch (problem) {
      if (problem.name !== "AbortError") {
        this.onShown({ fault: problem.message });
        await new Promise((resolve) => setTimeout(resolve, 500));
      }
    } finally {
      this.inFlight -= 1;
    }
    this.pump();
  }

  /** The size or the rate is another one: judged once that is on show. */
  changed() {
    this.judged = Math.max(this.next_, this.player.elapsed) + this.project().rate * SETTLE_S;
  }

  /** Let the workers make ready what playing needs, before anybody presses play. */
  async warm() {
    const frame = Math.max(this.shown, 0);
    const ask = () =>
      this.get([frame], this.width, "jpeg").then((pictures) => pictures.forEach(({ bitmap }) => bitmap.close()));
    await Promise.allSettled([ask(), ask()]);
  }

  tick() {
    const elapsed = this.player.elapsed;
    const due = Math.floor(elapsed + EARLY);
    let best = -1;
    for (const at of this.buffer.keys()) {
      if (at <= due && at > best) best = at;
    }
    if (best > this.last) {
      const bitmap = this.buffer.get(best);
      this.buffer.delete(best);
      const size = [bitmap.width, bitmap.height];
      this.draw(bitmap, Math.round(this.player.frameAt(best)));
      this.last = best;
      if (this.watch) this.watch.drawn += 1;
      this.onShown({ frame: this.shown, width: size[0], height: size[1], rate: this.project().rate / this.every });
    }
    for (const [at, bitmap] of this.buffer) {
      if (at < this.last) {
        bitmap.close();
        this.buffer.delete(at);
      }
    }
    this.judge(elapsed);
    this.pump();
  }

  /** Once a second: were the frames there in time? The first moments, and those after a change of the size or of the
   * rate, in which the stream fills, don't count. */
  judge(elapsed) {
    const now = performance.now();
    if (this.judged === null || elapsed < this.judged) return;
    if (!this.watch) {
      this.watch = { since: now, drawn: 0, from: elapsed, good: 0 };
      return;
    }
    const seconds = (now - this.watch.since) / 1000;
    if (seconds < 1) return;
    const due = Math.min((elapsed - this.watch.from) / this.every, seconds * 60);
    const share = due > 4 ? this.watch.drawn / due : 1;
    let good = this.watch.good;
    if (share < 0.8) {
      // A size that did not hold is tried again later.
      if (now - this.climbed < 4000) this.patience = Math.min(this.patience * 2, CLIMB_AFTER_MOST);
      good = 0;
      if (this.level < WIDTHS.length - 1) this.level += 1;
      else this.every = Math.min(4, this.every + 1);
      this.changed();
    } else if (share > 0.95) {
      good += 1;
      const ahead = Math.max(-1, ...this.buffer.keys()) - elapsed;
      if (good >= this.patience && ahead > this.project().rate * 0.5) {
        good = 0;
        this.climbed = now;
        if (this.every > 1) this.every -= 1;
        else if (this.level > 0 && this.width < this.fit()) this.level -= 1;
        this.changed();
      }
    }
    // What was good so far counts on: the stream is only looked at again later.
    if (this.judged > elapsed) {
      this.watch = null;
      return;
    }
    this.watch = { since: now, drawn: 0, from: elapsed, good };
  }
}
