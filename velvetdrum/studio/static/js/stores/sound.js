// The recording: what is known of it, and what is heard.

import { ask, refusalOf } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

export class Sound extends partWith("kinds", "layers", "messages", "project", "settings", "sum", "views") {
  /** @type {string | null} */
  factsOf = null;
  /** @type {any} */
  facts = null;
  get channelText() {
    return (
      /** @type {Record<string, any>} */ ({ 1: "mono", 2: "stereo", 6: "5.1", 8: "7.1" })[this.facts.channels] ||
      String(this.facts.channels)
    );
  }

  get rateText() {
    return `${this.facts.sample_rate / 1000} kHz`;
  }

  get loudnessText() {
    return this.facts && this.facts.loudness_lufs !== null
      ? `${this.facts.loudness_lufs.toFixed(1).replace("-", "−")} LUFS`
      : "too short to rate";
  }

  get rangeText() {
    return this.facts.loudness_range_lu === null ? "–" : `${this.facts.loudness_range_lu.toFixed(1)} LU`;
  }

  get peakText() {
    return `${this.facts.true_peak_dbtp.toFixed(1).replace("-", "−")} dBTP`;
  }

  get trackTitle() {
    const { tracks } = this.project.document;
    if (tracks.length > 1) return `${tracks.length} tracks`;
    return this.project.track ? this.project.track.name.replace(/\.[a-z0-9]{1,5}$/i, "") : "No sound yet";
  }

  async loadFacts() {
    this.facts = null;
    if (!this.project.track) return;
    try {
      this.facts = await ask(`/sounds/${this.project.track.media}`);
      this.factsOf = this.project.track.media;
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.messages.tell(problem.message);
    }
  }

  /** What clips are heard in what the server has, as a text that changes with the mixed sound; empty when none is. */
  get soundMark() {
    const { layers } = this.project.state.document;
    const timing = (/** @type {any} */ { settings, visible, group }) =>
      ["from_at", "from_s", "to_at", "to_s", "fade_in_s", "fade_out_s"]
        .map((name) => settings[name])
        .concat(visible, group);
    const kindOf = (/** @type {Layer} */ layer) =>
      /** @type {LayerKind} */ (this.kinds.find((kind) => kind.kind === layer.kind));
    const isHeard = (/** @type {Layer} */ layer) =>
      layer.visible &&
      kindOf(layer).sounding.length > 0 &&
      kindOf(layer).sounds.every(([name, values]) =>
        this.settings.holds(kindOf(layer).settings, layer.settings, name, values),
      );
    const heard = layers.filter(isHeard).map((/** @type {Layer} */ layer) =>
      kindOf(layer)
        .sounding.map((name) => layer.settings[name])
        .concat(timing(layer)),
    );
    return heard.length
      ? JSON.stringify([heard, layers.filter((/** @type {Layer} */ layer) => this.layers.isGroup(layer)).map(timing)])
      : "";
  }

  setTrack() {
    this.views.player.track =
      this.project.track && this.facts
        ? {
            key: this.project.track.media,
            address: this.soundAddress,
            mark: this.soundMark,
            inS: this.project.track.in_s,
            outS: this.project.track.out_s,
            samples: this.facts.samples,
            channels: this.soundMark ? 2 : this.facts.heard,
            ...this.sum.now,
          }
        : null;
  }

  get soundAddress() {
    return this.soundMark ? `/projects/${this.project.state.id}` : `/sounds/${this.project.track.media}`;
  }
}
