// The frame on show: the project's own, or another shape of it; and all three shapes at once.

import { ask, unpack } from "./api.js";

const SHAPES = ["wide", "square", "tall"];

export const sizing = {
  viewed: null, // [width, height]: another frame than the project's own that is on show
  threeUp: false,
  threeNotes: {}, // shape -> what does not fit there

  get frameSize() {
    if (this.viewed) return { width: this.viewed[0], height: this.viewed[1] };
    return this.document.frame;
  },
  /** wide, square or tall, as overrides go by it. */
  get frameShape() { return this.shapeOf(this.frameSize); },
  shapeOf({ width, height }) { const ratio = width / height; return ratio > 1.2 ? "wide" : ratio < 1 / 1.2 ? "tall" : "square"; },
  get sizeWanted() { return this.viewed ? { size: this.viewed } : {}; },
  viewShape(name) {
    const own = this.document.frame;
    const size = this.given.frames[name];
    this.threeUp = false;
    // The project's own frame is shown where it has that shape.
    this.viewed = this.shapeOf(own) === name ? null : size;
    this.viewChanged();
  },
  isShape(name) { return !this.threeUp && this.frameShape === name; },
  viewChanged() {
    this.onlyHere = false;
    this.marks = {};
    this.fitStage();
    this.preview.shown = -1;
    if (this.playing) this.seek(this.frame);
    this.showStill();
    this.refresh();
  },
  toggleThree() {
    this.threeUp = !this.threeUp;
    if (this.playing) this.toggle();
    this.$nextTick(() => { this.fitStage(); this.drawThree(); this.loadHandles(); });
  },
  get threeFrames() {
    return SHAPES.map((shape) => {
      const own = this.document.frame;
      const size = this.shapeOf(own) === shape ? [own.width, own.height] : this.given.frames[shape];
      return { shape, size, notes: this.threeNotes[shape] || [], text: `${shape} ${size[0]} × ${size[1]}` };
    });
  },
  threeStyle(item) { return { aspectRatio: `${item.size[0]} / ${item.size[1]}` }; },
  threeAreas(item) {
    const [width, height] = item.size;
    return this.overlaysIn(width, height).map((area) => ({ ...area, style: this.areaStyle(area, width, height) }));
  },
  /** The scene in all three shapes at the frame of the playhead, each with what does not fit. */
  async drawThree() {
    if (!this.threeUp) return;
    const turn = (this.threeTurn = (this.threeTurn || 0) + 1);
    const unsent = this.waiting.flatMap((edit) => edit.patch);
    const draft = this.draft ? [...unsent, ...this.draft] : unsent;
    const more = draft.length ? { draft } : {};
    await Promise.all(this.threeFrames.map(async ({ shape, size }) => {
      const canvas = document.querySelector(`canvas[data-three=${shape}]`);
      const width = Math.min(size[0], Math.max(64, Math.round((canvas.getBoundingClientRect().width || 240) * (window.devicePixelRatio || 1))));
      try {
        const json = { frames: [this.frame], width, form: "png", size, ...more };
        const [picture] = unpack(await ask(`/projects/${this.state.id}/frames`, { json, bytes: true }), "png");
        const bitmap = await createImageBitmap(picture.blob);
        if (turn !== this.threeTurn) { bitmap.close(); return; }
        Object.assign(canvas, { width: bitmap.width, height: bitmap.height });
        canvas.getContext("2d").drawImage(bitmap, 0, 0);
        bitmap.close();
        const found = await ask(`/projects/${this.state.id}/handles`, { json: { frame: this.frame, size, ...more } });
        if (turn === this.threeTurn) this.threeNotes = { ...this.threeNotes, [shape]: found.misfits };
      } catch (problem) {
        this.picture.fault = problem.message;
      }
    }));
  },
};
