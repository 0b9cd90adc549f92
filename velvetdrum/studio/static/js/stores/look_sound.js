// The sound that looks are chosen for: what is known of it, its best stretch, and hearing it.

import { ask } from "../lib/api.js";
import { paintImport } from "../views/import_wave.js";

const COLUMNS = 400;

export class LookSound {
  /** @param {any} given what the page was given */
  constructor(given) {
    this.given = given;
  }

  get track() {
    return this.given.project.document.tracks[0];
  }

  facts = "";
  /** @type {any} */
  known = {};
  /** @type {[number, number] | null} */
  best = null;
  heard = false;
  pointed = "";
  /** @type {any} */
  _audio = null;

  get length() {
    return this.track.out_s - this.track.in_s;
  }

  get isVoice() {
    return this.known.tempo_bpm === null;
  }

  /** @param {HTMLCanvasElement} canvas */
  async load(canvas) {
    const { media, in_s, out_s } = this.track;
    this.known = await ask(`/sounds/${media}`);
    const { loudness_lufs: loudness, tempo_bpm: tempo } = this.known;
    const seconds = Math.round(this.length);
    this.facts = [
      `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`,
      loudness === null ? "" : `${loudness.toFixed(1).replace("-", "−")} LUFS`,
      tempo === null ? "no beat" : `${Math.round(tempo)} bpm`,
    ]
      .filter(Boolean)
      .join(" · ");
    const wave = await ask(`/sounds/${media}/wave?from=${in_s}&to=${out_s}&columns=${COLUMNS}`, { bytes: true });
    paintImport(canvas, new Int16Array(wave));
    await this.find(30);
  }

  /** @param {number} seconds about how long the best stretch is; all of it for 0 */
  async find(seconds) {
    if (!seconds || seconds >= this.length) {
      this.best = null;
      return;
    }
    const address = `/projects/${this.given.project.id}/excerpts?length_s=${seconds}`;
    const [first] = await ask(address);
    this.best = first ? [first.start_s, first.end_s] : [0, seconds];
  }

  get bestStyle() {
    if (!this.best) return {};
    const [from, to] = this.best;
    return { left: `${(from / this.length) * 100}%`, width: `${((to - from) / this.length) * 100}%` };
  }

  get bestText() {
    return this.best ? `best ${Math.round(this.best[1] - this.best[0])} s` : "";
  }

  async toggle() {
    this.heard = !this.heard;
    if (!this.heard) {
      this.stop();
      return;
    }
    const first = this.given.begins;
    const rate = 48000;
    const start = Math.round((this.track.in_s + first) * rate);
    const count = Math.round((this.given.moving.frames / this.given.moving.rate) * rate);
    const bytes = await ask(`/sounds/${this.track.media}/pcm?start=${start}&count=${count}`, { bytes: true });
    const samples = new Int16Array(bytes);
    const channels = this.known.heard;
    const context = new AudioContext({ sampleRate: rate });
    const buffer = context.createBuffer(channels, samples.length / channels, rate);
    for (let channel = 0; channel < channels; channel += 1) {
      const out = buffer.getChannelData(channel);
      for (let i = 0; i < out.length; i += 1) out[i] = samples[i * channels + channel] / 32767;
    }
    const source = context.createBufferSource();
    Object.assign(source, { buffer, loop: true });
    source.connect(context.destination);
    source.start();
    this._audio = { context, begun: context.currentTime };
  }

  stop() {
    if (this._audio) this._audio.context.close();
    this._audio = null;
  }

  /** Seconds since the four seconds that are heard began; null in silence. */
  get elapsed() {
    if (!this._audio) return null;
    const { context, begun } = this._audio;
    return context.currentTime - begun - (context.outputLatency || 0);
  }

  /** @param {string} id of the look that is pointed at */
  point(id) {
    this.pointed = id;
  }

  leave() {
    this.pointed = "";
  }
}
