// What lies over a track's lane: its fades, and how far it goes down under voices.

import { clamp } from "../lib/numbers.js";

const DEEPEST_DB = 30;

/** @type {(lanes: any, context: CanvasRenderingContext2D, place: any, track: any, ...box: number[]) => any} */
export function paintFades(lanes, context, place, track, top, height, index) {
  const { inS } = lanes.view;
  const held = lanes.drag && lanes.drag.track.id === track.id ? lanes.drag.fades || {} : {};
  const [fadeIn, fadeOut] = [held.fadeIn ?? track.fadeIn, held.fadeOut ?? track.fadeOut];
  const [left, right] = [lanes.x(place.at_s - inS), lanes.x(place.at_s + place.length_s - inS)];
  const [inEnd, outBegin] = [
    lanes.x(place.at_s + fadeIn - inS),
    lanes.x(place.at_s + place.length_s - fadeOut - inS),
  ];
  context.fillStyle = lanes.colour("pit");
  context.globalAlpha = 0.6;
  for (const [corner, end] of [
    [left, inEnd],
    [right, outBegin],
  ]) {
    context.beginPath();
    context.moveTo(corner, top);
    context.lineTo(end, top);
    context.lineTo(corner, top + height);
    context.fill();
  }
  context.globalAlpha = 1;
  if (lanes.view.tracks[index].id !== lanes.view.chosen) return;
  context.fillStyle = lanes.colour("ink");
  for (const x of [inEnd, outBegin]) {
    context.beginPath();
    context.arc(clamp(x, left + 5, right - 5), top + 6, 4, 0, Math.PI * 2);
    context.fill();
  }
}

/** @type {(lanes: any, context: CanvasRenderingContext2D, track: any, place: any, ...box: number[]) => any} */
export function paintDucked(lanes, context, track, place, top, height) {
  const { gains } = lanes.view;
  const curve = gains && gains.tracks[track.id];
  if (!curve) return;
  context.strokeStyle = lanes.colour("brass");
  context.lineWidth = 1.8;
  context.beginPath();
  curve.forEach((/** @type {number} */ db, /** @type {number} */ index) => {
    const second = gains.from + (index / (curve.length - 1)) * (gains.to - gains.from);
    if (second < place.at_s || second > place.at_s + place.length_s) return;
    context.lineTo(
      lanes.x(second - lanes.view.inS),
      top + 3 + (clamp(-db, 0, DEEPEST_DB) / DEEPEST_DB) * (height - 8),
    );
  });
  context.stroke();
}
