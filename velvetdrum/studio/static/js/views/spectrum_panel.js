// The spectrum with the pickups on it.

import { partWith } from "../lib/studio_part.js";

export class SpectrumPanel extends partWith(
  "given",
  "page",
  "playback",
  "project",
  "raw",
  "signalCurve",
  "signals",
  "sound",
  "stage",
  "timeStrip",
  "trim",
  "views",
) {
  soundView = "signals";
  spectrumView = "now";
  /** @param {Signal} signal */
  openSignal(signal) {
    this.soundView = "signals";
    this.signals.chooseSignal(signal);
    this.page.go("sound");
  }

  /** @param {string} name */
  showView(name) {
    this.soundView = name;
    this.page.nextTick(() => {
      this.timeStrip.drawWaves();
      this.views.spectrum.draw();
      this.views.curveView.draw();
      this.views.trackLanes.draw();
      this.views.levelMeters.draw();
    });
  }

  /** @param {string} name */
  isView(name) {
    return this.soundView === name;
  }

  get nyquist() {
    return this.sound.facts ? Math.min(24000, this.sound.facts.sample_rate / 2) : 24000;
  }

  spectrumSource() {
    const pickups = this.signals.signals
      .map((signal, index) => ({ signal, index }))
      .filter(({ signal }) => this.signals.hasBand(signal))
      .map(({ signal, index }) => {
        const get = (/** @type {string} */ name) =>
          this.project.draftValue(`/signals/${index}/settings/${name}`, signal.settings[name]);
        return {
          id: signal.id,
          name: signal.name,
          colour: signal.colour,
          low_hz: get("low_hz"),
          high_hz: get("high_hz"),
          quiet_db: get("quiet_db"),
          loud_db: get("loud_db"),
          heard: signal.id === this.signals.chosenSignal ? this.heardLevel(get("quiet_db"), get("loud_db")) : null,
        };
      });
    const highest = Math.max(0, ...pickups.map((pickup) => Math.ceil((pickup.loud_db + 3) / 6) * 6));
    return {
      key: this.project.track && this.sound.facts ? this.project.track.media : "",
      channel: this.signals.isPickup ? this.signals.signal.settings.channel : "mix",
      from: this.trim.inS,
      to: this.trim.outS,
      now: this.trim.inS + this.playback.frame / this.project.rate,
      axis: this.raw(this.given.axis),
      pickups,
      chosen: this.signals.chosenSignal,
      top: highest,
      view: this.spectrumView,
      nyquist: this.nyquist,
    };
  }

  /**
   * The level that the chosen pickup hears now, in dB; null outside its range.
   * @param {any} quiet
   * @param {any} loud
   */
  heardLevel(quiet, loud) {
    const near =
      this.signalCurve.curves &&
      this.signalCurve.curves.mark === this.signalCurve.curveMark &&
      this.signalCurve.curves.near;
    if (!near || !near.unshaped || this.signals.signal.settings.response !== 1) return null;
    const index = Math.floor(
      ((this.playback.frame / this.project.rate - near.from) / (near.to - near.from)) * near.unshaped.length,
    );
    const part = (near.unshaped[index] || 0) / 1000;
    return part > 0.005 && part < 0.995 ? quiet + part * (loud - quiet) : null;
  }

  /**
   * @param {string} id
   * @param {any} changes
   */
  dragPickup(id, changes) {
    const index = this.signals.signals.findIndex((signal) => signal.id === id);
    if (index < 0) {
      this.project.draft = null;
      this.stage.showStill();
      return;
    }
    this.project.tryOut(
      Object.entries(changes).map(([name, value]) => ({
        op: "replace",
        path: `/signals/${index}/settings/${name}`,
        value,
      })),
    );
  }

  /**
   * @param {string} id
   * @param {any} changes
   */
  placePickup(id, changes) {
    const index = this.signals.signals.findIndex((signal) => signal.id === id);
    const patch = Object.entries(changes).map(([name, value]) => ({
      op: "replace",
      path: `/signals/${index}/settings/${name}`,
      value,
    }));
    this.project.edit(`${this.signals.signals[index].name}: band and range`, patch);
  }

  /** @param {string} name */
  setSpectrumView(name) {
    this.spectrumView = name;
    this.views.spectrum.draw();
  }

  get spectrumText() {
    const { signal, isPickup } = this.signals;
    if (!isPickup) return "Spectrum of the recording";
    const { quiet_db: quiet, loud_db: loud } = signal.settings;
    const band = this.signals.signalNote(signal);
    return `Spectrum of the recording. ${signal.name} hears ${band}, ${quiet} to ${loud} dB.`;
  }
}
