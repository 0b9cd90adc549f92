// The waveform of a sound on its way in, as far as it has been read.

import { SoundImport } from "../stores/sound_import.js";

/**
 * @param {HTMLCanvasElement} canvas
 * @param {Int16Array} values low, high and RMS of each column
 */
export function paintImport(canvas, values) {
  const context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
  const colour = (/** @type {string} */ name) =>
    getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
  const [middle, step] = [canvas.height / 2, canvas.width / (values.length / 3)];
  const y = (/** @type {any} */ value) => (value / 32767) * middle;
  context.clearRect(0, 0, canvas.width, canvas.height);
  for (let i = 0; i * 3 < values.length; i += 1) {
    const [low, high, rms] = values.subarray(i * 3, i * 3 + 3);
    context.fillStyle = colour("wave-far");
    context.fillRect(i * step, middle - y(high), step, Math.max(y(high) - y(low), 1));
    context.fillStyle = colour("wave");
    context.fillRect(i * step, middle - y(rms), step, y(rms) * 2);
  }
}

/** How a sound is brought into the studio: in place of its own, or beside it. */
export class StudioImport extends SoundImport {
  /** @param {import("../studio.js").Studio} studio */
  constructor(studio) {
    super({
      address: () => `/sounds?project=${studio.project.state.id}${studio.trackEdits.adding ? "&track=beside" : ""}`,
      brought: (_, note) => (studio.trackEdits.adding ? studio.trackEdits.brought() : studio.page.brought(note)),
      wave: (values) => paintImport(studio.page.refs.listening, values),
      taken: (files) => studio.media.dropPicture(files) || studio.trackEdits.takeDropped(files),
    });
  }
}
