// The time strip and the whole recording: what their canvases show.

import { playhead } from "../lib/playhead.js";
import { StudioPart } from "../lib/studio_part.js";

export class Strip extends StudioPart {
  stripSource() {
    const loop = this.studio.playback.loop
      ? {
          from: this.studio.playback.loop.first / this.studio.project.rate,
          to: this.studio.playback.loop.last / this.studio.project.rate,
          on: this.studio.playback.loop.on,
        }
      : null;
    const used = this.studio.project.track ? this.studio.trim.outS - this.studio.trim.inS : 0;
    const beats = this.studio.raw(this.studio.tempo.beatGrid.beats);
    return {
      key: this.studio.project.track ? this.studio.project.track.media : "",
      length: this.studio.project.length,
      offset: this.studio.trim.inS,
      from: 0,
      to: used,
      loop,
      handles: false,
      beats,
      beatMark: this.studio.tempo.beatMark,
      lanes:
        this.studio.lanes.lanesOn || this.studio.cueLanes.shown || this.studio.excerpts.shown
          ? []
          : this.studio.lanes.lanes,
      markers: this.studio.raw(this.studio.markers.markers),
    };
  }
  wholeSource() {
    const length = this.studio.sound.facts ? this.studio.sound.facts.duration_s : 10;
    return {
      key: this.studio.project.track ? this.studio.project.track.media : "",
      length,
      offset: 0,
      from: this.studio.trim.inS,
      to: this.studio.trim.outS,
      loop: null,
      handles: Boolean(this.studio.project.track),
    };
  }
  drawWaves() {
    const { views } = this.studio;
    views.strip.draw();
    views.whole.draw();
    views.lanesView.draw();
    views.cueLanes.draw();
    views.keyCurve.draw();
    this.followWaves();
  }
  /** All that shows the time, after the playhead or the document changed. */
  followWaves() {
    const { playback, project, trim, views, curvePanel, signals, lanes, signalCurve } = this.studio;
    const second = playback.frame / project.rate;
    Object.assign(playhead, { frame: playback.frame, frames: project.frames - 1, rate: project.rate, inS: trim.inS });
    views.strip.follow(second);
    views.whole.follow(trim.inS + second);
    signalCurve.followCurve();
    views.lanesView.follow(second, views.strip.seen);
    views.cueLanes.follow(second, views.strip.seen);
    if (curvePanel.curveOf) views.keyCurve.follow(second);
    signals.updateLive();
    lanes.readLanes();
    this.studio.excerpts.follow();
  }
  /** While it plays: nothing that reacts is touched, only the playheads move. */
  followFrame() {
    const { views } = this.studio;
    const second = playhead.frame / playhead.rate;
    views.strip.follow(second);
    views.whole.follow(playhead.inS + second);
    views.lanesView.follow(second, views.strip.seen);
    views.cueLanes.follow(second, views.strip.seen);
    views.keyCurve.follow(second);
    if (this.studio.selection.room === "sound") this.studio.signalCurve.followCurve();
  }
  zoomIn() {
    this.studio.views.strip.zoom(0.5);
    this.studio.lanes.readLanes();
    this.studio.excerpts.follow();
  }
  zoomOut() {
    this.studio.views.strip.zoom(2);
    this.studio.lanes.readLanes();
    this.studio.excerpts.follow();
  }
  zoomAll() {
    this.studio.views.strip.all();
    this.studio.lanes.readLanes();
    this.studio.excerpts.follow();
  }
  wholeIn() {
    this.studio.views.whole.zoom(0.5);
  }
  wholeOut() {
    this.studio.views.whole.zoom(2);
  }
  wholeAll() {
    this.studio.views.whole.all();
  }
  get stripText() {
    return `${this.studio.playback.clockText} of ${this.studio.playback.lengthText}`;
  }
}
