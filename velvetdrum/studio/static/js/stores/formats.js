// The frame on show: the project's own or another shape of it; size, rate and length.

import { readClock } from "../lib/time.js";
import { readNumber } from "../lib/numbers.js";
import { StudioPart } from "../lib/studio_part.js";

const SHAPES = ["wide", "square", "tall"];

export class Formats extends StudioPart {
  viewed = null; // [width, height]: another frame than the project's own that is on show
  threeUp = false;
  get frameSize() {
    if (this.viewed) return { width: this.viewed[0], height: this.viewed[1] };
    return this.studio.project.document.frame;
  }

  /** The shape of the project's own frame, as CSS has it. */
  get ownAspect() {
    const { width, height } = this.studio.project.document.frame;
    return `${width} / ${height}`;
  }

  /** wide, square or tall, as overrides go by it. */
  get frameShape() {
    return this.shapeOf(this.frameSize);
  }
  shapeOf({ width, height }) {
    const ratio = width / height;
    return ratio > 1.2 ? "wide" : ratio < 1 / 1.2 ? "tall" : "square";
  }
  get sizeWanted() {
    return this.viewed ? { size: this.viewed } : {};
  }
  viewShape(name) {
    const own = this.studio.project.document.frame;
    const size = this.studio.given.frames[name];
    this.threeUp = false;
    // The project's own frame is shown where it has that shape.
    this.viewed = this.shapeOf(own) === name ? null : size;
    this.viewChanged();
  }
  isShape(name) {
    return !this.threeUp && this.frameShape === name;
  }
  viewChanged() {
    this.studio.settings.onlyHere = false;
    this.studio.moments.marks = {};
    this.studio.stage.fitStage();
    this.studio.views.preview.shown = -1;
    if (this.studio.playback.playing) this.studio.playback.seek(this.studio.playback.frame);
    this.studio.stage.showStill();
    this.studio.events.emit("saved");
  }
  get threeFrames() {
    return SHAPES.map((shape) => {
      const own = this.studio.project.document.frame;
      const size = this.shapeOf(own) === shape ? [own.width, own.height] : this.studio.given.frames[shape];
      return {
        shape,
        size,
        notes: this.studio.threeFrames.threeNotes[shape] || [],
        text: `${shape} ${size[0]} × ${size[1]}`,
      };
    });
  }
  /** What the project says of itself, for texts that show it. */
  get tags() {
    const tags = this.studio.project.document.tags || {};
    return this.studio.given.tags.map(({ name, title }) => ({ name, title, value: tags[name] || "" }));
  }
  setTag(name, event) {
    const value = event.target.value.trim();
    this.studio.project.edit("Set a tag", [{ op: "add", path: `/tags/${name}`, value }]);
  }
  get lengthFault() {
    return this.studio.project.faults["/length_s"] || "";
  }
  get frameFault() {
    return this.studio.project.faults["/frame"] || "";
  }
  typeLength(event) {
    const text = event.target.value.trim();
    if (text === "") {
      this.followTrack();
      return;
    }
    const value = readClock(text);
    if (value === null || value < 0.05 || value > 10800) {
      this.studio.project.faults["/length_s"] = `The length goes from 0:00.05 to 3:00:00; “${text}” is not in it.`;
      return;
    }
    delete this.studio.project.faults["/length_s"];
    this.studio.project.edit("Set the length", [{ op: "replace", path: "/length_s", value }]);
  }
  followTrack() {
    delete this.studio.project.faults["/length_s"];
    this.studio.project.edit("Length follows the sound", [{ op: "replace", path: "/length_s", value: null }]);
  }
  get frameName() {
    const { width, height } = this.studio.project.document.frame;
    const found = Object.entries(this.studio.given.frames).find(
      ([, size]) => size[0] === width && size[1] === height,
    );
    return found ? found[0] : "custom";
  }
  get frameNames() {
    return [...Object.keys(this.studio.given.frames), "custom"].map((name) => ({
      name,
      text: name === "custom" ? "custom" : `${name} ${this.studio.given.frames[name].join(" × ")}`,
    }));
  }
  get rateNames() {
    return Object.entries(this.studio.given.rates).map(([name, value]) => ({ name, value }));
  }
  pickFrame(name) {
    const size = this.studio.given.frames[name];
    if (size) this.putFrame(size[0], size[1]);
  }
  pickFrameEvent(event) {
    this.pickFrame(event.target.value);
  }
  putFrame(width, height) {
    const now = this.studio.project.document.frame;
    if (width === now.width && height === now.height) return;
    this.viewed = null;
    this.studio.project.edit(`Frame ${width} × ${height}`, [
      { op: "replace", path: "/frame", value: { width, height } },
    ]);
  }
  typeFrame(side, event) {
    const value = readNumber(event.target.value, this.studio.project.document.frame[side]);
    if (!Number.isInteger(value) || value < 64 || value > 4096 || value % 2) {
      this.studio.project.faults["/frame"] =
        `A frame's side is an even number of pixels from 64 to 4096; “${event.target.value}” is not.`;
      return;
    }
    delete this.studio.project.faults["/frame"];
    const { width, height } = this.studio.project.document.frame;
    this.putFrame(side === "width" ? value : width, side === "height" ? value : height);
  }
  isFrame(name) {
    return this.frameName === name;
  }
  pickRate(event) {
    this.studio.project.edit(`${event.target.value} frames per second`, [
      { op: "replace", path: "/rate", value: event.target.value },
    ]);
  }
  get rateName() {
    return (this.rateNames.find((item) => item.value === this.studio.project.document.rate) || {}).name;
  }
  get frameNote() {
    return `${this.studio.project.document.frame.width} × ${this.studio.project.document.frame.height}`;
  }
}
