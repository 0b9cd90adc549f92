// How the rooms are laid out: sizes of list, panel and strip for each room, and what is folded; kept for next time.

import { clamp } from "../lib/numbers.js";
import { partWith } from "../lib/studio_part.js";

const NAME = "velvet-layout";

/** Pixels: the smallest, the usual and the largest size of what the dividers stand beside, and of drawn choices. */
/** @type {Record<string, { lo: number; usual: number; hi: number }>} */
export const SIZES = {
  list: { lo: 190, usual: 236, hi: 520 },
  panel: { lo: 300, usual: 348, hi: 680 },
  strip: { lo: 130, usual: 0, hi: 560 },
  cards: { lo: 110, usual: 196, hi: 400 },
  effects: { lo: 84, usual: 140, hi: 320 },
};
// Rooms in which lists are read rather than glanced at.
/** @type {Record<string, any>} */
const USUAL_IN = { words: { list: 306, panel: 318 }, export: { list: 306, panel: 318 } };
// The strip as high as it is by itself: with no curves under the wave, with so many curves, with lanes.
const BARE = 150;
const CURVES = [BARE, 150, 162, 178, 196];
const WAVE = 104;
const EXCERPTS = 196;
const ROW = 17;
/** Lanes that stand there by themselves: where layers are arranged, and elsewhere. */
const USUAL_ROWS = { picture: 8, other: 4 };

export class Layout extends partWith("lanes", "layers", "selection", "signals") {
  /** @type {Record<string, Record<string, number>>} */
  sizes = {}; // room -> {list, panel, strip} in pixels, where they were changed
  /** @type {Record<string, boolean>} */
  folded = {}; // name of a card or a section -> true when it is folded, false when it is open

  tall = false; // true: rows of layers with their kinds beneath their names

  toggleTall() {
    this.tall = !this.tall;
    this.keep();
  }

  /**
   * Read what was kept; what can't be read is as if there was none.
   * @param {any} [storage]
   */
  restore(storage = localStorage) {
    this.storage = storage;
    try {
      const { sizes, folded, tall } = JSON.parse(storage.getItem(NAME)) || {};
      if (sizes && typeof sizes === "object") this.sizes = sizes;
      this.tall = tall === true;
      if (folded && typeof folded === "object") this.folded = folded;
    } catch {
      /* as if nothing was kept */
    }
  }

  keep() {
    try {
      this.storage.setItem(NAME, JSON.stringify({ sizes: this.sizes, folded: this.folded, tall: this.tall }));
    } catch {
      /* a browser that keeps nothing: the sizes hold until the page is left */
    }
  }

  /**
   * The size of a thing in the room that is open.
   * @param {string} name
   */
  sizeOf(name) {
    const own = (this.sizes[this.selection.room] || {})[name];
    const { lo, hi } = SIZES[name];
    return Number.isFinite(own) ? clamp(own, lo, hi) : this.usual(name);
  }

  /** @param {string} name */
  usual(name) {
    const own = USUAL_IN[this.selection.room];
    if (name !== "strip") return own?.[name] ?? SIZES[name].usual;
    const { lanes, layers, signals } = this;
    if (this.selection.room === "export") return EXCERPTS;
    if (!lanes.lanesOn) return CURVES[Math.min(4, signals.signals.length)];
    const most = this.selection.room === "picture" ? USUAL_ROWS.picture : USUAL_ROWS.other;
    return WAVE + ROW * Math.max(3, Math.min(most, layers.layersFrontFirst.length));
  }

  /**
   * @param {string} name
   * @param {any} size
   */
  resize(name, size) {
    const { room } = this.selection;
    const { lo, hi } = SIZES[name];
    this.sizes = { ...this.sizes, [room]: { ...this.sizes[room], [name]: Math.round(clamp(size, lo, hi)) } };
    this.keep();
  }

  /**
   * By a slider.
   * @param {string} name
   * @param {FieldEvent} event
   */
  resizeBy(name, event) {
    this.resize(name, Number(event.target.value));
  }

  /**
   * As it is by itself, in the room that is open.
   * @param {string} name
   */
  reset(name) {
    const { room } = this.selection;
    const rest = { ...this.sizes[room] };
    delete rest[name];
    this.sizes = { ...this.sizes, [room]: rest };
    this.keep();
  }

  /** As many lanes as the strip has room for. */
  get rows() {
    return Math.max(1, Math.floor((this.sizeOf("strip") - WAVE) / ROW));
  }

  get style() {
    return Object.fromEntries(Object.keys(SIZES).map((name) => [`--${name}`, `${this.sizeOf(name)}px`]));
  }

  /**
   * @param {string} name
   * @param {boolean} [usually]
   */
  isOpen(name, usually = true) {
    return this.folded[name] === undefined ? usually : !this.folded[name];
  }

  /**
   * What somebody opened or folded.
   * @param {string} name
   * @param {any} open
   * @param {boolean} [usually]
   */
  keepOpen(name, open, usually = true) {
    if (this.isOpen(name, usually) === open) return;
    this.folded = { ...this.folded, [name]: !open };
    this.keep();
  }
}
