// The list of cues: only rows that are in sight are made, however many there are.

import { partWith } from "../lib/studio_part.js";

const ROW_PX = 52;
const MORE = 4;

export class CueList extends partWith("cueEdits", "cues", "page") {
  top = 0;
  height = 600;

  /** @param {PressEvent} event */
  scrolled(event) {
    const { scrollTop, clientHeight } = event.target;
    this.height = clientHeight;
    // Rows are made anew only when others come into sight.
    const top = Math.max(0, Math.floor(scrollTop / ROW_PX) - MORE);
    if (Math.abs(top - this.top) >= 2 || top === 0) this.top = top;
  }

  get rows() {
    const { row } = this.cues;
    const count = Math.ceil(this.height / ROW_PX) + 2 * MORE;
    return row.slice(this.top, this.top + count).map((cue, n) => ({ ...cue, number: this.top + n + 1 }));
  }

  get spaceStyle() {
    return { height: `${this.cues.count * ROW_PX}px` };
  }

  get shiftStyle() {
    return { transform: `translateY(${this.top * ROW_PX}px)` };
  }

  /** @param {ListedCue} cue */
  timesText(cue) {
    const { cues } = this;
    return `${cues.clock(cue.start_s)} – ${cues.clock(cue.end_s)}${cue.speaker ? ` · ${cue.speaker}` : ""}`;
  }

  /** @param {ListedCue} cue */
  rowClass(cue) {
    const { cues } = this;
    const at = cues.now;
    const standing = cue.start_s <= at + 1e-6 && at < cue.end_s;
    return `${cues.isChosen(cue) ? "on" : ""} ${standing ? "now" : ""}`;
  }

  /** @param {ListedCue} cue */
  oneLine(cue) {
    return cue.text.replaceAll("\n", " ") || "no words yet";
  }

  /** The chosen cue comes into sight. */
  follow() {
    const box = this.page.refs.cueScroll;
    const { index } = this.cues;
    if (!box || index < 0) return;
    const y = index * ROW_PX;
    if (y < box.scrollTop) box.scrollTop = y;
    else if (y + ROW_PX > box.scrollTop + box.clientHeight) box.scrollTop = y + ROW_PX - box.clientHeight;
  }

  /** @param {TypeEvent} event */
  key(event) {
    const { cues, cueEdits } = this;
    const act = {
      ArrowDown: () => (event.altKey ? cueEdits.nudge(1) : cues.step(1)),
      ArrowUp: () => (event.altKey ? cueEdits.nudge(-1) : cues.step(-1)),
      Home: () => cues.row.length && cues.go(cues.row[0]),
      End: () => cues.row.length && cues.go(cues.row[cues.row.length - 1]),
      Delete: () => cueEdits.remove(),
      Enter: () => this.page.refs.cueText.focus(),
    }[event.key];
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  }
}
