// The scene in all three shapes at once, each with what does not fit.

import { ask, unpack, refusalOf } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

export class ThreeFrames extends partWith("formats", "page", "placement", "playback", "project", "stage") {
  /** @type {any} */
  threeTurn = null;
  /** @type {Record<string, string>} */
  threeNotes = {}; // shape -> what does not fit there
  toggleThree() {
    this.formats.threeUp = !this.formats.threeUp;
    if (this.playback.playing) this.playback.toggle();
    this.page.nextTick(() => {
      this.stage.fitStage();
      this.drawThree();
      this.placement.loadHandles();
    });
  }

  /** @param {any} item */
  threeStyle(item) {
    return { aspectRatio: `${item.size[0]} / ${item.size[1]}` };
  }

  /** @param {any} item */
  threeAreas(item) {
    const [width, height] = item.size;
    return this.stage
      .overlaysIn(width, height)
      .map((area) => ({ ...area, style: this.stage.areaStyle(area, width, height) }));
  }

  /** The scene in all three shapes at the frame of the playhead, each with what does not fit. */
  async drawThree() {
    if (!this.formats.threeUp) return;
    const turn = (this.threeTurn = (this.threeTurn || 0) + 1);
    const { unsent } = this.project;
    await Promise.all(
      this.formats.shapes.map(async ({ shape, size }) => {
        const canvas = /** @type {HTMLCanvasElement} */ (document.querySelector(`canvas[data-three=${shape}]`));
        const width = Math.min(
          size[0],
          Math.max(64, Math.round((canvas.getBoundingClientRect().width || 240) * (window.devicePixelRatio || 1))),
        );
        try {
          const json = { frames: [this.playback.frame], width, form: "png", size, ...unsent };
          const [picture] = unpack(
            await ask(`/projects/${this.project.state.id}/frames`, { json, bytes: true }),
            "png",
          );
          const bitmap = await createImageBitmap(picture.blob);
          if (turn !== this.threeTurn) {
            bitmap.close();
            return;
          }
          Object.assign(canvas, { width: bitmap.width, height: bitmap.height });
          /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d")).drawImage(bitmap, 0, 0);
          bitmap.close();
          const found = await ask(`/projects/${this.project.state.id}/handles`, {
            json: { frame: this.playback.frame, size, ...unsent },
          });
          if (turn === this.threeTurn) this.threeNotes = { ...this.threeNotes, [shape]: found.misfits };
        } catch (thrown) {
          const problem = refusalOf(thrown);
          this.stage.picture.fault = problem.message;
        }
      }),
    );
  }
}
