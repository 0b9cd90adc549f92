// What the parts of the studio have in common: each knows the studio, and through it the others.

export class StudioPart {
  /** @type {import("../studio.js").Studio} */
  studio;

  /** @param {import("../studio.js").Studio} studio */
  constructor(studio) {
    // Not to be listed: Alpine walks through all that it is given, and this leads round in a circle.
    Object.defineProperty(this, "studio", { value: studio, enumerable: false });
  }
}
