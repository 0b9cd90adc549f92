// A clock that is told in steps, such as that of the sound card, as an even one.

// Seconds beyond which the told clock has jumped, and how much of a difference is made up at each reading.
const JUMP_S = 0.04;
const SHARE = 0.05;

export class SmoothClock {
  /** @type {number | null} */
  offset = null;

  reset() {
    this.offset = null;
  }

  /**
   * The even time now.
   * @param {number} steady seconds of an even clock, from any beginning
   * @param {number} told seconds of the clock that is followed
   */
  at(steady, told) {
    const off = told - steady;
    if (this.offset === null || Math.abs(off - this.offset) > JUMP_S) this.offset = off;
    else this.offset += (off - this.offset) * SHARE;
    return steady + this.offset;
  }
}
