// The keys of the page, dispatched by the table of actions.

import { partWith } from "../lib/studio_part.js";
import { combinationOf } from "./actions.js";

const TYPED =
  "input:not([type=range], [type=file], [type=color], [type=checkbox]), select, textarea, [contenteditable]";
const HELD_BY_SLIDERS = /^(?:Shift\+)?(?:Arrow|Home$|End$)/;

export class Keys extends partWith("beforeAfter", "finder", "keyMap", "performer", "playback", "tapping") {
  listen() {
    document.addEventListener("keydown", (event) => {
      this.playback.settle();
      this.key(/** @type {any} */ (event));
    });
    document.addEventListener("keyup", (event) => this.released(/** @type {any} */ (event)));
    window.addEventListener("blur", () => this.beforeAfter.release());
  }

  /**
   * While words are tapped, or the hand is measured, a few keys are for that alone.
   * @param {any} event
   */
  tapKey(event) {
    const { tapping } = this;
    const measured = tapping.measuring && event.key === " ";
    const act = { " ": () => tapping.tap(), Backspace: () => tapping.takeBack(), Enter: () => tapping.finish() };
    const run = tapping.on || measured ? /** @type {Record<string, any>} */ (act)[event.key] : null;
    if (!run || event.repeat) return Boolean(run);
    event.preventDefault();
    run();
    return true;
  }

  /** @param {TypeEvent} event */
  released(event) {
    const action = this.keyMap.actionOf(combinationOf(event));
    if (action?.id === "before" || action?.id === "before-voices") this.beforeAfter.release();
  }

  /** @param {any} event */
  key(event) {
    if (this.keyMap.waiting) {
      this.keyMap.take(event);
      return;
    }
    const { target } = event;
    const combination = combinationOf(event);
    const action = this.keyMap.actionOf(combination);
    const typing = target.matches(TYPED) || document.querySelector("dialog[open]");
    // Found from everywhere, also out of a field; not over another dialog.
    if (action?.id === "find" && !document.querySelector("dialog[open]")) {
      event.preventDefault();
      this.finder.open();
      return;
    }
    if (typing || this.tapKey(event) || !action) return;
    // What the browser itself does with a chosen text.
    if (["copy", "paste"].includes(action.id) && String(getSelection())) return;
    if (target.matches("input[type=range]") && HELD_BY_SLIDERS.test(combination)) return;
    if (combination === "Space" && target.matches("button, summary, a") && !target.matches(".play")) return;
    // Deleting belongs to the list or the picture that has the focus, unless something is picked here.
    event.preventDefault();
    this.performer.perform(action);
  }
}
