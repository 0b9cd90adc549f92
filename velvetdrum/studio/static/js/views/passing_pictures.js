// Pictures of the places that a dragged playhead passes: small enough to follow the hand, the newest place first.

import { QuickWidth } from "../lib/quick_width.js";

// Their widths, the milliseconds in which they should be there, and how many are on their way at once.
const WIDTHS = [480, 360, 240];
const WANTED_MS = 50;
const AT_ONCE = 2;

export class PassingPictures {
  /** @param {import("./preview.js").Preview} preview */
  constructor(preview) {
    this.preview = preview;
    this.wanted = null; // {frame, asked}: the newest place, not asked for yet
    this.count = 0; // on their way
    this.turn = 0;
    this.shown = 0; // the turn of the newest that was drawn
    this.quick = new QuickWidth(WIDTHS, WANTED_MS);
    /** @type {number[]} */
    this.latencies = [];
  }

  /** @param {number} frame */
  want(frame) {
    this.wanted = { frame, asked: performance.now() };
    this.next();
  }
  forget() {
    this.wanted = null;
  }

  async next() {
    if (!this.wanted || this.count >= AT_ONCE) return;
    const { preview } = this;
    const { frame, asked } = this.wanted;
    this.wanted = null;
    this.count += 1;
    const turn = (this.turn += 1);
    try {
      const width = Math.min(this.quick.width, preview.fit(), preview.project().width);
      const [{ bitmap }] = await preview.get([frame], width, "jpeg");
      if (preview.playing || preview.working || turn < this.shown) bitmap.close();
      else {
        this.shown = turn;
        const size = { width: bitmap.width, height: bitmap.height };
        preview.draw(bitmap, frame);
        this.judge(performance.now() - asked);
        preview.onShown({ frame, ...size, rate: null, fault: "", passing: true });
      }
    } catch {
      /* the sharp picture that follows says what is wrong */
    } finally {
      this.count -= 1;
    }
    this.next();
  }

  /** @param {number} took milliseconds */
  judge(took) {
    this.latencies.push(took);
    if (this.latencies.length > 500) this.latencies.shift();
    this.quick.judge(took);
  }
}
