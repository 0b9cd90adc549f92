// A walk along an outline: points at even distances, and the way at each.

import { edgesOf, onEdge } from "./outline_path.js";

const FINE = 64;

/**
 * So many points along an outline, the first at its beginning and the last at its end, with the angle of the way in
 * degrees, which goes on without a jump.
 * @param {import("./outline_path.js").Outline} outline
 * @param {number} count
 * @returns {{x: number, y: number, angle: number}[]}
 */
export function walkAlong(outline, count) {
  const points = edgesOf(outline).flatMap((edge, number) =>
    Array.from({ length: FINE + (number ? 0 : 1) }, (_, step) => onEdge(edge, (step + (number ? 1 : 0)) / FINE)),
  );
  const lengths = [0];
  for (let at = 1; at < points.length; at += 1)
    lengths.push(lengths[at - 1] + Math.hypot(points[at][0] - points[at - 1][0], points[at][1] - points[at - 1][1]));
  const whole = lengths[lengths.length - 1];
  const walk = [];
  let piece = 1;
  let before = 0;
  for (let number = 0; number < count; number += 1) {
    const along = (whole * number) / Math.max(count - 1, 1);
    while (piece < points.length - 1 && (lengths[piece] < along || lengths[piece] === lengths[piece - 1])) piece += 1;
    const [from, to] = [points[piece - 1], points[piece]];
    const share = Math.min(1, (along - lengths[piece - 1]) / Math.max(lengths[piece] - lengths[piece - 1], 1e-9));
    let angle = (Math.atan2(to[1] - from[1], to[0] - from[0]) * 180) / Math.PI;
    if (number) angle += 360 * Math.round((before - angle) / 360);
    before = angle;
    walk.push({ x: from[0] + (to[0] - from[0]) * share, y: from[1] + (to[1] - from[1]) * share, angle });
  }
  return walk;
}
