// What the server is asked for: a file of an export, from what is asked for in the Export room.

/**
 * What all files of an export have in common.
 * @param {any} asked
 * @param {number[] | null} stretch seconds from and to; null for all of it
 */
function shared(asked, stretch) {
  return {
    speed: asked.speed,
    name: asked.name,
    ...(asked.rate ? { rate: asked.rate } : {}),
    ...(stretch ? { from_s: stretch[0], to_s: stretch[1] } : {}),
    ...(asked.loudness ? { loudness: Number(asked.loudness), true_peak: Number(asked.truePeak) } : {}),
    ...(asked.fadeIn > 0 ? { fade_in: Number(asked.fadeIn) } : {}),
    ...(asked.fadeOut > 0 ? { fade_out: Number(asked.fadeOut) } : {}),
  };
}

const EVEN = 2;

/**
 * A frame with another short side, of the same shape; both sides are even.
 * @param {number[]} size
 * @param {string} short pixels; empty for the frame as it is
 */
export function sized(size, short) {
  const factor = short ? Number(short) / Math.min(...size) : 1;
  return factor === 1 ? size : size.map((side) => Math.round((side * factor) / EVEN) * EVEN);
}

/**
 * The files of one format, one a frame; sound has none.
 * @param {any} asked speed, name, sound, captions and so on
 * @param {{form: any, alpha: boolean}} chosen
 * @param {{stretch: number[] | null, now_s: number, frames: {size: number[]}[]}} of
 */
export function bodiesOf(asked, { form, alpha }, { stretch, now_s, frames }) {
  const own = {
    ...shared(asked, stretch),
    format: form.name,
    transparent: alpha ? "yes" : "no",
    captions: form.group === "sound" || (asked.captions === "inside" && !form.sound) ? "none" : asked.captions,
    seamless: asked.seamless && form.group !== "still" ? "yes" : "no",
    ...(form.many ? { moments: Number(asked.moments) } : {}),
    ...(form.sized && Number(asked.megabytes) > 0 ? { megabytes: Number(asked.megabytes) } : {}),
  };
  // A still is of the moment that is on show, where no part is chosen.
  if (form.group === "still" && !form.many && !stretch) own.from_s = now_s;
  return (form.group === "sound" ? frames.slice(0, 1) : frames).map(({ size }) => ({
    ...own,
    frame: sized(size, asked.short).join("x"),
  }));
}
