// The picture on the stage: fitted, drawn, blamed, with guides over it.

import { playhead } from "../lib/playhead.js";
import { StudioPart } from "../lib/studio_part.js";

export class StageView extends StudioPart {
  guides = "off";
  picture = { width: 0, height: 0, rate: null, fault: "" };
  layerFaults = {}; // id of a layer -> why it could not be drawn
  get sizeText() {
    const { width, height, rate } = this.picture;
    if (!width) return "";
    const size = `${width} × ${height}`;
    return rate ? `${size} · ${Math.round(rate * 100) / 100} frames/s` : size;
  }
  get stageText() {
    const { selection, placement } = this.studio;
    if (!selection.layer) return "The picture. Choose a layer to place it.";
    const name = selection.selectedText || selection.layer.name;
    if (this.studio.cameraGrips.layer)
      return `${name}: drag to go round, roll the wheel to come nearer; so do arrows, and Alt with arrows.`;
    return `${name} on the picture. ${placement.gripNote}. Arrows nudge, Alt and arrows scale and rotate.`;
  }
  overlayStyle(area) {
    return this.areaStyle(area, this.studio.formats.frameSize.width, this.studio.formats.frameSize.height);
  }
  areaStyle(area, width, height) {
    const part = (value, whole) => `${(value / whole) * 100}%`;
    return {
      left: part(area.x, width),
      top: part(area.y, height),
      width: part(area.width, width),
      height: part(area.height, height),
    };
  }
  fitStage() {
    const box = this.studio.page.refs.stage.getBoundingClientRect();
    const { width, height } = this.studio.formats.frameSize;
    const scale = Math.min(box.width / width, box.height / height);
    this.studio.page.refs.fit.style.width = `${Math.floor(width * scale)}px`;
    this.studio.page.refs.fit.style.height = `${Math.floor(height * scale)}px`;
    this.studio.views.handlesView.draw();
  }
  showStill() {
    if (this.studio.playback.playing) return;
    if (this.studio.formats.threeUp) {
      this.studio.threeFrames.drawThree();
      return;
    }
    const unsent = this.studio.project.waiting.flatMap((edit) => edit.patch);
    this.studio.views.preview.still(
      this.studio.playback.frame,
      this.studio.project.draft ? [...unsent, ...this.studio.project.draft] : unsent.length ? unsent : null,
    );
  }
  /** The playhead is on its way: what it passes, unless there is more to show than the document as it is kept. */
  passBy() {
    const { project, formats, views, playback } = this.studio;
    if (project.draft || project.waiting.length || formats.threeUp) this.showStill();
    else views.preview.pass(playback.frame);
  }
  pictureShown(shown) {
    if (shown.problems) {
      for (const path of this.studio.project.draftFaults) delete this.studio.project.faults[path];
      this.studio.project.draftFaults = this.studio.project.draft ? shown.problems.map(({ path }) => path) : [];
      if (this.studio.project.draftFaults.length)
        for (const { path, sentence } of shown.problems) this.studio.project.faults[path] = sentence;
    }
    if (shown.layers) this.blameLayers(shown.layers);
    if (shown.fault !== undefined && shown.fault !== this.picture.fault) this.picture.fault = shown.fault;
    if (shown.width) {
      if (shown.width !== this.picture.width || shown.height !== this.picture.height)
        Object.assign(this.picture, { width: shown.width, height: shown.height });
      if (shown.rate !== this.picture.rate) this.picture.rate = shown.rate;
      if (!this.studio.playback.playing && !this.studio.placement.grip && !shown.passing)
        this.studio.placement.askHandles();
      if (!this.studio.playback.playing && !shown.passing) this.studio.readings.later();
    }
    if (this.studio.playback.playing) {
      const frame = Math.min(Math.floor(this.studio.views.player.now), playhead.frames);
      if (frame !== playhead.frame) this.studio.playback.movePlayhead(frame);
    }
  }
  /** Layers that could not be drawn, each with the reason beside it. */
  blameLayers(problems) {
    const found = problems
      .map(({ path, sentence }) => [/^\/layers\/(\d+)$/.exec(path), sentence])
      .filter(([place]) => place);
    if (!found.length && !Object.keys(this.layerFaults).length) return;
    this.layerFaults = Object.fromEntries(
      found.map(([place, sentence]) => [(this.studio.project.document.layers[place[1]] || {}).id, sentence]),
    );
  }
  /** A corner more on an open outline, or else typing on a text. */
  doubleClick(event) {
    if (!this.studio.partPoints.addCorner(this.studio.views.handlesView.point(event))) this.studio.stageText.open();
  }
  nextGuides() {
    this.guides = { off: "safe", safe: "channel", channel: "off" }[this.guides];
  }
  get guidesText() {
    return { off: "guides", safe: "safe areas", channel: "channel areas" }[this.guides];
  }
  get guidesBox() {
    return `0 0 ${this.studio.formats.frameSize.width} ${this.studio.formats.frameSize.height}`;
  }
  /** EBU R 95: action within 3.5 %, graphics within 5 % of each edge. */
  inset(part) {
    const { width, height } = this.studio.formats.frameSize;
    return {
      x: width * part,
      y: height * part,
      width: width * (1 - 2 * part),
      height: height * (1 - 2 * part),
    };
  }
  /** Where channels usually lay their own words and buttons over a video of this shape. */
  get overlays() {
    return this.overlaysIn(this.studio.formats.frameSize.width, this.studio.formats.frameSize.height);
  }
  overlaysIn(width, height) {
    return this.studio.given.areas[this.studio.formats.shapeOf({ width, height })].map(([x, y, w, h], id) => ({
      id,
      x: x * width,
      y: y * height,
      width: w * width,
      height: h * height,
    }));
  }
  fullScreen() {
    if (document.fullscreenElement) document.exitFullscreen();
    else this.studio.page.refs.stage.requestFullscreen();
  }
}
