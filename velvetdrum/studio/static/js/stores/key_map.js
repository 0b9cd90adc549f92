// Which key does what: the defaults of the table of actions, and what somebody has put in their place.

import { partWith } from "../lib/studio_part.js";
import { ACTIONS, GESTURES, combinationOf, keyText } from "../views/actions.js";

const NAME = "velvet-keys";
const LONE = ["Control", "Shift", "Alt", "Meta", "AltGraph"];

export class KeyMap extends partWith("selection") {
  gestures = GESTURES;
  /** @type {Record<string, string>} */
  own = {}; // combinations by action, where they differ
  waiting = ""; // the action whose new key is waited for
  note = "";
  /** @type {any} */
  storage = null;

  /** @param {any} [storage] */
  restore(storage = localStorage) {
    this.storage = storage;
    try {
      const kept = JSON.parse(storage.getItem(NAME)) || {};
      const known = new Set(ACTIONS.map(({ id }) => id));
      const entries = Object.entries(kept).filter(([id, key]) => known.has(id) && typeof key === "string");
      this.own = /** @type {Record<string, string>} */ (Object.fromEntries(entries));
    } catch {
      /* as if nothing was kept */
    }
  }

  keep() {
    try {
      this.storage?.setItem(NAME, JSON.stringify(this.own));
    } catch {
      /* a browser that keeps nothing: they hold until the page is left */
    }
  }

  /** @param {import("../views/actions.js").Action} action */
  keyOf(action) {
    return this.own[action.id] ?? action.key;
  }

  /** @param {import("../views/actions.js").Action} action */
  textOf(action) {
    return keyText(this.keyOf(action));
  }

  /**
   * The action of a combination in the room that is open: the room's own before those of all rooms.
   * @param {string} combination
   */
  actionOf(combination) {
    const { room } = this.selection;
    const here = ACTIONS.filter((action) => this.keyOf(action) === combination);
    return here.find((action) => action.room === room) || here.find((action) => !action.room) || null;
  }

  /** The table in groups, for the sheet. */
  get groups() {
    const shown = ACTIONS.filter((action) => action.id !== "drop-keys-back");
    return [...new Set(shown.map(({ group }) => group))].map((name) => ({
      name,
      actions: shown.filter(({ group }) => group === name),
    }));
  }

  /** @param {import("../views/actions.js").Action} action */
  isOwn(action) {
    return this.own[action.id] !== undefined;
  }

  /** @param {import("../views/actions.js").Action} action */
  buttonText(action) {
    return this.waiting === action.id ? "press the keys" : this.textOf(action) || "none";
  }

  /** @param {import("../views/actions.js").Action} action */
  change(action) {
    this.waiting = this.waiting === action.id ? "" : action.id;
    this.note = "";
  }

  /**
   * While a new key is waited for, it is that; who had it in the same rooms has none any more.
   * @param {KeyboardEvent} event
   */
  take(event) {
    const action = ACTIONS.find(({ id }) => id === this.waiting);
    if (!action || LONE.includes(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
    this.waiting = "";
    if (event.key === "Escape" && action.id !== "leave") return;
    const combination = combinationOf(event);
    const meets = (/** @type {any} */ other) => !other.room || !action.room || other.room === action.room;
    const before = ACTIONS.filter(
      (other) =>
        other !== action && meets(other) && this.keyOf(other) === combination && (other.room || !action.room),
    );
    for (const other of before) this.own[other.id] = "";
    if (combination === action.key) delete this.own[action.id];
    else this.own[action.id] = combination;
    const names = before.map(({ text }) => text).join(", ");
    this.note = names ? `${names} has no key any more: it was ${keyText(combination)}.` : "";
    this.keep();
  }

  /** @param {import("../views/actions.js").Action} action */
  reset(action) {
    delete this.own[action.id];
    this.keep();
  }

  resetAll() {
    this.own = {};
    this.note = "All keys are the defaults again.";
    this.keep();
  }

  /** All keys as JSON, to take along. */
  get exported() {
    const all = Object.fromEntries(ACTIONS.map((action) => [action.id, this.keyOf(action)]));
    return `data:application/json,${encodeURIComponent(JSON.stringify(all, null, 2))}`;
  }
}
