// The keys of the page.

import { StudioPart } from "../lib/studio_part.js";

export class Keys extends StudioPart {
  /** While words are tapped, or the hand is measured, a few keys are for that alone. */
  tapKey(event) {
    const { tapping } = this.studio;
    const measured = tapping.measuring && event.key === " ";
    const act = { " ": () => tapping.tap(), Backspace: () => tapping.takeBack(), Enter: () => tapping.finish() };
    const found = tapping.on || measured ? act[event.key] : null;
    if (!found || event.repeat) return Boolean(found);
    event.preventDefault();
    found();
    return true;
  }
  /** Keys of the Words room. */
  wordKey(event, typing) {
    const { cues, cueEdits, selection } = this.studio;
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
    const act = (event.altKey ? moved : plainly)[event.key.length === 1 ? event.key.toLowerCase() : event.key];
    if (!act) return false;
    event.preventDefault();
    act();
    return true;
  }
  released(event) {
    if (event.key.toLowerCase() === "b") this.studio.beforeAfter.release();
  }
  key(event) {
    const target = event.target;
    const typing =
      target.matches("input:not([type=range], [type=file], [type=color]), select, textarea, [contenteditable]") ||
      document.querySelector("dialog[open]");
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing) {
      event.preventDefault();
      if (event.shiftKey) this.studio.project.redo();
      else this.studio.project.undo();
      return;
    }
    if (
      (event.ctrlKey || event.metaKey) &&
      !typing &&
      this.studio.selection.room === "picture" &&
      !String(getSelection())
    ) {
      const keys = this.studio.keyPicks.pickedKeys.length > 0;
      const act = {
        c: () => {
          if (keys) this.studio.keyPicks.copyKeys();
          else {
            this.studio.keyPicks.heldKeys = null;
            this.studio.clipboard.keepLayer();
          }
        },
        v: () =>
          this.studio.keyPicks.heldKeys ? this.studio.keyPicks.pasteKeys() : this.studio.clipboard.pasteLayer(),
        d: () => this.studio.selection.layer && this.studio.clipboard.copyLayer(),
        g: () => (event.shiftKey ? this.studio.layerEdits.ungroup() : this.studio.layerEdits.groupLayers()),
        a: () => this.studio.selection.chooseAll(),
      }[event.key.toLowerCase()];
      if (act) {
        event.preventDefault();
        act();
        return;
      }
    }
    if (event.altKey && !typing && this.studio.selection.room === "picture" && !event.ctrlKey) {
      const act = { i: () => this.studio.timing.comeHere(), o: () => this.studio.timing.goHere() }[
        event.key.toLowerCase()
      ];
      if (act) {
        event.preventDefault();
        act();
        return;
      }
    }
    if (this.tapKey(event) || this.wordKey(event, typing)) return;
    if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
    const range = target.matches("input[type=range]");
    const jump = event.shiftKey ? Math.round(this.studio.project.rate) : 1;
    const actions = {
      " ": () => this.studio.playback.toggle(),
      ArrowLeft: () => this.studio.playback.seek(this.studio.playback.frame - jump),
      ArrowRight: () => this.studio.playback.seek(this.studio.playback.frame + jump),
      Home: () => this.studio.playback.seek(0),
      End: () => this.studio.playback.seek(this.studio.project.frames - 1),
      l: () => this.studio.playback.toggleLoop(),
      m: () => this.studio.playback.toggleMute(),
      g: () => this.studio.stage.nextGuides(),
      n: () => this.studio.tempo.toggleSnap(),
      t: () => this.studio.project.track && this.studio.tempo.tap(),
      f: () => this.studio.stage.fullScreen(),
      a: () => {
        this.studio.page.go("picture");
        this.studio.presets.openChoices();
      },
      i: () => this.studio.project.track && this.studio.trim.inHere(),
      o: () => this.studio.project.track && this.studio.trim.outHere(),
      "+": () => this.studio.timeStrip.zoomIn(),
      "-": () => this.studio.timeStrip.zoomOut(),
      0: () => this.studio.timeStrip.zoomAll(),
      b: () => this.studio.selection.room === "picture" && this.studio.beforeAfter.hold(),
      "?": () => this.studio.page.showKeys(),
      k: () => this.studio.selection.room === "picture" && this.studio.keyframes.keyAll(),
      ".": () => this.studio.markers.markHere(),
      PageUp: () => this.studio.markers.markerBefore(),
      PageDown: () => this.studio.markers.markerAfter(),
      Escape: () => {
        this.studio.dropper.leave();
        this.studio.keyPicks.pickedKeys = [];
        this.studio.selection.also = [];
        this.studio.views.handlesView.draw();
        this.studio.views.lanesView.draw();
      },
    };
    if ((event.key === "Delete" || event.key === "Backspace") && this.studio.selection.room === "picture") {
      if (this.studio.keyPicks.pickedKeys.length) {
        event.preventDefault();
        this.studio.keyPicks.dropKeys();
      }
      return;
    }
    const action = actions[event.key.length === 1 ? event.key.toLowerCase() : event.key];
    // A slider keeps the keys that move it.
    if (!action || (range && /^(Arrow|Home|End)/.test(event.key))) return;
    if (event.key === " " && target.matches("button, summary, a") && !target.matches(".play")) return;
    event.preventDefault();
    action();
  }
}
