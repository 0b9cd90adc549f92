// The time strip and the whole recording: what their canvases show.

import { playhead } from "../lib/playhead.js";
import { partWith } from "../lib/studio_part.js";

export class Strip extends partWith(
  "beatMoves",
  "cueLanes",
  "curvePanel",
  "excerpts",
  "lanes",
  "markers",
  "playback",
  "project",
  "raw",
  "selection",
  "signalCurve",
  "signals",
  "sound",
  "tempo",
  "trim",
  "views",
) {
  stripSource() {
    const loop = this.playback.loop
      ? {
          from: this.playback.loop.first / this.project.rate,
          to: this.playback.loop.last / this.project.rate,
          on: this.playback.loop.on,
        }
      : null;
    const used = this.project.track ? this.trim.outS - this.trim.inS : 0;
    const beats = this.raw(this.tempo.beatGrid.beats);
    return {
      key: this.project.track ? this.project.track.media : "",
      length: this.project.length,
      offset: this.trim.inS,
      from: 0,
      to: used,
      loop,
      handles: false,
      beats,
      beatMark: this.tempo.beatMark,
      lanes: this.lanes.lanesOn || this.cueLanes.shown || this.excerpts.shown ? [] : this.lanes.lanes,
      markers: this.raw(this.markers.markers),
    };
  }

  wholeSource() {
    const length = this.sound.facts ? this.sound.facts.duration_s : 10;
    return {
      key: this.project.track ? this.project.track.media : "",
      length,
      offset: 0,
      from: this.trim.inS,
      to: this.trim.outS,
      loop: null,
      handles: Boolean(this.project.track),
      beats: this.beatMoves.shown,
      beatMark: `${this.tempo.beatMark}:${JSON.stringify(this.beatMoves.draft)}`,
      grips: true,
    };
  }

  drawWaves() {
    const { views } = this;
    views.strip.draw();
    views.whole.draw();
    views.lanesView.draw();
    views.cueLanes.draw();
    views.trackLanes.draw();
    views.levelMeters.draw();
    views.keyCurve.draw();
    this.followWaves();
  }

  /** All that shows the time, after the playhead or the document changed. */
  followWaves() {
    const { playback, project, trim, views, curvePanel, signals, lanes, signalCurve } = this;
    const second = playback.frame / project.rate;
    Object.assign(playhead, { frame: playback.frame, frames: project.frames - 1, rate: project.rate, inS: trim.inS });
    views.strip.follow(second);
    views.whole.follow(trim.inS + second);
    signalCurve.followCurve();
    views.lanesView.follow(second, views.strip.seen);
    views.cueLanes.follow(second, views.strip.seen);
    views.trackLanes.follow(second, views.strip.seen);
    views.levelMeters.follow(second);
    if (curvePanel.curveOf) views.keyCurve.follow(second);
    signals.updateLive();
    lanes.readLanes();
    this.excerpts.follow();
  }

  /** While it plays: nothing that reacts is touched, only the playheads move. */
  followFrame() {
    const { views } = this;
    const second = playhead.frame / playhead.rate;
    views.strip.follow(second);
    views.whole.follow(playhead.inS + second);
    views.lanesView.follow(second, views.strip.seen);
    views.cueLanes.follow(second, views.strip.seen);
    views.trackLanes.follow(second, views.strip.seen);
    views.levelMeters.follow(second);
    views.keyCurve.follow(second);
    if (this.selection.room === "sound") this.signalCurve.followCurve();
  }

  zoomIn() {
    this.views.strip.zoom(0.5);
    this.lanes.readLanes();
    this.excerpts.follow();
  }

  zoomOut() {
    this.views.strip.zoom(2);
    this.lanes.readLanes();
    this.excerpts.follow();
  }

  zoomAll() {
    this.views.strip.all();
    this.lanes.readLanes();
    this.excerpts.follow();
  }

  wholeIn() {
    this.views.whole.zoom(0.5);
  }

  wholeOut() {
    this.views.whole.zoom(2);
  }

  wholeAll() {
    this.views.whole.all();
  }

  get stripText() {
    return `${this.playback.clockText} of ${this.playback.lengthText}`;
  }
}
