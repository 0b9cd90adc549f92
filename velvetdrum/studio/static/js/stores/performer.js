// What does an action of the table: it goes to the room where it holds, and has the whole studio.

/** @typedef {import("../studio.js").Studio} Studio */

export class Performer {
  /** @param {Studio} studio */
  constructor(studio) {
    // Not to be listed: Alpine walks through all that it is given.
    Object.defineProperty(this, "studio", { value: studio, enumerable: false });
  }

  /** @param {import("../views/actions.js").Action} action */
  perform(action) {
    const { studio } = /** @type {any} */ (this);
    if (action.room && action.room !== studio.selection.room) studio.page.go(action.room);
    return action.run(studio);
  }
}
