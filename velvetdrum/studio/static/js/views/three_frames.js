// The scene in all three shapes at once, each with what does not fit.

import { ask, unpack } from "../lib/api.js";
import { StudioPart } from "../lib/studio_part.js";

export class ThreeFrames extends StudioPart {
  threeTurn = null;
  threeNotes = {}; // shape -> what does not fit there
  toggleThree() {
    this.studio.formats.threeUp = !this.studio.formats.threeUp;
    if (this.studio.playback.playing) this.studio.playback.toggle();
    this.studio.page.nextTick(() => {
      this.studio.stage.fitStage();
      this.drawThree();
      this.studio.placement.loadHandles();
    });
  }
  threeStyle(item) {
    return { aspectRatio: `${item.size[0]} / ${item.size[1]}` };
  }
  threeAreas(item) {
    const [width, height] = item.size;
    return this.studio.stage
      .overlaysIn(width, height)
      .map((area) => ({ ...area, style: this.studio.stage.areaStyle(area, width, height) }));
  }
  /** The scene in all three shapes at the frame of the playhead, each with what does not fit. */
  async drawThree() {
    if (!this.studio.formats.threeUp) return;
    const turn = (this.threeTurn = (this.threeTurn || 0) + 1);
    const unsent = this.studio.project.waiting.flatMap((edit) => edit.patch);
    const draft = this.studio.project.draft ? [...unsent, ...this.studio.project.draft] : unsent;
    const more = draft.length ? { draft } : {};
    await Promise.all(
      this.studio.formats.threeFrames.map(async ({ shape, size }) => {
        /** @type {HTMLCanvasElement} */
        const canvas = document.querySelector(`canvas[data-three=${shape}]`);
        const width = Math.min(
          size[0],
          Math.max(64, Math.round((canvas.getBoundingClientRect().width || 240) * (window.devicePixelRatio || 1))),
        );
        try {
          const json = { frames: [this.studio.playback.frame], width, form: "png", size, ...more };
          const [picture] = unpack(
            await ask(`/projects/${this.studio.project.state.id}/frames`, { json, bytes: true }),
            "png",
          );
          const bitmap = await createImageBitmap(picture.blob);
          if (turn !== this.threeTurn) {
            bitmap.close();
            return;
          }
          Object.assign(canvas, { width: bitmap.width, height: bitmap.height });
          canvas.getContext("2d").drawImage(bitmap, 0, 0);
          bitmap.close();
          const found = await ask(`/projects/${this.studio.project.state.id}/handles`, {
            json: { frame: this.studio.playback.frame, size, ...more },
          });
          if (turn === this.threeTurn) this.threeNotes = { ...this.threeNotes, [shape]: found.misfits };
        } catch (problem) {
          this.studio.stage.picture.fault = problem.message;
        }
      }),
    );
  }
}
