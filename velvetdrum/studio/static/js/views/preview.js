// The picture: what the server's renderer drew. At rest one sharp frame; in play a stream of smaller ones, held
// against the audio clock. When they come too slowly the size drops first, and only then the frame rate.

import { ask, unpack, refusalOf } from "../lib/api.js";
import { QuickWidth } from "../lib/quick_width.js";
import { wait } from "../lib/time.js";
import { PACK_S, StreamPace } from "../lib/stream_pace.js";
import { PassingPictures } from "./passing_pictures.js";
import { PlayReadiness } from "./play_readiness.js";

// Widths of what is tried out, and the milliseconds in which it should be there.
const DRAFT_WIDTHS = [640, 480, 360];
const DRAFT_MS = 50;
// Milliseconds that the playhead rests until the sharp picture is asked for.
const SHARP_AFTER_MS = 140;
// Milliseconds that an edit is held back at the most for the picture that shows it.
const ARRIVAL_MS = 150;
// By how much of a frame a picture may come early: where the screen is refreshed as often as frames are due, one that
// is not quite due at one refresh would be left out for its follower at the next.
const EARLY = 0.15;
export class Preview {
  /**
   * @param {HTMLCanvasElement} canvas
   * @param {any} project
   * @param {any} onShown
   * @param {() => boolean} isFree true while nothing else wants the workers
   */
  constructor(canvas, project, onShown, isFree) {
    this.__v_skip = true; // Alpine then leaves the object as it is: clocks and canvases must not be wrapped
    this.canvas = canvas;
    this.project = project; // () => ({id, width, height, frames, rate})
    this.onShown = onShown;
    this.context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d", { alpha: false }));
    this.shown = -1;
    this.wanted = null;
    this.working = false;
    this.passing = new PassingPictures(this);
    this.arrival = Promise.resolve();
    /** @type {any} */
    this.sharpTimer = null;
    this.drafts = new QuickWidth(DRAFT_WIDTHS, DRAFT_MS);
    this.pace = new StreamPace();
    this.readiness = new PlayReadiness(this, isFree);
    this.stopper = new AbortController();
    /** @type {Map<number, ImageBitmap>} */
    this.buffer = new Map();
    this.inFlight = 0;
    this.least = 0; // pixels across that another window shows
    /** @type {(() => void) | null} */
    this.drawn = null; // what follows each picture
    this.last = -1;
    /** @type {number[]} */
    this.latencies = [];
  }

  /** Size in device pixels of the box in which the picture stands. */
  fit() {
    const box = this.canvas.getBoundingClientRect();
    const scale = window.devicePixelRatio || 1;
    return Math.max(64, this.least, Math.round(box.width * scale));
  }

  /**
   * Show one frame. `unsent` is what is drawn but not kept, as the project says it: then smaller, for speed.
   * @param {number} frame
   * @param {any} [unsent]
   */
  still(frame, unsent = null) {
    clearTimeout(this.sharpTimer);
    /** @type {any} */
    this.sharpTimer = null;
    this.passing.forget();
    this.readiness.cancel();
    this.wanted = { frame, unsent, asked: performance.now() };
    if (!this.working) this.arrival = this.next();
  }

  /** Until the picture that is on its way has come, or has been waited for long enough. */
  arrived() {
    return this.working ? Promise.race([this.arrival, wait(ARRIVAL_MS)]) : Promise.resolve();
  }

  /** True until what was asked for is on show, sharp. */
  get busy() {
    return this.working || this.sharpTimer !== null || this.passing.count > 0;
  }

  /**
   * A frame that the playhead only passes: smaller, so that the picture follows the hand. Sharp once it rests.
   * @param {number} frame
   */
  pass(frame) {
    this.readiness.cancel();
    clearTimeout(this.sharpTimer);
    this.sharpTimer = setTimeout(() => this.still(frame), SHARP_AFTER_MS);
    this.passing.want(frame);
  }

  async next() {
    this.working = true;
    while (this.wanted) {
      const { frame, unsent, asked } = this.wanted;
      this.wanted = null;
      const project = this.project();
      const full = Math.min(this.fit(), project.width);
      const width = unsent ? Math.min(this.drafts.width, full) : full;
      const form = unsent ? "jpeg" : "png";
      try {
        const [picture] = await this.get([frame], width, form, unsent);
        if (this.playing) break;
        const size = { width: picture.bitmap.width, height: picture.bitmap.height };
        this.draw(picture.bitmap, frame);
        if (unsent) {
          this.latencies.push(performance.now() - asked);
          this.drafts.judge(performance.now() - asked);
        }
        this.onShown({ frame, ...size, rate: null, fault: "", problems: [], layers: [] });
        if (!unsent && !this.wanted) this.readiness.rest();
      } catch (thrown) {
        const problem = refusalOf(thrown);
        // A draft that can't be drawn: the last good picture stays, the reason stands beside the setting.
        if (unsent && problem.status === 422) this.onShown({ problems: problem.data.problems || [] });
        else if (!this.wanted)
          this.onShown({ frame, fault: problem.message, layers: (problem.data && problem.data.problems) || [] });
      }
    }
    this.working = false;
  }

  /**
   * @param {number[]} frames
   * @param {number} width
   * @param {any} form
   * @param {any} [unsent]
   * @param {any} [signal]
   */
  async get(frames, width, form, unsent = null, signal = undefined) {
    const packed = unpack(await this.packed(frames, width, form, unsent, signal), form);
    return Promise.all(packed.map(async ({ number, blob }) => ({ number, bitmap: await createImageBitmap(blob) })));
  }

  /**
   * Pictures as the server packs them; it keeps them for whoever asks again.
   * @param {number[]} frames
   * @param {number} width
   * @param {string} form
   * @param {any} [unsent]
   * @param {AbortSignal} [signal]
   * @returns {Promise<ArrayBuffer>}
   */
  packed(frames, width, form, unsent = null, signal = undefined) {
    const { id, more } = this.project();
    const json = { frames, width, form, ...more, ...unsent };
    return ask(`/projects/${id}/frames`, { json, bytes: true, signal });
  }

  /**
   * @param {any} bitmap
   * @param {number} frame
   */
  draw(bitmap, frame) {
    if (this.canvas.width !== bitmap.width || this.canvas.height !== bitmap.height) {
      this.canvas.width = bitmap.width;
      this.canvas.height = bitmap.height;
    }
    this.context.drawImage(bitmap, 0, 0);
    bitmap.close();
    this.shown = frame;
    if (this.drawn) this.drawn();
  }

  /**
   * Follow a player until `stop`.
   * @param {any} player
   */
  play(player) {
    this.readiness.cancel();
    this.playing = true;
    this.player = player;
    this.buffer = new Map(); // by frames since the start
    this.next_ = 0;
    this.inFlight = 0;
    this.stopper = new AbortController();
    this.last = -1;
    this.pace.begin();
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

  /** The widest picture that there is room for. */
  get most() {
    return Math.min(this.project().width, Math.ceil(this.fit() / 2) * 2);
  }

  get width() {
    return this.pace.widthAt(this.pace.level, this.most);
  }

  pump() {
    if (!this.playing) return;
    const { rate, frames } = this.project();
    const now = Math.floor(this.player.elapsed);
    const { every } = this.pace;
    this.next_ = this.pace.soonest(this.next_, now, rate);
    const batch = Math.max(2, Math.round((rate / every) * PACK_S));
    const ahead = this.pace.ahead(rate);
    while (this.inFlight < 3 && this.next_ < now + ahead) {
      const wanted = [];
      for (let i = 0; i < batch; i += 1) wanted.push(this.next_ + i * every);
      const numbers = wanted.map((elapsed) => Math.round(this.player.frameAt(elapsed)));
      this.next_ += batch * every;
      if (numbers[0] >= frames) break;
      this.request(
        wanted,
        numbers.map((number) => Math.min(number, frames - 1)),
      );
    }
  }

  /**
   * @param {any} wanted
   * @param {any} numbers
   */
  async request(wanted, numbers) {
    this.inFlight += 1;
    const asked = performance.now();
    try {
      const pictures = await this.get(numbers, this.width, "jpeg", null, this.stopper.signal);
      pictures.forEach((picture, index) => {
        if (this.playing && wanted[index] > this.last) this.buffer.set(wanted[index], picture.bitmap);
        else picture.bitmap.close();
      });
      const took = (performance.now() - asked) / 1000;
      this.pace.came(pictures.length, took, wanted[0], this.player.elapsed, this.project().rate);
      this.onShown({ fault: "" });
    } catch (thrown) {
      const problem = refusalOf(thrown);
      if (problem.name !== "AbortError") {
        this.onShown({ fault: problem.message });
        await new Promise((resolve) => setTimeout(resolve, 500));
      }
    } finally {
      this.inFlight -= 1;
    }
    this.pump();
  }

  tick() {
    const elapsed = this.player.elapsed;
    const due = Math.floor(elapsed + EARLY);
    let best = -1;
    for (const at of this.buffer.keys()) {
      if (at <= due && at > best) best = at;
    }
    if (best > this.last) {
      const bitmap = /** @type {ImageBitmap} */ (this.buffer.get(best));
      this.buffer.delete(best);
      const size = [bitmap.width, bitmap.height];
      this.draw(bitmap, Math.round(this.player.frameAt(best)));
      this.last = best;
      this.pace.drew();
      this.onShown({
        frame: this.shown,
        width: size[0],
        height: size[1],
        rate: this.project().rate / this.pace.every,
      });
    }
    for (const [at, bitmap] of this.buffer) {
      if (at < this.last) {
        bitmap.close();
        this.buffer.delete(at);
      }
    }
    const waiting = Math.max(-1, ...this.buffer.keys());
    const { rate } = this.project();
    this.pace.judge(performance.now(), elapsed, { rate, next: this.next_, waiting, most: () => this.most });
    this.pump();
  }
}
