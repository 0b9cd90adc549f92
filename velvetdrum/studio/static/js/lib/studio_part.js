// What the parts of the studio have in common: each names the other parts that it works with, and has those alone.

/** @typedef {import("../studio.js").Studio} Studio */

/**
 * The base of a part that works with others. They are looked up when they are used, since they need each other.
 * @template {keyof Studio} Name
 * @param {...Name} names of the parts that it needs, as the studio has them
 * @returns {new (studio: Studio) => Pick<Studio, Name>}
 */
export function partWith(...names) {
  const base = class {
    /** @param {Studio} studio */
    constructor(studio) {
      for (const name of names) {
        // Not to be listed: Alpine walks through all that it is given, and these lead round in a circle.
        Object.defineProperty(this, name, { get: () => studio[name], enumerable: false });
      }
    }
  };
  return /** @type {any} */ (base);
}
