// The handles of a keyframe's easing on its curve: where they stand, and what dragging one makes of the keyframes.

import { bezierText, easingHandles } from "./easing.js";
import { clamp } from "./numbers.js";

/**
 * `end` 0 at the keyframe, 1 at the next one; none for one whose easing has no handles.
 * @param {Keyframe[]} frames
 * @param {number} key
 * @returns {{end: number, time: number, value: number, from: Keyframe}[]}
 */
export function handlesOf(frames, key) {
  const [from, to] = [frames[key], frames[key + 1]];
  const numbers = from && to ? easingHandles(String(from.ease)) : null;
  if (!numbers) return [];
  const place = (/** @type {number} */ x, /** @type {number} */ y) => ({
    time: from.time_s + (to.time_s - from.time_s) * x,
    value: from.value + (to.value - from.value) * y,
  });
  return [
    { end: 0, ...place(numbers[0], numbers[1]), from },
    { end: 1, ...place(numbers[2], numbers[3]), from: to },
  ];
}

/**
 * Keyframes, one of whose easing's handles is at a time and a value.
 * @param {Keyframe[]} frames
 * @param {number} key
 * @param {number} end
 * @param {number} time
 * @param {number} value
 */
export function bentFrames(frames, key, end, time, value) {
  const moved = frames.map((/** @type {any} */ frame) => ({ ...frame }));
  const [from, to] = [moved[key], moved[key + 1]];
  const numbers = [...(easingHandles(from.ease) || [0, 0, 1, 1])];
  numbers[end * 2] = clamp((time - from.time_s) / (to.time_s - from.time_s), 0, 1);
  // Between two of one value a curve has no height that a handle could change.
  if (to.value !== from.value) numbers[end * 2 + 1] = clamp((value - from.value) / (to.value - from.value), -3, 4);
  from.ease = bezierText(numbers);
  return moved;
}
