// Play begins ready: while the page rests, what comes next is drawn as play will show it. That tells at which size the
// workers keep up, too, so that play need not find it by trial.

const REST_MS = 1500;
// Seconds of play that are drawn ahead, and how many frames are asked for at a time: whatever a person does meanwhile
// waits no longer than for those.
const READY_S = 2;
const PACK = 3;
// More frames in a second than are ever drawn: they were kept from before, and say nothing of what drawing takes.
const KEPT = 500;

export class PlayReadiness {
  /**
   * @param {import("./preview.js").Preview} preview
   * @param {() => boolean} isFree true while nothing else wants the workers
   */
  constructor(preview, isFree) {
    this.preview = preview;
    this.isFree = isFree;
    this.turn = 0;
    this.until = -1; // the frame before which all are drawn
    /** @type {any} */
    this.timer = null;
    this.stopper = new AbortController();
  }

  /** The picture came to rest. */
  rest() {
    this.cancel();
    this.timer = setTimeout(() => this.draw(), REST_MS);
  }

  /** Something else is wanted. */
  cancel() {
    clearTimeout(this.timer);
    this.timer = null;
    this.turn += 1;
    this.until = -1;
    this.stopper.abort();
    this.stopper = new AbortController();
  }

  async draw() {
    this.timer = null;
    const { preview, turn } = this;
    const { rate, frames } = preview.project();
    // From the end it goes on at the beginning.
    const first = preview.shown >= frames - 1 ? 0 : Math.max(preview.shown, 0);
    const last = Math.min(first + Math.ceil(READY_S * rate), frames);
    try {
      // The first of each worker pays for what only a new scene or size costs; those after it tell what drawing takes.
      await Promise.all([this.ask(first, 1), this.ask(first + 1, 1)]);
      if (turn !== this.turn || !this.isFree()) return;
      const begun = performance.now();
      await Promise.all([this.ask(first + 2, PACK), this.ask(first + 2 + PACK, PACK)]);
      if (turn !== this.turn) return;
      const made = (2 * PACK) / ((performance.now() - begun) / 1000);
      const { width } = preview;
      if (made < KEPT) preview.pace.suit(made, rate, preview.most);
      let at = preview.width === width ? first + 2 + 2 * PACK : first;
      for (; at < last && this.isFree(); at += PACK) {
        await this.ask(at, PACK);
        if (turn !== this.turn) return;
        this.until = Math.min(at + PACK, last);
      }
    } catch {
      /* play says what is wrong */
    }
  }

  /**
   * @param {number} first
   * @param {number} count of frames
   */
  async ask(first, count) {
    const { preview } = this;
    const last = preview.project().frames - 1;
    const numbers = [...new Set(Array.from({ length: count }, (_, n) => Math.min(first + n, last)))];
    await preview.packed(numbers, preview.width, "jpeg", null, this.stopper.signal);
  }
}
