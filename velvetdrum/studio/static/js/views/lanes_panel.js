// The lanes of the strip: which layers or signals they show.

import { ask } from "../lib/api.js";
import { clock } from "../lib/time.js";
import { ROW } from "./lanes.js";
import { StudioPart } from "../lib/studio_part.js";

const COLOURS = ["sea", "brass", "iris", "coral", "sky", "leaf"];

export class LanesPanel extends StudioPart {
  laneMark = null;
  laneData = null;
  laneSet = "layers"; // layers, signals
  laneTop = 0;
  get lanesOn() {
    if (!this.canChange) return false;
    return this.laneSet === "layers" && this.studio.project.document.layers.length > 0;
  }
  nextLanes() {
    this.laneSet = this.laneSet === "layers" ? "signals" : "layers";
    this.laneMark = null;
    this.studio.page.nextTick(() => {
      this.studio.views.lanesView.draw();
      this.readLanes();
      this.studio.views.strip.draw();
      this.studio.stage.fitStage();
    });
  }
  /** True in rooms whose strip shows lanes. */
  get canChange() {
    return !["words", "export"].includes(this.studio.selection.room);
  }
  get lanesText() {
    return this.laneSet === "layers" ? "layers" : "signals";
  }
  get laneCount() {
    return this.lanesOn ? this.studio.layout.rows : 0;
  }
  get lanesStyle() {
    return { height: `${this.laneCount * ROW}px` };
  }
  /** The layers whose lanes are shown: a window of the list, which follows the chosen one. */
  get laneLayers() {
    const listed = this.studio.layers.layersFrontFirst;
    const top = Math.max(0, Math.min(this.laneTop, listed.length - this.laneCount));
    return listed.slice(top, top + this.laneCount);
  }
  scrollLanes(by) {
    this.laneTop = Math.max(
      0,
      Math.min(this.laneTop + by, this.studio.layers.layersFrontFirst.length - this.laneCount),
    );
    this.studio.views.lanesView.draw();
  }
  showLane(id) {
    const at = this.studio.layers.layersFrontFirst.findIndex((layer) => layer.id === id);
    if (at < 0) return;
    if (at < this.laneTop) this.laneTop = at;
    else if (at >= this.laneTop + this.laneCount) this.laneTop = at - this.laneCount + 1;
  }
  laneColour(layer) {
    const driver = this.studio.sockets.drivers(layer)[0];
    return driver ? driver.colour : COLOURS[this.studio.layers.indexOf(layer.id) % COLOURS.length];
  }
  laneDot(layer) {
    const colour = this.laneColour(layer);
    return { "--dot": colour.startsWith("#") ? colour : `var(--${colour})` };
  }
  lanesSource() {
    return {
      seen: this.studio.views.strip.seen,
      now: this.studio.playback.frame / this.studio.project.rate,
      length: this.studio.project.length,
      markers: this.studio.raw(this.studio.markers.markers),
      beats: this.studio.raw(this.studio.tempo.beatGrid.beats),
      rows: this.laneLayers.map((layer) => ({
        id: layer.id,
        name: layer.name,
        colour: this.laneColour(layer),
        on: this.studio.selection.isChosen(layer),
        locked: Boolean(layer.locked),
        hidden: !layer.visible,
        ...this.studio.timing.spanOf(layer),
        ...(this.studio.timing.laneDraft && this.studio.timing.laneDraft.id === layer.id
          ? this.studio.timing.laneDraft.change
          : {}),
        keys: this.studio.keyframes
          .keyTimes(layer)
          .map((time) =>
            this.studio.timing.keyShift && this.studio.keyPicks.isPickedKey(layer.id, time)
              ? time + this.studio.timing.keyShift
              : time,
          ),
        picked: (time) =>
          this.studio.keyPicks.isPickedKey(
            layer.id,
            this.studio.timing.keyShift ? time - this.studio.timing.keyShift : time,
          ),
      })),
    };
  }
  pickLane(id, event) {
    const layer = this.studio.layers.byId(id);
    if (event.ctrlKey || event.metaKey || event.shiftKey) return;
    if (layer.id !== this.studio.selection.chosen) this.studio.selection.choose(layer);
  }
  get lanesText2() {
    return this.laneLayers
      .map((layer) => {
        const span = this.studio.timing.spanOf(layer);
        return `${layer.name} ${clock(span.from)} to ${clock(span.to)}`;
      })
      .join(", ");
  }
  /** Up to four signals under the waveform, over what the strip shows; the chosen one among them. */
  get laneSignals() {
    const listed = this.studio.signals.signals;
    const first = listed.slice(0, 4);
    if (this.studio.signals.signal && listed.length > 4 && !first.includes(this.studio.signals.signal))
      first[3] = this.studio.signals.signal;
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
        high: found ? this.studio.raw(found[1]) : null,
      };
    });
  }
  async readLanes() {
    if (!this.studio.playback.playing) this.studio.views.lanesView.draw();
    if (this.lanesOn || !this.studio.signals.signals.length || !this.studio.sound.facts) return;
    const { start, span } = this.studio.views.strip.seen;
    const mark = [
      this.studio.project.state.revision,
      start.toFixed(4),
      span.toFixed(4),
      this.laneSignals.map((signal) => signal.id).join(),
    ].join(":");
    if (mark === this.laneMark) return;
    this.laneMark = mark;
    const columns = Math.max(
      100,
      Math.min(1600, Math.round(this.studio.page.refs.strip.getBoundingClientRect().width)),
    );
    try {
      const json = {
        signals: this.laneSignals.map((signal) => signal.id),
        spans: [{ from_s: start, to_s: start + span, columns }],
      };
      const found = await ask(`/projects/${this.studio.project.state.id}/curves`, { json });
      if (mark === this.laneMark) this.laneData = { ...found.spans[0], from: start, to: start + span, mark };
    } catch {
      this.laneMark = null;
    }
    this.studio.views.strip.draw();
  }
}
