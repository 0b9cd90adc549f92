// Looks moving to the sound: those in sight first, one picture of each before all of any.

import { ask, refusalOf, unpack } from "../lib/api.js";

const AT_ONCE = 2;

export class MovingLooks {
  /**
   * @param {any} given what the page was given
   * @param {import("../stores/look_filling.js").LookFilling} filling
   * @param {import("../stores/look_sound.js").LookSound} sound
   * @param {(id: string) => any} byId
   */
  constructor(given, filling, sound, byId) {
    this.byId = byId;
    this.resting = false; // while a video is made, the cores are its own
    this.given = given;
    this.filling = filling;
    this.sound = sound;
    this.turn = 0;
    this.running = 0;
    /** @type {any} */
    this.timer = null;
    this.preferred = "";
    /** @type {Map<string, {turn: number, frames: ImageBitmap[], busy: boolean, failed: boolean}>} */
    this.looks = new Map();
    /** @type {Map<string, Element>} */
    this.seen = new Map();
    this.observer = new IntersectionObserver((entries) => {
      for (const { target, isIntersecting } of entries) {
        const id = /** @type {HTMLElement} */ (target).dataset.canvas || "";
        if (isIntersecting) this.seen.set(id, target);
        else this.seen.delete(id);
      }
      this.next();
    });
    this.drawn = new WeakMap();
    const tick = () => {
      this.draw();
      requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  }

  /** @param {HTMLElement} root the canvases that are there now */
  watch(root) {
    this.observer.disconnect();
    this.seen.clear();
    root.querySelectorAll("[data-canvas]").forEach((canvas) => this.observer.observe(canvas));
  }

  /** @param {string} id the look that is drawn before others */
  first(id) {
    this.preferred = id;
    this.next();
  }

  /** @param {number} later milliseconds until all are drawn anew, with what is in their places now */
  anew(later) {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      this.turn += 1;
      this.looks.forEach((look) => {
        look.failed = false;
      });
      this.next();
    }, later);
  }

  /** @param {boolean} resting */
  rest(resting) {
    this.resting = resting;
    this.next();
  }

  /** @param {string} id */
  of(id) {
    const known = this.looks.get(id) || { turn: -1, frames: [], busy: false, failed: false };
    this.looks.set(id, known);
    return known;
  }

  /** What is to be drawn next: a first picture of what is in sight, then all of them. */
  next() {
    const { frames: all } = this.given.moving;
    if (this.resting) return;
    const ids = [...this.seen.keys()].sort((a, b) => Number(b === this.preferred) - Number(a === this.preferred));
    const open = ids.map((id) => ({ id, look: this.of(id) })).filter(({ look }) => !look.busy && !look.failed);
    const wanted = [
      ...open.filter(({ look }) => look.turn !== this.turn).map((item) => ({ ...item, first: 0, count: 1 })),
      ...open
        .filter(({ look }) => look.turn === this.turn && look.frames.length < all)
        .map((item) => ({ ...item, first: item.look.frames.length, count: all - item.look.frames.length })),
    ];
    for (const item of wanted.slice(0, AT_ONCE - this.running)) this.load(item);
  }

  /** @param {{id: string, look: any, first: number, count: number}} item */
  async load({ id, look, first, count }) {
    const { turn } = this;
    look.busy = true;
    this.running += 1;
    try {
      const whose = this.given.import ? `/imports/${this.given.import}` : `/projects/${this.given.project.id}`;
      const packed = await ask(`${whose}/looks/${id}/moving`, {
        json: { ...this.filling.bodyOf(this.byId(id)), first, count },
        bytes: true,
      });
      const frames = await Promise.all(unpack(packed, "jpeg").map(({ blob }) => createImageBitmap(blob)));
      if (turn === this.turn) {
        look.frames = first ? [...look.frames, ...frames] : frames;
        look.turn = turn;
      }
    } catch (thrown) {
      look.failed = true;
      // What is asked before all of the sound is known is asked anew then.
      if (turn === this.turn && !this.given.import) this.say(id, refusalOf(thrown).message);
    } finally {
      look.busy = false;
      this.running -= 1;
      this.next();
    }
  }

  /**
   * @param {string} id
   * @param {string} sentence why it could not be drawn
   */
  say(id, sentence) {
    const box = this.seen.get(id)?.parentElement;
    box?.classList.add("failed");
    const line = box?.querySelector(".wait");
    if (line) line.textContent = sentence;
  }

  draw() {
    const { rate } = this.given.moving;
    const heard = this.sound.elapsed;
    const seconds = heard === null ? performance.now() / 1000 : heard;
    const still = window.matchMedia("(prefers-reduced-motion: reduce)").matches && heard === null;
    this.seen.forEach((target, id) => {
      const look = this.looks.get(id);
      if (!look?.frames.length) return;
      const canvas = /** @type {HTMLCanvasElement} */ (target);
      const number = still ? 0 : Math.floor(Math.max(seconds, 0) * rate) % look.frames.length;
      const picture = look.frames[number];
      if (this.drawn.get(canvas) === picture) return;
      this.drawn.set(canvas, picture);
      if (canvas.width !== picture.width || canvas.height !== picture.height) {
        canvas.width = picture.width;
        canvas.height = picture.height;
      }
      /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d")).drawImage(picture, 0, 0);
      canvas.parentElement?.classList.add("drawn");
    });
  }
}
