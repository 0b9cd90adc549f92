// Points, boxes and affine maps on the picture, in pixels of the frame.

/** The eight grips of a box, from its top left clockwise: places in it, 0 to 1. */
export const SIDES = [
  [0, 0],
  [0.5, 0],
  [1, 0],
  [1, 0.5],
  [1, 1],
  [0.5, 1],
  [0, 1],
  [0, 0.5],
];

/** Which place a grip has: the one across from it stays where it is while the grip is dragged. */
export const sideOf = (/** @type {number} */ index) => SIDES[index];

/**
 * Affine maps as six numbers, row by row: a turn about a place (in radians, clockwise), a point mapped, two maps one
 * after the other, and the way back.
 * @type {{turn: (place: number[], angle: number) => number[], at: (map: number[], point: number[]) => number[],
 *   times: (m: number[], n: number[]) => number[], back: (map: number[]) => number[]}}
 */
export const affine = {
  turn: ([x, y], angle) => {
    const [c, s] = [Math.cos(angle), Math.sin(angle)];
    return [c, -s, x - c * x + s * y, s, c, y - s * x - c * y];
  },
  at: ([a, b, c, d, e, f], [x, y]) => [a * x + b * y + c, d * x + e * y + f],
  times: (m, n) => [
    m[0] * n[0] + m[1] * n[3],
    m[0] * n[1] + m[1] * n[4],
    m[0] * n[2] + m[1] * n[5] + m[2],
    m[3] * n[0] + m[4] * n[3],
    m[3] * n[1] + m[4] * n[4],
    m[3] * n[2] + m[4] * n[5] + m[5],
  ],
  back: ([a, b, c, d, e, f]) => {
    const det = a * e - b * d || 1e-12;
    const [p, q, r, s] = [e / det, -b / det, -d / det, a / det];
    return [p, q, -(p * c + q * f), r, s, -(r * c + s * f)];
  },
};

/**
 * A layer's placing as the renderer works it out: rotated, skewed and scaled about its anchor, then moved.
 * @param {Record<string, number>} values
 * @param {number[]} size of the frame
 */
export function placeMatrix(values, [width, height]) {
  const rad = (/** @type {any} */ degrees) => (degrees * Math.PI) / 180;
  const [ax, ay] = [(values.anchor_x * width) / 100, (values.anchor_y * height) / 100];
  const [c, s] = [Math.cos(rad(values.spin)), Math.sin(rad(values.spin))];
  const [p, q] = [-Math.tan(rad(values.skew_x)), Math.tan(rad(values.skew_y))];
  const [fx, fy] = [values.flip_x ? -1 : 1, values.flip_y ? -1 : 1];
  const [sx, sy] = [(values.scale_x / 100) * fx, (values.scale_y / 100) * fy];
  const linear = [(c - s * q) * sx, (c * p - s) * sy, (s + c * q) * sx, (s * p + c) * sy];
  const move = [(values.move_x * width) / 100, (values.move_y * height) / 100];
  return [
    linear[0],
    linear[1],
    ax + move[0] - linear[0] * ax - linear[1] * ay,
    linear[2],
    linear[3],
    ay + move[1] - linear[2] * ax - linear[3] * ay,
  ];
}

/**
 * The corners of a box after a map: top left, top right, bottom right, bottom left.
 * @param {number[]} place
 * @param {number[]} box left, top, right, bottom
 */
export function cornersOf(place, [left, top, right, bottom]) {
  const corners = [
    [left, top],
    [right, top],
    [right, bottom],
    [left, bottom],
  ];
  return corners.map((point) => affine.at(place, point));
}

/**
 * Left, top, right and bottom of some points.
 * @param {number[][]} points
 */
export function boundsOf(points) {
  const [xs, ys] = [points.map((point) => point[0]), points.map((point) => point[1])];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

/**
 * True for a point inside of a convex polygon, whichever way round it is given.
 * @param {number[][]} corners
 * @param {number[]} point
 */
export function inside(corners, [x, y]) {
  const sides = corners.map((corner, index) => {
    const next = corners[(index + 1) % corners.length];
    return (next[0] - corner[0]) * (y - corner[1]) - (next[1] - corner[1]) * (x - corner[0]);
  });
  return sides.every((side) => side >= -1e-6) || sides.every((side) => side <= 1e-6);
}

/**
 * The anchor of a layer at a place of its own, and the move that leaves the layer where it is; in per cent of a frame.
 * @param {number[]} own where the anchor comes to lie in the layer
 * @param {number[]} place where that is seen
 * @param {number[]} size of the frame
 */
export function anchorAt(own, place, [width, height]) {
  return {
    anchor_x: (own[0] / width) * 100,
    anchor_y: (own[1] / height) * 100,
    move_x: ((place[0] - own[0]) / width) * 100,
    move_y: ((place[1] - own[1]) / height) * 100,
  };
}
