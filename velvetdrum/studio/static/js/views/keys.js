// The keys of the page.

import { partWith } from "../lib/studio_part.js";

export class Keys extends partWith(
  "beforeAfter",
  "clipboard",
  "cueEdits",
  "cues",
  "dropper",
  "keyPicks",
  "keyframes",
  "layerEdits",
  "markers",
  "page",
  "playback",
  "presets",
  "project",
  "selection",
  "stage",
  "tapping",
  "tempo",
  "timeStrip",
  "timing",
  "trim",
  "views",
) {
  /**
   * While words are tapped, or the hand is measured, a few keys are for that alone.
   * @param {any} event
   */
  tapKey(event) {
    const { tapping } = this;
    const measured = tapping.measuring && event.key === " ";
    const act = { " ": () => tapping.tap(), Backspace: () => tapping.takeBack(), Enter: () => tapping.finish() };
    const found = tapping.on || measured ? /** @type {Record<string, any>} */ (act)[event.key] : null;
    if (!found || event.repeat) return Boolean(found);
    event.preventDefault();
    found();
    return true;
  }

  /**
   * Keys of the Words room.
   * @param {TypeEvent} event
   * @param {any} typing
   */
  wordKey(event, typing) {
    const { cues, cueEdits, selection } = this;
    if (selection.room !== "words" || typing || event.ctrlKey || event.metaKey) return false;
    const jump = event.shiftKey ? 10 : 1;
    const plainly = {
      s: () => cueEdits.splitHere(),
      j: () => cueEdits.joinNext(),
      c: () => cueEdits.addHere(),
      ArrowDown: () => cues.step(1),
      ArrowUp: () => cues.step(-1),
      Delete: () => cueEdits.remove(),
    };
    const moved = { ArrowLeft: () => cueEdits.nudge(-jump), ArrowRight: () => cueEdits.nudge(jump) };
    const act = /** @type {Record<string, any>} */ (event.altKey ? moved : plainly)[
      event.key.length === 1 ? event.key.toLowerCase() : event.key
    ];
    if (!act) return false;
    event.preventDefault();
    act();
    return true;
  }

  /** @param {TypeEvent} event */
  released(event) {
    if (event.key.toLowerCase() === "b") this.beforeAfter.release();
  }

  /** @param {TypeEvent} event */
  key(event) {
    const target = event.target;
    const typing =
      target.matches("input:not([type=range], [type=file], [type=color]), select, textarea, [contenteditable]") ||
      document.querySelector("dialog[open]");
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing) {
      event.preventDefault();
      if (event.shiftKey) this.project.redo();
      else this.project.undo();
      return;
    }
    if ((event.ctrlKey || event.metaKey) && !typing && this.selection.room === "picture" && !String(getSelection())) {
      const keys = this.keyPicks.pickedKeys.length > 0;
      const act = {
        c: () => {
          if (keys) this.keyPicks.copyKeys();
          else {
            this.keyPicks.heldKeys = null;
            this.clipboard.keepLayer();
          }
        },
        v: () => (this.keyPicks.heldKeys ? this.keyPicks.pasteKeys() : this.clipboard.pasteLayer()),
        d: () => this.selection.layer && this.clipboard.copyLayer(),
        g: () => (event.shiftKey ? this.layerEdits.ungroup() : this.layerEdits.groupLayers()),
        a: () => this.selection.chooseAll(),
      }[event.key.toLowerCase()];
      if (act) {
        event.preventDefault();
        act();
        return;
      }
    }
    if (event.altKey && !typing && this.selection.room === "picture" && !event.ctrlKey) {
      const act = { i: () => this.timing.comeHere(), o: () => this.timing.goHere() }[event.key.toLowerCase()];
      if (act) {
        event.preventDefault();
        act();
        return;
      }
    }
    if (this.tapKey(event) || this.wordKey(event, typing)) return;
    if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
    const range = target.matches("input[type=range]");
    const jump = event.shiftKey ? Math.round(this.project.rate) : 1;
    const actions = {
      " ": () => this.playback.toggle(),
      ArrowLeft: () => this.playback.seek(this.playback.frame - jump),
      ArrowRight: () => this.playback.seek(this.playback.frame + jump),
      Home: () => this.playback.seek(0),
      End: () => this.playback.seek(this.project.frames - 1),
      l: () => this.playback.toggleLoop(),
      m: () => this.playback.toggleMute(),
      g: () => this.stage.nextGuides(),
      n: () => this.tempo.toggleSnap(),
      t: () => this.project.track && this.tempo.tap(),
      f: () => this.stage.fullScreen(),
      a: () => {
        this.page.go("picture");
        this.presets.openChoices();
      },
      i: () => this.project.track && this.trim.inHere(),
      o: () => this.project.track && this.trim.outHere(),
      "+": () => this.timeStrip.zoomIn(),
      "-": () => this.timeStrip.zoomOut(),
      0: () => this.timeStrip.zoomAll(),
      b: () => this.selection.room === "picture" && this.beforeAfter.hold(),
      "?": () => this.page.showKeys(),
      k: () => this.selection.room === "picture" && this.keyframes.keyAll(),
      ".": () => this.markers.markHere(),
      PageUp: () => this.markers.markerBefore(),
      PageDown: () => this.markers.markerAfter(),
      Escape: () => {
        this.dropper.leave();
        this.keyPicks.pickedKeys = [];
        this.selection.also = [];
        this.views.handlesView.draw();
        this.views.lanesView.draw();
      },
    };
    if ((event.key === "Delete" || event.key === "Backspace") && this.selection.room === "picture") {
      if (this.keyPicks.pickedKeys.length) {
        event.preventDefault();
        this.keyPicks.dropKeys();
      }
      return;
    }
    const action = /** @type {Record<string, any>} */ (actions)[
      event.key.length === 1 ? event.key.toLowerCase() : event.key
    ];
    // A slider keeps the keys that move it.
    if (!action || (range && /^(Arrow|Home|End)/.test(event.key))) return;
    if (event.key === " " && target.matches("button, summary, a") && !target.matches(".play")) return;
    event.preventDefault();
    action();
  }
}
