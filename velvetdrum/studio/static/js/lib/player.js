// Sound from any place, exact to the sample: pieces of the recording are scheduled on the audio clock one after
// the other, so that nothing has to be loaded whole. The picture asks this clock for the time.

import { ask } from "./api.js";
import { SmoothClock } from "./smooth_clock.js";

const RATE = 48000;
const BLOCK = RATE * 2;
const AHEAD_S = 1.2;
const KEPT_BLOCKS = 24;
const GRAIN_S = 0.06;
/** @type {Record<string, number[]>} of the left and the right channel, by what is heard */
const CHANNEL_SHARES = { left: [1, 0], right: [0, 1], mid: [0.5, 0.5], side: [0.5, -0.5] };

export class Player {
  /** @param {any} onEnd */
  constructor(onEnd) {
    this.__v_skip = true; // Alpine then leaves the object as it is: clocks and canvases must not be wrapped
    this.onEnd = onEnd;
    /** @type {any} */
    this.track = null; // {key, inS, outS, samples, channels}
    this.rate = 30;
    this.frames = 1; // length of the project
    /** @type {{ first: number; last: number } | null} */
    this.loop = null; // {first, last}: frames, last exclusive
    this.playing = false;
    this.frame = 0; // where playback starts, or stands
    this.clock = new SmoothClock();
    this.blocks = new Map();
    this.sources = new Set();
    this.level = 1;
    this.speed = 1; // half of it for tapping along
    this.grainEnds = 0; // seconds of the audio clock before which no other grain begins
    this.context = /** @type {AudioContext} */ (/** @type {unknown} */ (null)); // made when play begins first
    /** @type {any} */
    this.heard = null;
    this.input = /** @type {GainNode} */ (/** @type {unknown} */ (null));
    this.gain = this.input;
    /** @type {AudioNode[]} */
    this.chain = [];
    /** @type {any} seconds of the audio clock; null while nothing sounds */
    this.begin = null;
    this.start = this.scheduled = 0;
    /** @type {any} */
    this.turn = null;
  }

  /** @param {number} level */
  setVolume(level) {
    this.level = level;
    if (this.gain) this.gain.gain.setTargetAtTime(level, this.context.currentTime, 0.01);
  }

  /**
   * Let only a pickup's channel and band through; everything with null.
   * @param {any} pickup
   */
  hear(pickup) {
    this.heard = pickup;
    if (this.context) this.route();
  }

  route() {
    this.input.disconnect();
    for (const node of this.chain || []) node.disconnect();
    this.chain = [];
    let last = this.input;
    const add = (/** @type {any} */ node) => {
      last.connect(node);
      this.chain.push(node);
      last = node;
    };
    if (this.heard) {
      add(this.channelNode(this.heard.channel));
      // Two second-order sections at each edge: 24 dB an octave, the Butterworth pair of Q values.
      for (const [type, hz] of [
        ["highpass", this.heard.low_hz],
        ["lowpass", this.heard.high_hz],
      ]) {
        for (const quality of [0.5412, 1.3066])
          add(
            new BiquadFilterNode(this.context, {
              type,
              frequency: Math.min(hz, RATE / 2),
              Q: 20 * Math.log10(quality),
            }),
          );
      }
    }
    last.connect(this.gain);
  }

  /**
   * One channel of the sound on both ears; mid is their mean, side half their difference.
   * @param {string} channel
   */
  channelNode(channel) {
    if (channel === "mix") return this.context.createGain();
    const entry = this.context.createGain();
    entry.channelCount = 2;
    entry.channelCountMode = "explicit";
    const split = this.context.createChannelSplitter(2);
    const sum = this.context.createGain();
    const [left, right] = CHANNEL_SHARES[channel];
    entry.connect(split);
    [left, right].forEach((level, index) => {
      const gain = new GainNode(this.context, { gain: level });
      split.connect(gain, index);
      gain.connect(sum);
    });
    // What follows is connected to the sum, though the sound goes in at the entry.
    entry.connect = (/** @type {any} */ node) => sum.connect(node);
    const part = entry.disconnect.bind(entry);
    entry.disconnect = () => {
      sum.disconnect();
      part();
    };
    return entry;
  }

  /** Frames played since `play` was called; a fraction. Zero until the first sample is due. */
  get elapsed() {
    if (!this.playing || this.begin === null) return 0;
    const heard = this.context.currentTime - (this.context.outputLatency || 0) - this.begin;
    return Math.max(0, this.clock.at(performance.now() / 1000, heard) * this.rate * this.speed);
  }

  /**
   * The project's frame that is due `elapsed` frames after the start, the loop counted in.
   * @param {number} elapsed
   */
  frameAt(elapsed) {
    const at = this.start + elapsed;
    if (!this.loop || this.start >= this.loop.last || at < this.loop.last) return at;
    const length = this.loop.last - this.loop.first;
    return this.loop.first + ((at - this.loop.first) % length);
  }

  /** The frame that is due now; a fraction while playing. */
  get now() {
    return this.playing ? Math.min(this.frameAt(this.elapsed), this.frames) : this.frame;
  }

  async play() {
    if (this.playing) return;
    if (!this.context) {
      this.context = new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
      this.gain = this.context.createGain();
      this.gain.connect(this.context.destination);
      this.input = this.context.createGain();
      this.route();
    }
    this.gain.gain.value = this.level;
    if (this.frame >= this.frames - 1) this.frame = this.loop ? this.loop.first : 0;
    this.playing = true;
    this.begin = null;
    this.clock.reset();
    this.start = this.frame;
    this.scheduled = 0; // frames that have been given to the audio clock
    const turn = (this.turn = {});
    await this.context.resume();
    await this.load(this.start);
    if (this.turn !== turn) return;
    // On a whole sample, so that neighbouring pieces meet without interpolation.
    this.begin = Math.ceil((this.context.currentTime + 0.05) * RATE) / RATE;
    this.fill(turn);
  }

  pause() {
    if (!this.playing) return;
    this.frame = Math.min(Math.floor(this.now), this.frames - 1);
    this.playing = false;
    this.turn = null;
    clearTimeout(this.timer);
    for (const source of this.sources) source.stop();
    this.sources.clear();
  }

  /** @param {number} frame */
  async seek(frame) {
    const wasPlaying = this.playing;
    this.pause();
    this.frame = Math.max(0, Math.min(Math.round(frame), this.frames - 1));
    if (wasPlaying) await this.play();
  }

  /** @param {object} turn */
  async fill(turn) {
    while (this.turn === turn && this.scheduled < this.elapsed + AHEAD_S * this.rate) {
      const frame = this.frameAt(this.scheduled);
      const wrap = this.loop && this.start < this.loop.last ? this.loop.last : this.frames;
      const count = Math.min(wrap - frame, this.rate * 0.5);
      if (count <= 0.001) break;
      const block = await this.piece(frame, count);
      if (this.turn !== turn) return;
      const when = this.begin + this.scheduled / this.rate / this.speed;
      if (block) this.schedule(block, when);
      this.scheduled += count;
    }
    if (this.turn !== turn) return;
    const looping = this.loop && this.start < this.loop.last;
    if (!looping && this.start + this.elapsed >= this.frames) {
      this.pause();
      this.frame = this.frames - 1;
      this.onEnd();
      return;
    }
    this.timer = setTimeout(() => this.fill(turn), 60);
  }

  /**
   * @param {any} block
   * @param {any} when
   */
  schedule(block, when) {
    const source = this.context.createBufferSource();
    source.buffer = block;
    source.playbackRate.value = this.speed;
    source.connect(this.input);
    const late = (this.context.currentTime - when) * this.speed;
    if (late >= block.duration) return; // too late to be heard; a source that never began can't be stopped
    source.start(Math.max(when, 0), Math.max(0, late));
    this.sources.add(source);
    source.onended = () => this.sources.delete(source);
  }

  /**
   * Sound of `count` frames from `frame` on as an AudioBuffer; null where there is none.
   * @param {number} frame
   * @param {number} count
   */
  async piece(frame, count) {
    if (!this.track) return null;
    const { inS, outS, samples, channels } = this.track;
    const first = Math.round((inS + frame / this.rate) * RATE);
    const last = Math.round((inS + (frame + count) / this.rate) * RATE);
    const end = Math.min(last, Math.round(outS * RATE), samples);
    if (end <= first) return null;
    const buffer = this.context.createBuffer(channels, last - first, RATE);
    for (let at = first; at < end;) {
      const number = Math.floor(at / BLOCK);
      const data = await this.block(number);
      const stop = Math.min(end, (number + 1) * BLOCK);
      for (let channel = 0; channel < channels; channel += 1) {
        const target = buffer.getChannelData(channel);
        for (let i = at; i < stop; i += 1)
          target[i - first] = (data[(i - number * BLOCK) * channels + channel] || 0) / 32768;
      }
      at = stop;
    }
    return buffer;
  }

  /**
   * A grain of the sound at a frame, for who moves the playhead by hand; silent until something has played, since
   * browsers let nothing sound before.
   * @param {number} frame
   */
  async grain(frame) {
    if (!this.context || this.playing || !this.track) return;
    if (this.context.currentTime < this.grainEnds) return;
    this.grainEnds = this.context.currentTime + GRAIN_S * 0.8;
    const block = await this.piece(frame, GRAIN_S * this.rate);
    if (!block || this.playing) return;
    const [begin, edge] = [this.context.currentTime, GRAIN_S / 6];
    const envelope = new GainNode(this.context, { gain: 0 });
    envelope.gain.setValueAtTime(0, begin);
    envelope.gain.linearRampToValueAtTime(1, begin + edge);
    envelope.gain.setValueAtTime(1, begin + GRAIN_S - edge);
    envelope.gain.linearRampToValueAtTime(0, begin + GRAIN_S);
    const source = new AudioBufferSourceNode(this.context, { buffer: block });
    source.connect(envelope).connect(this.input);
    source.start(begin);
    source.stop(begin + GRAIN_S);
  }

  /** @param {number} frame */
  async load(frame) {
    if (!this.track) return;
    await this.block(Math.floor(((this.track.inS + frame / this.rate) * RATE) / BLOCK));
  }

  /** @param {number} number */
  block(number) {
    const key = `${this.track.key}:${this.track.mark}:${number}`;
    if (!this.blocks.has(key)) {
      const start = number * BLOCK;
      const got =
        start >= this.track.samples
          ? Promise.resolve(new Int16Array(0))
          : ask(`${this.track.address}/pcm?start=${start}&count=${BLOCK}${this.track.query || ""}`, {
              bytes: true,
            }).then((bytes) => new Int16Array(bytes));
      got.catch(() => this.blocks.delete(key));
      this.blocks.set(key, got);
      if (this.blocks.size > KEPT_BLOCKS) this.blocks.delete(this.blocks.keys().next().value);
    }
    return this.blocks.get(key);
  }
}
