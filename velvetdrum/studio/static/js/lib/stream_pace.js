// How large the pictures of a stream are, how many of them are asked for, and how early: so that what is drawn is there
// when it is due. Where the workers can't keep up the size drops first, to one that they can, and only then the rate.

export const WIDTHS = [1280, 960, 640, 480, 320, 240];
// Good seconds before a larger size is tried, and the most of them after tries that failed.
const CLIMB_AFTER = 2;
const CLIMB_AFTER_MOST = 16;
// Seconds until the workers have ready what a new size needs.
const SETTLE_S = 1.5;
// Shares of the frames that were shown in time: fewer are too few at once, or when it happens twice.
const TOO_FEW = 0.8;
const ENOUGH = 0.95;
// How what a picture costs grows with its width: less than its pixels do, since a part of it is the same at all sizes.
const GROWTH = 1.3;
const SPARSEST = 4;
// How many more frames than play needs the workers must make at rest: in play the page has work of its own.
const HEADROOM = 1.15;
// Seconds of play that a pack has.
export const PACK_S = 0.2;

export class StreamPace {
  level = 2;
  every = 1;
  latency = 0.2; // seconds from asking for a pack to having it, of late
  /** @type {number | null} the frame from which on the stream is judged; null until the first pack is here */
  from = null;

  /** A stream begins, at the size that held before. */
  begin() {
    /** @type {any} */
    this.watch = null;
    this.patience = CLIMB_AFTER;
    this.tried = null; // what was left for more, until that has held
    this.from = null;
  }

  /**
   * Pixels across at a level, in a frame and a box of so many.
   * @param {number} level
   * @param {number} most
   */
  widthAt(level, most) {
    return Math.min(WIDTHS[level], most);
  }

  /**
   * The first frame to ask for: what would come too late would only keep what can be in time waiting.
   * @param {any} next
   * @param {number} now
   * @param {number} rate
   */
  soonest(next, now, rate) {
    const least = now + Math.ceil(Math.min(this.latency, 2) * rate);
    return next < least ? least + this.every : next;
  }

  /**
   * How many frames ahead is asked for.
   * @param {number} rate
   */
  ahead(rate) {
    return rate * Math.max(1.2, Math.min(this.latency * 2, 3));
  }

  /**
   * A pack of so many pictures is here, the first for `first`, after so many seconds.
   * @param {number} count
   * @param {any} took
   * @param {number} first
   * @param {number} elapsed
   * @param {number} rate
   */
  came(count, took, first, elapsed, rate) {
    this.latency += 0.3 * (took - this.latency);
    if (this.watch) this.watch.made += count;
    if (this.from === null) this.from = Math.max(first, elapsed) + rate * SETTLE_S;
  }

  /** A picture was shown. */
  drew() {
    if (this.watch) this.watch.drawn += 1;
  }

  /**
   * Once a second: were the frames there in time? The first moments, and those after a change of the size or of the
   * rate, in which the stream fills, don't count. `next` is the frame that is asked for next, `waiting` how far the
   * pictures that are here reach, `most` tells the widest that there is room for.
   * @param {number} at
   * @param {number} elapsed
   * @param {any} values
   */
  judge(at, elapsed, { rate, next, waiting, most }) {
    if (this.from === null || elapsed < this.from) return;
    if (!this.watch) {
      this.watch = { since: at, drawn: 0, made: 0, from: elapsed, good: 0, poor: 0 };
      return;
    }
    const seconds = (at - this.watch.since) / 1000;
    if (seconds < 1) return;
    const { drawn, made, from } = this.watch;
    let { good, poor } = this.watch;
    const due = Math.min((elapsed - from) / this.every, seconds * 60);
    const share = due > 4 ? drawn / due : 1;
    let changed = false;
    poor = share > ENOUGH ? 0 : poor + 1;
    if (share < TOO_FEW || poor > 1) {
      good = poor = 0;
      changed = this.back() || this.fall(made / seconds, rate, most(), share < TOO_FEW);
    } else if (!poor) {
      good += 1;
      this.tried = null;
      if (good >= this.patience && waiting - elapsed > rate * 0.5) {
        good = 0;
        const before = [this.level, this.every];
        changed = this.climb(most());
        if (changed) this.tried = before;
      }
    }
    if (!changed) {
      this.watch = { since: at, drawn: 0, made: 0, from: elapsed, good, poor };
      return;
    }
    // Judged again once what was asked for before is past.
    this.watch = null;
    this.from = Math.max(next, elapsed) + rate * SETTLE_S;
  }

  /**
   * The largest size at which the workers keep up, by the frames that they make in a second at the present one.
   * @param {number} made
   * @param {number} rate
   * @param {number} most
   */
  suit(made, rate, most) {
    const width = this.widthAt(this.level, most);
    const keeps = (/** @type {number} */ level) =>
      made * (width / this.widthAt(level, most)) ** GROWTH >= rate * HEADROOM;
    this.every = 1;
    this.level = 0;
    while (this.level < WIDTHS.length - 1 && !keeps(this.level)) this.level += 1;
  }

  /** To what held before something more was tried; that is tried again ever later. */
  back() {
    if (!this.tried) return false;
    [this.level, this.every] = this.tried;
    this.tried = null;
    this.patience = Math.min(this.patience * 2, CLIMB_AFTER_MOST);
    return true;
  }

  /**
   * A size at which what the workers make in a second is enough; where there is none, fewer frames.
   * @param {any} made
   * @param {number} rate
   * @param {number} most
   * @param {boolean} far
   */
  fall(made, rate, most, far) {
    const width = this.widthAt(this.level, most);
    const enough = (/** @type {number} */ level) =>
      made * (width / this.widthAt(level, most)) ** GROWTH >= rate / this.every;
    let level = this.level;
    while (level < WIDTHS.length - 1 && this.widthAt(level, most) === width) level += 1;
    while (far && level < WIDTHS.length - 1 && !enough(level)) level += 1;
    if (this.widthAt(level, most) < width) {
      this.level = level;
      return true;
    }
    if (!far || this.every >= SPARSEST) return false;
    this.every = Math.min(SPARSEST, Math.max(this.every + 1, Math.ceil(rate / Math.max(made, 1))));
    return true;
  }

  /**
   * More frames, or else a larger size: the next one, or the largest at which a pack would still be here sooner than
   * it takes to show it.
   * @param {number} most
   */
  climb(most) {
    const width = this.widthAt(this.level, most);
    if (this.every > 1) {
      this.every -= 1;
      return true;
    }
    let level = this.level;
    while (level > 0 && this.widthAt(level, most) === width) level -= 1;
    if (this.widthAt(level, most) === width) return false;
    const soon = (/** @type {any} */ one) => this.latency * (this.widthAt(one, most) / width) ** GROWTH <= PACK_S;
    while (level > 0 && this.widthAt(level, most) < most && soon(level - 1)) level -= 1;
    this.level = level;
    return true;
  }
}
