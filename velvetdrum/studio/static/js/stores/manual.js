// The manual beside the work: the page of what is chosen, the way back, and its sections for the finder.

import { ask } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

/** Where the manual is opened in a room in which nothing is chosen. */
const ROOMS = {
  sound: "/manual/sound",
  picture: "/manual/picture",
  words: "/manual/words",
  export: "/manual/export",
};

// What a page has of headings, paragraphs and tables at the most to be shown whole beside the work.
const MOST_PARTS = 120;

/**
 * A heading and what stands under it, up to the next one.
 * @param {Element} heading
 */
function sectionOf(heading) {
  const parts = [heading];
  for (let next = heading.nextElementSibling; next && !/^H[1-3]$/.test(next.tagName); next = next.nextElementSibling)
    parts.push(next);
  return parts;
}

export class Manual extends partWith("page", "selection", "signals") {
  shown = false;
  address = "/manual/index";
  fault = "";
  turn = 0; // of several pages that were asked for, the last one is shown
  /** @type {string[]} the addresses that the way back leads to */
  trail = [];
  /** @type {{title: string, address: string}[]} */
  sections = [];
  /** @type {Record<string, Record<string, string>>} addresses by kinds, of `layers` and of `signals` */
  places = {};

  /** The sections, asked for once. */
  async load() {
    if (this.sections.length) return;
    const { sections, layers, signals } = await ask("/manual");
    this.sections = sections;
    this.places = { layers, signals };
  }

  async toggle() {
    if (this.shown) {
      this.shown = false;
      return;
    }
    this.trail = [];
    await this.load().catch(() => {});
    await this.show(this.here);
  }

  /** Where it says most of what is chosen. */
  get here() {
    const { layer, room } = this.selection;
    const { layers = {}, signals = {} } = this.places;
    const chosen = room === "picture" && layer ? layers[layer.kind] : "";
    const { signal } = this.signals;
    return (
      chosen ||
      (room === "sound" && signal && signals[signal.kind]) ||
      ROOMS[/** @type {keyof typeof ROOMS} */ (room)]
    );
  }

  /** @param {string} address */
  async open(address) {
    if (this.shown) this.trail = [...this.trail, this.address];
    await this.show(address);
  }

  async back() {
    const before = this.trail.at(-1);
    this.trail = this.trail.slice(0, -1);
    if (before) await this.show(before);
  }

  /** @param {string} address */
  async show(address) {
    const turn = ++this.turn;
    this.shown = true;
    this.address = address;
    const [path, anchor] = address.split("#");
    try {
      const text = new TextDecoder().decode(await ask(path, { bytes: true }));
      if (turn !== this.turn) return;
      const body = new DOMParser().parseFromString(text, "text/html").querySelector("main");
      const box = this.page.refs.manualText;
      box.focus({ preventScroll: true });
      box.replaceChildren(...(body ? body.childNodes : []));
      // Where a heading stands is known once the pictures before it have their size.
      await Promise.allSettled([...box.querySelectorAll("img")].map((image) => image.decode()));
      if (turn !== this.turn) return;
      const heading = anchor && box.querySelector(`#${CSS.escape(anchor)}`);
      if (heading && box.childElementCount > MOST_PARTS) box.replaceChildren(...sectionOf(heading));
      else if (heading) heading.scrollIntoView();
      else box.scrollTop = 0;
      this.fault = "";
    } catch {
      this.fault = "The manual can't be read just now. Try it again.";
    }
  }

  /**
   * A link of the text leads on in the same place.
   * @param {any} event
   */
  follow(event) {
    const link = event.target.closest("a[href]");
    if (!link || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    const { pathname, hash } = new URL(link.href);
    this.open(pathname + hash);
  }
}
