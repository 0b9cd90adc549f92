// Words and cues under the waveform: pauses shaded, edges dragged, words moved.

import { isTimed, placed, wordMoved } from "../lib/cues.js";
import { clamp } from "../lib/numbers.js";
import { TimedCanvas } from "./timed_canvas.js";

const EDGE = 6;
const WORDS = { top: 2, height: 24 };
const CUES = { top: 31, height: 26 };
const SNAP_PX = 7;

/**
 * `source()` gives {seen, now, inS, length, row, chosen, word, pauses, beats, draft}; `on` hears choose(id, word),
 * drag(cue), placed(cue, label) and seek(second). Times of cues are of the recording, all others of the project.
 */
export class CueLanes extends TimedCanvas {
  /** @type {any} what the pointer holds */
  drag = null;

  /** The cues in sight, as they are being dragged. */
  get inSight() {
    const { row, seen, inS, draft } = this.view || this.read();
    const [low, high] = [seen.start + inS, seen.start + seen.span + inS];
    return row
      .filter((/** @type {ListedCue} */ cue) => cue.end_s > low && cue.start_s < high)
      .map((/** @type {ListedCue} */ cue) => (draft && draft.id === cue.id ? draft : cue));
  }

  /**
   * @param {CanvasRenderingContext2D} context
   * @param {number} width
   * @param {number} height
   */
  paint(context, width, height) {
    const { now, pauses, inS, chosen, word } = this.read();
    context.fillStyle = this.colour("felt-raised");
    for (const [low, high] of pauses) {
      const [a, b] = [this.x(low - inS), this.x(high - inS)];
      if (b > 0 && a < width) context.fillRect(a, 0, Math.max(b - a, 1), height);
    }
    let drawn = -Infinity;
    for (const cue of this.inSight) {
      const on = cue.id === chosen;
      // Of many cues in a pixel one is seen.
      const end = this.x(cue.end_s - inS);
      if (!on && end - drawn < 1) continue;
      drawn = Math.max(drawn, end);
      this.box_(context, cue, this.x(cue.start_s - inS), this.x(cue.end_s - inS), CUES, {
        fill: on ? "sea" : "control-line",
        solid: on ? 0.55 : 0.35,
        edge: on ? "sea" : "control-line",
        text: cue.text.replaceAll("\n", " ") || "…",
      });
      if (!isTimed(cue)) continue;
      cue.words.forEach((/** @type {any} */ [start, end, text, sure], /** @type {number} */ index) => {
        const [a, b] = [this.x(start - inS), this.x(end - inS)];
        if (b < 0 || a > width) return;
        const held = on && index === word;
        this.box_(context, cue, a, b, WORDS, {
          fill: held ? "brass" : "seam",
          solid: held ? 1 : 0.7,
          edge: sure < 0.5 ? "coral" : null,
          text,
          ink: held ? "brass-ink" : "ink",
        });
      });
    }
    this.playhead.place(this.x(now), 0, this.width);
  }

  /**
   * @param {CanvasRenderingContext2D} context
   * @param {any} _cue
   * @param {number} a
   * @param {number} b
   * @param {any} values
   * @param {any} values1
   */
  box_(context, _cue, a, b, { top, height }, { fill, solid, edge, text, ink = "ink" }) {
    const wide = Math.max(b - a - 1, 2);
    context.globalAlpha = solid;
    context.fillStyle = this.colour(fill);
    context.beginPath();
    context.roundRect(a + 0.5, top, wide, height, 6);
    context.fill();
    context.globalAlpha = 1;
    if (edge) {
      context.strokeStyle = this.colour(edge);
      context.lineWidth = 1.3;
      context.stroke();
    }
    if (wide < 10) return;
    context.save();
    context.beginPath();
    context.rect(a + 3, top, wide - 6, height);
    context.clip();
    this.text(context, text, Math.max(a + 6, 4), top + height / 2 + 4, ink);
    context.restore();
  }

  /**
   * What lies under a point: an edge or the middle of a cue or a word, or nothing.
   * @param {any} values
   */
  hit({ x, y }) {
    const { inS } = this.read();
    const inWords = y < CUES.top - 2;
    for (const cue of this.inSight) {
      if (inWords) {
        if (!isTimed(cue)) continue;
        for (let index = 0; index < cue.words.length; index += 1) {
          const [a, b] = [this.x(cue.words[index][0] - inS), this.x(cue.words[index][1] - inS)];
          if (Math.abs(x - a) < EDGE) return { what: "word", edge: 0, cue, index };
          if (Math.abs(x - b) < EDGE) return { what: "word", edge: 1, cue, index };
          if (x > a && x < b) return { what: "pick", cue, index };
        }
        continue;
      }
      const [a, b] = [this.x(cue.start_s - inS), this.x(cue.end_s - inS)];
      if (Math.abs(x - a) < EDGE) return { what: "start", cue, index: -1 };
      if (Math.abs(x - b) < EDGE) return { what: "end", cue, index: -1 };
      if (x > a && x < b) return { what: "move", cue, index: -1 };
    }
    return { what: "nothing" };
  }

  /**
   * A time of the recording drawn to the edges of pauses, to neighbours and to beats.
   * @param {number} second
   * @param {ListedCue} cue
   */
  snapped(second, cue) {
    const { pauses, beats, inS, row } = this.view;
    const near = (SNAP_PX / this.width) * this.view.seen.span;
    const others = row
      .filter((/** @type {any} */ other) => other.id !== cue.id)
      .flatMap((/** @type {any} */ other) => [other.start_s, other.end_s]);
    const marks = [...pauses.flat(), ...others, ...beats.map((/** @type {any} */ [time]) => time + inS)];
    const best = marks.reduce(
      (found, mark) => (Math.abs(mark - second) < Math.abs(found - second) ? mark : found),
      1e9,
    );
    return Math.abs(best - second) < near ? best : second;
  }
  /**
   * @param {any} place
   * @param {any} free
   */
  changed(place, free) {
    const { what, cue, index, edge, begin } = this.drag;
    const by = this.second(place.x) - this.second(begin.x);
    const snap = (/** @type {number} */ second) => (free ? second : this.snapped(second, cue));
    if (what === "start") return placed(cue, clamp(snap(cue.start_s + by), 0, cue.end_s - 0.05), cue.end_s);
    if (what === "end") return placed(cue, cue.start_s, Math.max(snap(cue.end_s + by), cue.start_s + 0.05));
    if (what === "word") {
      const time = cue.words[index][edge] + by;
      return wordMoved(cue, index, edge, snap(time));
    }
    const start = Math.max(0, snap(cue.start_s + by));
    const shift = start - cue.start_s;
    const words = cue.words.map((/** @type {any} */ [a, b, ...rest]) => [a + shift, b + shift, ...rest]);
    return { ...cue, start_s: start, end_s: cue.end_s + shift, words };
  }

  listen() {
    const { canvas } = this;
    canvas.addEventListener("pointerdown", (event) => {
      if (event.button !== 0) return;
      canvas.setPointerCapture(event.pointerId);
      const begin = this.place(event);
      const found = this.hit(begin);
      if (found.cue) this.on.choose(found.cue, found.index);
      if (found.what === "nothing") this.on.seek(clamp(this.second(begin.x), 0, this.read().length));
      this.drag = found.what === "nothing" ? { what: "seek", begin } : { ...found, begin };
    });
    canvas.addEventListener("pointermove", (event) => {
      const place = this.place(event);
      const { drag } = this;
      if (!drag) {
        const { what } = this.hit(place);
        canvas.style.cursor =
          { word: "ew-resize", start: "ew-resize", end: "ew-resize", move: "grab", pick: "pointer" }[what] ||
          "default";
        return;
      }
      if (drag.what === "seek") {
        this.on.seek(clamp(this.second(place.x), 0, this.read().length));
        return;
      }
      if (drag.what === "pick" || (!drag.moved && Math.abs(place.x - drag.begin.x) < 3)) return;
      drag.moved = true;
      drag.last = this.changed(place, event.altKey);
      this.on.drag(drag.last);
      this.draw();
    });
    canvas.addEventListener("pointerup", () => {
      const { drag } = this;
      this.drag = null;
      const label = { word: "Move a word", start: "Move the in", end: "Move the out", move: "Move a cue" };
      if (drag && drag.moved) this.on.placed(drag.last, /** @type {Record<string, any>} */ (label)[drag.what]);
    });
    canvas.addEventListener("pointercancel", () => {
      this.drag = null;
      this.on.drag(null);
      this.draw();
    });
  }
}
