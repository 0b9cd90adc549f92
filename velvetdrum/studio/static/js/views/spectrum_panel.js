// The spectrum with the pickups on it.

import { StudioPart } from "../lib/studio_part.js";

export class SpectrumPanel extends StudioPart {
  soundView = "signals";
  spectrumView = "now";
  openSignal(signal) {
    this.soundView = "signals";
    this.studio.signals.chooseSignal(signal);
    this.studio.page.go("sound");
  }
  showView(name) {
    this.soundView = name;
    this.studio.page.nextTick(() => {
      this.studio.timeStrip.drawWaves();
      this.studio.views.spectrum.draw();
      this.studio.views.curveView.draw();
    });
  }
  isView(name) {
    return this.soundView === name;
  }
  get nyquist() {
    return this.studio.sound.facts ? Math.min(24000, this.studio.sound.facts.sample_rate / 2) : 24000;
  }
  spectrumSource() {
    const pickups = this.studio.signals.signals
      .map((signal, index) => ({ signal, index }))
      .filter(({ signal }) => this.studio.signals.hasBand(signal))
      .map(({ signal, index }) => {
        const get = (name) =>
          this.studio.project.draftValue(`/signals/${index}/settings/${name}`, signal.settings[name]);
        return {
          id: signal.id,
          name: signal.name,
          colour: signal.colour,
          low_hz: get("low_hz"),
          high_hz: get("high_hz"),
          quiet_db: get("quiet_db"),
          loud_db: get("loud_db"),
          heard:
            signal.id === this.studio.signals.chosenSignal ? this.heardLevel(get("quiet_db"), get("loud_db")) : null,
        };
      });
    const highest = Math.max(0, ...pickups.map((pickup) => Math.ceil((pickup.loud_db + 3) / 6) * 6));
    return {
      key: this.studio.project.track && this.studio.sound.facts ? this.studio.project.track.media : "",
      channel: this.studio.signals.isPickup ? this.studio.signals.signal.settings.channel : "mix",
      from: this.studio.trim.inS,
      to: this.studio.trim.outS,
      now: this.studio.trim.inS + this.studio.playback.frame / this.studio.project.rate,
      axis: this.studio.raw(this.studio.given.axis),
      pickups,
      chosen: this.studio.signals.chosenSignal,
      top: highest,
      view: this.spectrumView,
      nyquist: this.nyquist,
    };
  }
  /** The level that the chosen pickup hears now, in dB; null outside its range. */
  heardLevel(quiet, loud) {
    const near =
      this.studio.signalCurve.curves &&
      this.studio.signalCurve.curves.mark === this.studio.signalCurve.curveMark &&
      this.studio.signalCurve.curves.near;
    if (!near || !near.unshaped || this.studio.signals.signal.settings.response !== 1) return null;
    const index = Math.floor(
      ((this.studio.playback.frame / this.studio.project.rate - near.from) / (near.to - near.from)) *
        near.unshaped.length,
    );
    const part = (near.unshaped[index] || 0) / 1000;
    return part > 0.005 && part < 0.995 ? quiet + part * (loud - quiet) : null;
  }
  dragPickup(id, changes) {
    const index = this.studio.signals.signals.findIndex((signal) => signal.id === id);
    if (index < 0) {
      this.studio.project.draft = null;
      this.studio.stage.showStill();
      return;
    }
    this.studio.project.tryOut(
      Object.entries(changes).map(([name, value]) => ({
        op: "replace",
        path: `/signals/${index}/settings/${name}`,
        value,
      })),
    );
  }
  placePickup(id, changes) {
    const index = this.studio.signals.signals.findIndex((signal) => signal.id === id);
    const patch = Object.entries(changes).map(([name, value]) => ({
      op: "replace",
      path: `/signals/${index}/settings/${name}`,
      value,
    }));
    this.studio.project.edit(`${this.studio.signals.signals[index].name}: band and range`, patch);
  }
  setSpectrumView(name) {
    this.spectrumView = name;
    this.studio.views.spectrum.draw();
  }
  get spectrumText() {
    const { signal, isPickup } = this.studio.signals;
    if (!isPickup) return "Spectrum of the recording";
    const { quiet_db: quiet, loud_db: loud } = signal.settings;
    const band = this.studio.signals.signalNote(signal);
    return `Spectrum of the recording. ${signal.name} hears ${band}, ${quiet} to ${loud} dB.`;
  }
}
