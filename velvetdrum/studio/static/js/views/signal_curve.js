// The chosen signal's curve, over the project and around the playhead.

import { ask } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

export class SignalCurve extends partWith(
  "drawnCurve",
  "page",
  "playback",
  "project",
  "raw",
  "selection",
  "signals",
  "sound",
  "tempo",
  "views",
) {
  /** @type {any} */
  curves = null;
  /** @type {any} */
  readingCurve = null;
  /** @type {any} */
  readAgain = null;
  /** @type {any} */
  curveReads = null;
  judged = { at_0: 0, at_1: 0, advice: "" };
  curveSource() {
    const signal = this.signals.signal;
    const points = this.signals.isDrawn
      ? this.project.draftValue(this.signals.pointsPath, this.signals.points)
      : null;
    return {
      id: signal ? signal.id : null,
      colour: signal ? signal.colour : "ink",
      length: this.project.length,
      now: this.playback.frame / this.project.rate,
      whole: this.curves && this.raw(this.curves.whole),
      near: this.curves && this.raw(this.curves.near),
      points,
      point: this.drawnCurve.point,
      beats: this.raw(this.tempo.beatGrid.beats),
      kind: signal ? signal.kind : "",
    };
  }

  get curveMark() {
    const { signals: listed, beats, tracks, length_s, rate } = this.project.document;
    return JSON.stringify([listed, beats, tracks, length_s, rate, this.project.draft, this.signals.chosenSignal]);
  }

  /** Read the chosen signal's curve: one question on its way, the newest state wins. */
  async readCurve() {
    this.views.curveView.draw();
    if (this.selection.room !== "sound" || !this.signals.signal || !this.sound.facts) return;
    // With an edit on its way the answer could be of before or after it; when it is saved, this is called again.
    if (this.project.waiting.length && !this.project.draft) return;
    if (this.readingCurve) {
      this.readAgain = true;
      return;
    }
    this.readingCurve = true;
    do {
      this.readAgain = false;
      const signal = this.signals.signal,
        curveMark = this.curveMark;
      const spans = this.views.curveView.spans();
      const width = Math.max(60, Math.min(2000, Math.round(this.page.refs.curve.getBoundingClientRect().width)));
      // Around the playhead more than is seen, so that playing on needs no new question each moment.
      const near = [Math.max(0, spans.near[0] - 3), Math.min(this.project.length, spans.near[1] + 9)];
      try {
        const columns = Math.max(
          60,
          Math.min(1600, Math.round((width * (near[1] - near[0])) / (spans.near[1] - spans.near[0]))),
        );
        const wanted = [
          { from_s: spans.whole[0], to_s: spans.whole[1], columns: width },
          { from_s: near[0], to_s: near[1], columns },
        ];
        const json = {
          signals: [signal.id],
          spans: wanted,
          detail: signal.id,
          ...this.project.unsent,
        };
        const found = await ask(`/projects/${this.project.state.id}/curves`, { json });
        const shaped = (/** @type {any} */ part, /** @type {number[]} */ span) => ({
          from: span[0],
          to: span[1],
          low: part.curves[signal.id][0],
          high: part.curves[signal.id][1],
          unshaped: part.unshaped,
        });
        this.curves = {
          mark: curveMark,
          whole: shaped(found.spans[0], spans.whole),
          near: shaped(found.spans[1], near),
        };
        this.judged = found.judged;
        this.curveReads = (this.curveReads || 0) + 1;
      } catch {
        /* a state that can't be drawn: the last good curve stays, the reason stands beside the setting */
      }
      this.views.curveView.draw();
    } while (this.readAgain);
    this.readingCurve = false;
  }

  /** While the playhead moves: ask for more of the curve when it comes near the end of what is there. */
  followCurve() {
    this.views.curveView.draw();
    this.views.spectrum.draw();
    if (this.selection.room !== "sound" || !this.curves) return;
    const [from, to] = this.views.curveView.spans().near;
    const { near } = this.curves;
    if (
      from < near.from - 1e-6 ||
      to > near.to - (this.playback.playing ? Math.min(2, this.project.length - to) : 0) + 1e-6
    )
      this.readCurve();
  }

  get pinnedText() {
    const per = (/** @type {number} */ share) => `${(share * 100).toFixed(share > 0 && share < 0.1 ? 1 : 0)} %`;
    return { top: per(this.judged.at_1), bottom: per(this.judged.at_0) };
  }

  get curveText() {
    const { signal, live } = this.signals;
    if (!signal) return "No signal is chosen";
    const now = Math.round((live[signal.id] || 0) * 100);
    const { top, bottom } = this.pinnedText;
    return `Curve of ${signal.name}: ${now} % now, pinned at 1 in ${top} and at 0 in ${bottom} of the frames`;
  }
}
