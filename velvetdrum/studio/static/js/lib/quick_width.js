// How wide pictures are that must follow the hand: as wide as they can be and still be there in time.

export class QuickWidth {
  level = 0;
  took = 0; // milliseconds, of late

  /**
   * @param {number[]} widths in pixels, the largest first
   * @param {number} wantedMs within which a picture should be there
   */
  constructor(widths, wantedMs) {
    this.widths = widths;
    this.wantedMs = wantedMs;
  }

  get width() {
    return this.widths[this.level];
  }

  /**
   * Smaller when pictures come too late, larger when there is time.
   * @param {number} took milliseconds from asking for a picture to having it
   */
  judge(took) {
    this.took = this.took ? this.took * 0.7 + took * 0.3 : took;
    const by = this.took > this.wantedMs ? 1 : this.took < this.wantedMs / 2 ? -1 : 0;
    const level = Math.max(0, Math.min(this.widths.length - 1, this.level + by));
    if (level !== this.level) this.took = 0;
    this.level = level;
  }
}
