// The picture on the stage: fitted, drawn, blamed, with guides over it.

import { playhead } from "../lib/playhead.js";
import { partWith } from "../lib/studio_part.js";

export class StageView extends partWith(
  "cameraGrips",
  "closeView",
  "formats",
  "given",
  "page",
  "outlines",
  "placement",
  "playback",
  "project",
  "readings",
  "selection",
  "stageText",
  "threeFrames",
  "views",
) {
  guides = "off";
  /** @type {number | null} */
  looked = null; // a frame that is shown in place of the playhead's, while an end of a lane is dragged
  picture = { width: 0, height: 0, rate: null, fault: "" };
  /** @type {Record<string, string>} */
  layerFaults = {}; // id of a layer -> why it could not be drawn
  get sizeText() {
    const { width, height, rate } = this.picture;
    if (!width) return "";
    const size = `${width} × ${height}`;
    return rate ? `${size} · ${Math.round(rate * 100) / 100} frames/s` : size;
  }

  get description() {
    const { selection, placement } = this;
    if (!selection.layer) return "The picture. Choose a layer to place it.";
    const name = selection.selectedText || selection.layer.name;
    if (this.cameraGrips.layer)
      return `${name}: drag to go round, roll the wheel to come nearer; so do arrows, and Alt with arrows.`;
    return `${name} on the picture. ${placement.gripNote}. Arrows nudge, Alt and arrows scale and rotate.`;
  }

  /** @param {{ x: number; y: number; width: number; height: number }} area */
  overlayStyle(area) {
    return this.areaStyle(area, this.formats.frameSize.width, this.formats.frameSize.height);
  }

  /**
   * @param {{ x: number; y: number; width: number; height: number }} area
   * @param {number} width
   * @param {number} height
   */
  areaStyle(area, width, height) {
    const part = (/** @type {any} */ value, /** @type {number} */ whole) => `${(value / whole) * 100}%`;
    return {
      left: part(area.x, width),
      top: part(area.y, height),
      width: part(area.width, width),
      height: part(area.height, height),
    };
  }

  fitStage() {
    const box = this.page.refs.stage.getBoundingClientRect();
    const { width, height } = this.formats.frameSize;
    const closer = this.closeView.scale / (window.devicePixelRatio || 1);
    const scale = closer || Math.min(box.width / width, box.height / height);
    this.page.refs.fit.style.width = `${Math.floor(width * scale)}px`;
    this.page.refs.fit.style.height = `${Math.floor(height * scale)}px`;
    this.views.rulers.draw();
    this.views.handlesView.draw();
  }

  showStill() {
    if (this.playback.playing) return;
    if (this.formats.threeUp) {
      this.threeFrames.drawThree();
      return;
    }
    this.views.preview.still(this.looked ?? this.playback.frame, this.project.unsent);
  }

  /** The playhead is on its way: what it passes, unless there is more to show than the document as it is kept. */
  passBy() {
    const { project, formats, views, playback } = this;
    if (project.draft || project.waiting.length || formats.threeUp) this.showStill();
    else views.preview.pass(playback.frame);
  }

  /** @param {any} shown */
  pictureShown(shown) {
    if (shown.problems) {
      for (const path of this.project.draftFaults) delete this.project.faults[path];
      this.project.draftFaults = this.project.draft ? shown.problems.map((/** @type {any} */ { path }) => path) : [];
      if (this.project.draftFaults.length)
        for (const { path, sentence } of shown.problems) this.project.faults[path] = sentence;
    }
    if (shown.layers) this.blameLayers(shown.layers);
    if (shown.fault !== undefined && shown.fault !== this.picture.fault) this.picture.fault = shown.fault;
    if (shown.width) {
      if (shown.width !== this.picture.width || shown.height !== this.picture.height)
        Object.assign(this.picture, { width: shown.width, height: shown.height });
      if (shown.rate !== this.picture.rate) this.picture.rate = shown.rate;
      if (!this.playback.playing && !this.placement.grip && !shown.passing) this.placement.askHandles();
      if (!this.playback.playing && !shown.passing) this.readings.later();
    }
    if (this.playback.playing) {
      const frame = Math.min(Math.floor(this.views.player.now), playhead.frames);
      if (frame !== playhead.frame) this.playback.movePlayhead(frame);
    }
  }

  /**
   * Layers that could not be drawn, each with the reason beside it.
   * @param {any} problems
   */
  blameLayers(problems) {
    const found = problems
      .map((/** @type {any} */ { path, sentence }) => [/^\/layers\/(\d+)$/.exec(path), sentence])
      .filter((/** @type {any} */ [place]) => place);
    if (!found.length && !Object.keys(this.layerFaults).length) return;
    this.layerFaults = Object.fromEntries(
      found.map((/** @type {any} */ [place, sentence]) => [
        (this.project.document.layers[place[1]] || {}).id,
        sentence,
      ]),
    );
  }

  /**
   * A corner more on an open outline, or else typing on a text.
   * @param {PressEvent} event
   */
  doubleClick(event) {
    if (!this.outlines.addPoint(this.views.handlesView.point(event))) this.stageText.open();
  }

  nextGuides() {
    this.guides = /** @type {Record<string, string>} */ ({ off: "safe", safe: "channel", channel: "off" })[
      this.guides
    ];
  }

  get guidesText() {
    return { off: "guides", safe: "safe areas", channel: "channel areas" }[this.guides];
  }

  get guidesBox() {
    return `0 0 ${this.formats.frameSize.width} ${this.formats.frameSize.height}`;
  }

  /**
   * EBU R 95: action within 3.5 %, graphics within 5 % of each edge.
   * @param {any} part
   */
  inset(part) {
    const { width, height } = this.formats.frameSize;
    return {
      x: width * part,
      y: height * part,
      width: width * (1 - 2 * part),
      height: height * (1 - 2 * part),
    };
  }

  /** Where channels usually lay their own words and buttons over a video of this shape. */
  get overlays() {
    return this.overlaysIn(this.formats.frameSize.width, this.formats.frameSize.height);
  }

  /**
   * @param {number} width
   * @param {number} height
   */
  overlaysIn(width, height) {
    return this.given.areas[this.formats.shapeOf({ width, height })].map(([x, y, w, h], id) => ({
      id,
      x: x * width,
      y: y * height,
      width: w * width,
      height: h * height,
    }));
  }

  fullScreen() {
    if (document.fullscreenElement) document.exitFullscreen();
    else this.page.refs.stage.requestFullscreen();
  }
}
