// Values between keyframes, as the renderer works them out.

import { eased } from "./easing.js";
import { typeOf } from "./setting_type.js";

/**
 * The value of a list of keyframes at a time; null for a gradient, whose mixing is the renderer's.
 * @param {Setting} setting
 * @param {Keyframe[]} frames
 * @param {number} time
 */
export function keyedValue(setting, frames, time) {
  const after = frames.findIndex((frame) => frame.time_s > time + 1e-6);
  if (after === 0) return frames[0].value;
  if (after < 0) return frames[frames.length - 1].value;
  const [before, following] = [frames[after - 1], frames[after]];
  const part = eased(before.ease || "linear", (time - before.time_s) / (following.time_s - before.time_s));
  return typeOf(setting).mixed(before.value, following.value, part, setting);
}
