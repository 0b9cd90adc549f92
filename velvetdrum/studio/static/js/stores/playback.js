// Playing, seeking, looping, volume.

import { timecode } from "../lib/quantities.js";
import { clock } from "../lib/time.js";
import { playhead } from "../lib/playhead.js";
import { partWith } from "../lib/studio_part.js";

const TOLD_MS = 90;

export class Playback extends partWith("events", "project", "tempo", "views") {
  frame = 0;
  playing = false;
  volume = 1;
  muted = false;
  /** @type {any} */
  loop = null; // {first, last, on}
  speed = 1;

  /**
   * Play at half or double the speed, sound and picture alike; the same again goes back to their own.
   * @param {number} speed
   */
  setSpeed(speed) {
    this.speed = this.speed === speed ? 1 : speed;
    this.views.player.speed = this.speed;
    if (this.playing) this.seek(this.frame);
  }

  async toggle() {
    if (this.playing) {
      this.views.player.pause();
      this.stopped();
      return;
    }
    this.views.player.frame = this.frame;
    this.playing = true;
    this.events.emit("play");
    await this.views.player.play();
    if (this.views.player.playing) this.views.preview.play(this.views.player);
  }

  stopped() {
    this.views.preview.stop();
    this.playing = false;
    this.frame = this.views.player.frame;
    this.events.emit("stopped");
  }

  /** @param {number} frame */
  async seek(frame) {
    const target = Math.max(0, Math.min(Math.round(frame), this.project.frames - 1));
    const was = this.playing;
    if (!was && target !== this.frame) this.views.player.grain(target);
    if (was) this.views.preview.stop();
    this.views.player.pause();
    this.views.player.frame = this.frame = target;
    this.events.emit("seek");
    if (was) {
      this.playing = true;
      await this.views.player.play();
      if (this.views.player.playing) this.views.preview.play(this.views.player);
    } else {
      this.events.emit("rest");
    }
  }

  stepBack() {
    this.seek(this.frame - 1);
  }

  stepOn() {
    this.seek(this.frame + 1);
  }

  /** @param {FieldEvent} event */
  setVolume(event) {
    this.volume = Number(event.target.value);
    this.muted = false;
    this.views.player.setVolume(this.volume ** 2);
  }

  toggleMute() {
    this.muted = !this.muted;
    this.views.player.setVolume(this.muted ? 0 : this.volume ** 2);
  }

  /**
   * A loop between two seconds, three frames long at the least.
   * @param {number} from
   * @param {number} to
   */
  setLoop(from, to) {
    const { project, tempo } = this;
    const at = (/** @type {number} */ second) => Math.round(tempo.snapped(second) * project.rate);
    const first = Math.max(0, Math.min(at(from), project.frames - 3));
    const last = Math.min(project.frames, Math.max(first + 3, at(to)));
    this.loop = { first, last, on: true };
    this.applyLoop();
  }

  toggleLoop() {
    if (!this.loop) {
      const first = Math.min(this.frame, Math.max(0, this.project.frames - 3));
      this.loop = {
        first,
        last: Math.min(this.project.frames, first + Math.round(4 * this.project.rate)),
        on: true,
      };
    } else this.loop = { ...this.loop, on: !this.loop.on };
    this.applyLoop();
  }

  clearLoop() {
    this.loop = null;
    this.applyLoop();
  }

  get looping() {
    return Boolean(this.loop && this.loop.on);
  }

  get loopText() {
    if (!this.loop) return "loop";
    return `loop ${((this.loop.last - this.loop.first) / this.project.rate).toFixed(1)} s`;
  }

  applyLoop() {
    this.views.player.loop = this.looping ? { first: this.loop.first, last: this.loop.last } : null;
    if (this.playing) this.seek(this.looping && this.frame >= this.loop.last ? this.loop.first : this.frame);
    this.events.emit("loop");
  }

  get clockText() {
    return clock(this.frame / this.project.rate);
  }

  get timecode() {
    return timecode(this.frame, this.project.rate);
  }

  /** Frame, and bar and beat where there are beats. */
  get placeText() {
    const { beats } = this.tempo.beatGrid;
    const second = this.frame / this.project.rate;
    let [bar, beat] = [0, 0];
    for (const [time, first] of beats) {
      if (time > second + 1e-6) break;
      if (first) bar += 1;
      beat = first ? 1 : beat + 1;
    }
    const place = beat ? ` · bar ${bar}.${beat}` : "";
    const speed = this.speed === 1 ? "" : ` · ${this.speed} ×`;
    return `frame ${this.frame}${place}${speed}`;
  }

  get lengthText() {
    return clock(this.project.length);
  }

  /** @param {number} seconds */
  time(seconds) {
    return clock(seconds);
  }

  /**
   * While it plays: canvases follow each frame; what reacts to the frame hears of it a few times a second.
   * @param {number} frame
   */
  movePlayhead(frame) {
    playhead.frame = frame;
    this.events.emit("frame", frame);
    const at = performance.now();
    if (at - playhead.told < TOLD_MS) return;
    playhead.told = at;
    this.frame = frame;
    this.events.emit("frame-told");
  }

  /** The frame that is on show, for what somebody does while it plays. */
  settle() {
    if (this.playing) this.frame = playhead.frame;
  }
}
