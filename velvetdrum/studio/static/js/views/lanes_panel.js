// The lanes of the strip: which layers or signals they show.

import { ask } from "../lib/api.js";
import { clock } from "../lib/time.js";
import { ROW } from "./lanes.js";
import { partWith } from "../lib/studio_part.js";

const COLOURS = ["sea", "brass", "iris", "coral", "sky", "leaf"];

export class LanesPanel extends partWith(
  "keyPicks",
  "keyframes",
  "layers",
  "layout",
  "markers",
  "page",
  "playback",
  "project",
  "raw",
  "selection",
  "signals",
  "sockets",
  "sound",
  "stage",
  "tempo",
  "timing",
  "views",
) {
  /** @type {any} */
  laneMark = null;
  /** @type {any} */
  laneData = null;
  laneSet = "layers"; // layers, signals
  laneTop = 0;
  get lanesOn() {
    if (!this.canChange) return false;
    return this.laneSet === "layers" && this.project.document.layers.length > 0;
  }

  nextLanes() {
    this.laneSet = this.laneSet === "layers" ? "signals" : "layers";
    this.laneMark = null;
    this.page.nextTick(() => {
      this.views.lanesView.draw();
      this.readLanes();
      this.views.strip.draw();
      this.stage.fitStage();
    });
  }

  /** True in rooms whose strip shows lanes. */
  get canChange() {
    return !["words", "export"].includes(this.selection.room);
  }

  get lanesText() {
    return this.laneSet === "layers" ? "layers" : "signals";
  }

  get laneCount() {
    return this.lanesOn ? this.layout.rows : 0;
  }

  get lanesStyle() {
    return { height: `${this.laneCount * ROW}px` };
  }

  /** The layers whose lanes are shown: a window of the list, which follows the chosen one. */
  get laneLayers() {
    const listed = this.layers.layersFrontFirst;
    const top = Math.max(0, Math.min(this.laneTop, listed.length - this.laneCount));
    return listed.slice(top, top + this.laneCount);
  }

  /** @param {number} by */
  scrollLanes(by) {
    this.laneTop = Math.max(0, Math.min(this.laneTop + by, this.layers.layersFrontFirst.length - this.laneCount));
    this.views.lanesView.draw();
  }

  /** @param {string} id */
  showLane(id) {
    const at = this.layers.layersFrontFirst.findIndex((layer) => layer.id === id);
    if (at < 0) return;
    if (at < this.laneTop) this.laneTop = at;
    else if (at >= this.laneTop + this.laneCount) this.laneTop = at - this.laneCount + 1;
  }

  /** @param {Layer} layer */
  laneColour(layer) {
    const driver = this.sockets.drivers(layer)[0];
    return driver ? driver.colour : COLOURS[this.layers.indexOf(layer.id) % COLOURS.length];
  }

  /** @param {Layer} layer */
  laneDot(layer) {
    const colour = this.laneColour(layer);
    return { "--dot": colour.startsWith("#") ? colour : `var(--${colour})` };
  }

  lanesSource() {
    return {
      seen: this.views.strip.seen,
      now: this.playback.frame / this.project.rate,
      length: this.project.length,
      markers: this.raw(this.markers.markers),
      beats: this.raw(this.tempo.beatGrid.beats),
      rows: this.laneLayers.map((layer) => ({
        id: layer.id,
        name: layer.name,
        colour: this.laneColour(layer),
        on: this.selection.isChosen(layer),
        locked: Boolean(layer.locked),
        hidden: !layer.visible,
        ...this.timing.spanOf(layer),
        ...(this.timing.laneDraft && this.timing.laneDraft.id === layer.id ? this.timing.laneDraft.change : {}),
        keys: this.keyframes
          .keyTimes(layer)
          .map((time) =>
            this.timing.keyShift && this.keyPicks.isPickedKey(layer.id, time) ? time + this.timing.keyShift : time,
          ),
        picked: (/** @type {number} */ time) =>
          this.keyPicks.isPickedKey(layer.id, this.timing.keyShift ? time - this.timing.keyShift : time),
      })),
    };
  }

  /**
   * @param {string} id
   * @param {any} event
   */
  pickLane(id, event) {
    const layer = this.layers.byId(id);
    if (event.ctrlKey || event.metaKey || event.shiftKey) return;
    if (layer.id !== this.selection.chosen) this.selection.choose(layer);
  }

  get lanesText2() {
    return this.laneLayers
      .map((layer) => {
        const span = this.timing.spanOf(layer);
        return `${layer.name} ${clock(span.from)} to ${clock(span.to)}`;
      })
      .join(", ");
  }

  /** Up to four signals under the waveform, over what the strip shows; the chosen one among them. */
  get laneSignals() {
    const listed = this.signals.signals;
    const first = listed.slice(0, 4);
    if (this.signals.signal && listed.length > 4 && !first.includes(this.signals.signal))
      first[3] = this.signals.signal;
    return first;
  }

  get lanes() {
    return this.laneSignals.map((signal) => {
      const found = this.laneData && this.laneData.curves[signal.id];
      return {
        colour: signal.colour,
        mark: `${signal.id}:${signal.colour}:${this.laneData ? this.laneData.mark : ""}`,
        from: found ? this.laneData.from : 0,
        to: found ? this.laneData.to : 1,
        high: found ? this.raw(found[1]) : null,
      };
    });
  }

  async readLanes() {
    if (!this.playback.playing) this.views.lanesView.draw();
    if (this.lanesOn || !this.signals.signals.length || !this.sound.facts) return;
    const { start, span } = this.views.strip.seen;
    const mark = [
      this.project.state.revision,
      start.toFixed(4),
      span.toFixed(4),
      this.laneSignals.map((signal) => signal.id).join(),
    ].join(":");
    if (mark === this.laneMark) return;
    this.laneMark = mark;
    const columns = Math.max(100, Math.min(1600, Math.round(this.page.refs.strip.getBoundingClientRect().width)));
    try {
      const json = {
        signals: this.laneSignals.map((signal) => signal.id),
        spans: [{ from_s: start, to_s: start + span, columns }],
      };
      const found = await ask(`/projects/${this.project.state.id}/curves`, { json });
      if (mark === this.laneMark) this.laneData = { ...found.spans[0], from: start, to: start + span, mark };
    } catch {
      this.laneMark = null;
    }
    this.views.strip.draw();
  }
}
