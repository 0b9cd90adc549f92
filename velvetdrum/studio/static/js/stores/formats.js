// The frame on show: the project's own or another shape of it; size, rate and length.

import { readClock } from "../lib/time.js";
import { readNumber } from "../lib/numbers.js";
import { partWith } from "../lib/studio_part.js";

const SHAPES = ["wide", "square", "tall"];

export class Formats extends partWith(
  "events",
  "given",
  "messages",
  "moments",
  "playback",
  "project",
  "settings",
  "stage",
  "threeFrames",
  "views",
) {
  /** @type {number[] | null} */
  viewed = null; // [width, height]: another frame than the project's own that is on show
  threeUp = false;
  get frameSize() {
    if (this.viewed) return { width: this.viewed[0], height: this.viewed[1] };
    return this.project.document.frame;
  }

  /** The shape of the project's own frame, as CSS has it. */
  get ownAspect() {
    const { width, height } = this.project.document.frame;
    return `${width} / ${height}`;
  }

  /** wide, square or tall, as overrides go by it. */
  get frameShape() {
    return this.shapeOf(this.frameSize);
  }

  /** @param {any} values */
  shapeOf({ width, height }) {
    const ratio = width / height;
    return ratio > 1.2 ? "wide" : ratio < 1 / 1.2 ? "tall" : "square";
  }

  get sizeWanted() {
    return this.viewed ? { size: this.viewed } : {};
  }

  /** @param {string} name */
  viewShape(name) {
    const own = this.project.document.frame;
    const size = this.given.frames[name];
    this.threeUp = false;
    // The project's own frame is shown where it has that shape.
    this.viewed = this.shapeOf(own) === name ? null : size;
    this.viewChanged();
  }

  /** @param {string} name */
  isShape(name) {
    return !this.threeUp && this.frameShape === name;
  }

  viewChanged() {
    this.settings.onlyHere = false;
    this.moments.marks = {};
    this.stage.fitStage();
    this.views.preview.shown = -1;
    if (this.playback.playing) this.playback.seek(this.playback.frame);
    this.stage.showStill();
    this.events.emit("saved");
  }

  get shapes() {
    return SHAPES.map((shape) => {
      const own = this.project.document.frame;
      const size = this.shapeOf(own) === shape ? [own.width, own.height] : this.given.frames[shape];
      return {
        shape,
        size,
        notes: this.threeFrames.threeNotes[shape] || [],
        text: `${shape} ${size[0]} × ${size[1]}`,
      };
    });
  }

  /** What the project says of itself, for texts that show it. */
  get tags() {
    /** @type {Record<string, string>} */
    const tags = this.project.document.tags || {};
    return this.given.tags.map(({ name, title }) => ({ name, title, value: tags[name] || "" }));
  }

  /**
   * @param {string} name
   * @param {FieldEvent} event
   */
  setTag(name, event) {
    const value = event.target.value.trim();
    this.project.edit("Set a tag", [{ op: "add", path: `/tags/${name}`, value }]);
  }

  get lengthFault() {
    return this.project.faults["/length_s"] || "";
  }

  get frameFault() {
    return this.project.faults["/frame"] || "";
  }

  /** @param {FieldEvent} event */
  typeLength(event) {
    const text = event.target.value.trim();
    if (text === "") {
      this.followTrack();
      return;
    }
    const value = readClock(text);
    if (value === null || value < 0.05 || value > 10800) {
      this.project.faults["/length_s"] = `The length goes from 0:00.05 to 3:00:00; “${text}” is not in it.`;
      return;
    }
    delete this.project.faults["/length_s"];
    this.project.edit("Set the length", [{ op: "replace", path: "/length_s", value }]);
  }

  followTrack() {
    delete this.project.faults["/length_s"];
    this.project.edit("Length follows the sound", [{ op: "replace", path: "/length_s", value: null }]);
  }

  get frameName() {
    const { width, height } = this.project.document.frame;
    const found = Object.entries(this.given.frames).find(([, size]) => size[0] === width && size[1] === height);
    return found ? found[0] : "custom";
  }

  get frameNames() {
    return [...Object.keys(this.given.frames), "custom"].map((name) => ({
      name,
      text: name === "custom" ? "custom" : `${name} ${this.given.frames[name].join(" × ")}`,
    }));
  }

  get rateNames() {
    return Object.entries(this.given.rates).map(([name, value]) => ({ name, value }));
  }

  /** @param {string} name */
  pickFrame(name) {
    const size = this.given.frames[name];
    if (size) this.putFrame(size[0], size[1]);
  }

  /** @param {FieldEvent} event */
  pickFrameEvent(event) {
    this.pickFrame(event.target.value);
  }

  /**
   * @param {number} width
   * @param {number} height
   */
  putFrame(width, height) {
    const now = this.project.document.frame;
    if (width === now.width && height === now.height) return;
    this.viewed = null;
    this.project.edit(`Frame ${width} × ${height}`, [{ op: "replace", path: "/frame", value: { width, height } }]);
  }

  /**
   * @param {"width" | "height"} side
   * @param {FieldEvent} event
   */
  typeFrame(side, event) {
    const value = readNumber(event.target.value, this.project.document.frame[side]);
    if (!Number.isInteger(value) || value < 64 || value > 4096 || value % 2) {
      this.project.faults["/frame"] =
        `A frame's side is an even number of pixels from 64 to 4096; “${event.target.value}” is not.`;
      return;
    }
    delete this.project.faults["/frame"];
    const { width, height } = this.project.document.frame;
    this.putFrame(side === "width" ? value : width, side === "height" ? value : height);
  }

  /**
   * The frame, or its rate, by a whole-number factor; what it can't be is said.
   * @param {number} factor
   */
  scaleFrame(factor) {
    const { width, height } = this.project.document.frame;
    const even = (/** @type {number} */ side) => Math.round((side * factor) / 2) * 2;
    const [wide, high] = [even(width), even(height)];
    if (Math.min(wide, high) < 64 || Math.max(wide, high) > 4096)
      this.project.faults["/frame"] = `A frame's side goes from 64 to 4096 pixels; ${wide} × ${high} is outside.`;
    else {
      delete this.project.faults["/frame"];
      this.putFrame(wide, high);
    }
  }

  /** @param {number} factor */
  scaleRate(factor) {
    const [count, parts = 1] = this.project.document.rate.split("/").map(Number);
    const same = ({ value = "" }) => {
      const [other, of = 1] = value.split("/").map(Number);
      return Math.abs(other / of - (count / parts) * factor) < 1e-9;
    };
    const rate = this.rateNames.find(same);
    if (rate) this.pickRate(/** @type {any} */ ({ target: { value: rate.value } }));
    else this.messages.tell("There is no such number of frames per second to choose.");
  }

  /** @param {string} name */
  isFrame(name) {
    return this.frameName === name;
  }

  /** @param {FieldEvent} event */
  pickRate(event) {
    this.project.edit(`${event.target.value} frames per second`, [
      { op: "replace", path: "/rate", value: event.target.value },
    ]);
  }

  get rateName() {
    return (this.rateNames.find((item) => item.value === this.project.document.rate) || {}).name;
  }

  get frameNote() {
    return `${this.project.document.frame.width} × ${this.project.document.frame.height}`;
  }
}
