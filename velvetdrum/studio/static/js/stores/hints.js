// Hints for somebody new: one when a room is opened for the first time; it goes away by itself and never comes again.

import { partWith } from "../lib/studio_part.js";

const NAME = "velvet-hints";

/** @type {Record<string, string>} */
const HINTS = {
  picture: "The ring beside a setting lets a part of the sound move it. Space plays.",
  sound: "Drag on the spectrum: what lies between the two edges is what a signal hears.",
  words: "Paste what is said or sung; its times are found in the sound.",
  export: "Choose where the video goes: size, length and loudness are held to what that channel takes.",
  several: "Several layers are chosen: a value goes to all, +10 changes each, 20 … 80 spreads over them.",
};

export class Hints extends partWith("events", "messages", "selection") {
  /** @type {Set<string>} */
  seen = new Set();

  /** @param {any} [storage] */
  restore(storage = localStorage) {
    this.storage = storage;
    try {
      const kept = JSON.parse(storage.getItem(NAME));
      this.seen = new Set(Array.isArray(kept) ? kept : []);
    } catch {
      /* as if none was seen */
    }
    this.events.on("room", () => this.show(this.selection.room));
    this.events.on("chosen", () => this.selection.several && this.show("several"));
    this.show(this.selection.room);
  }

  /** @type {any} */
  storage = null;
  /** Takes the hint away that is shown. */
  close = () => {};

  /** @param {string} name */
  show(name) {
    if (!HINTS[name] || this.seen.has(name)) return;
    this.seen.add(name);
    try {
      this.storage.setItem(NAME, JSON.stringify([...this.seen]));
    } catch {
      /* a browser that keeps nothing shows it again next time */
    }
    this.close();
    this.close = this.messages.tell(HINTS[name], "close");
  }
}
