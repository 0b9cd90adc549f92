// What is done to outlines by hand: points added, moved, turned, taken away; strokes made simple. All give new ones.

import { nearestEdge } from "./outline_path.js";

/** @typedef {import("./outline_path.js").Anchor} Anchor */
/** @typedef {import("./outline_path.js").Outline} Outline */

// How far the handles of a smooth point reach, of the way between its neighbours (Catmull and Rom 1974).
const SMOOTH = 1 / 6;

const between = (/** @type {number[]} */ a, /** @type {number[]} */ b, /** @type {number} */ t) => [
  a[0] + (b[0] - a[0]) * t,
  a[1] + (b[1] - a[1]) * t,
];

/**
 * A point more on an edge; the outline keeps its form (de Casteljau).
 * @param {Outline} outline
 * @param {number} edge
 * @param {number} t
 * @returns {Outline}
 */
export function splitEdge(outline, edge, t) {
  const anchors = outline.anchors.map((anchor) => ({ ...anchor }));
  const [from, to] = [anchors[edge], anchors[(edge + 1) % anchors.length]];
  /** @type {Anchor} */
  let middle = { at: between(from.at, to.at, t), in: null, out: null };
  if (from.out || to.in) {
    const [b, c] = [from.out || from.at, to.in || to.at];
    const [ab, bc, cd] = [between(from.at, b, t), between(b, c, t), between(c, to.at, t)];
    const [abc, bcd] = [between(ab, bc, t), between(bc, cd, t)];
    middle = { at: between(abc, bcd, t), in: abc, out: bcd };
    from.out = ab;
    to.in = cd;
  }
  anchors.splice(edge + 1, 0, middle);
  return { ...outline, anchors };
}

/**
 * A point with its handles at another place.
 * @param {Outline} outline
 * @param {number} index
 * @param {number[]} at
 * @returns {Outline}
 */
export function withPoint(outline, index, at) {
  const anchor = outline.anchors[index];
  const by = [at[0] - anchor.at[0], at[1] - anchor.at[1]];
  const shifted = (/** @type {number[] | null} */ point) => point && [point[0] + by[0], point[1] + by[1]];
  return withAnchor(outline, index, { at, in: shifted(anchor.in), out: shifted(anchor.out) });
}

/**
 * A handle at another place; the other one of the point turns with it, or stays where it is.
 * @param {Outline} outline
 * @param {number} index
 * @param {"in" | "out"} which
 * @param {number[]} at
 * @param {boolean} alone
 * @returns {Outline}
 */
export function withHandle(outline, index, which, at, alone) {
  const anchor = outline.anchors[index];
  const other = which === "in" ? "out" : "in";
  const opposite = anchor[other];
  let turned = opposite;
  if (!alone && opposite) {
    const away = [anchor.at[0] - at[0], anchor.at[1] - at[1]];
    const length = Math.hypot(away[0], away[1]) || 1;
    const far = Math.hypot(opposite[0] - anchor.at[0], opposite[1] - anchor.at[1]);
    turned = [anchor.at[0] + (away[0] / length) * far, anchor.at[1] + (away[1] / length) * far];
  }
  return withAnchor(outline, index, /** @type {Anchor} */ ({ at: anchor.at, [which]: at, [other]: turned }));
}

/**
 * @param {Outline} outline
 * @param {number} index
 * @param {Anchor} anchor
 * @returns {Outline}
 */
function withAnchor(outline, index, anchor) {
  return { ...outline, anchors: outline.anchors.map((other, number) => (number === index ? anchor : other)) };
}

/**
 * Without a point; the same outline where too few would be left.
 * @param {Outline} outline
 * @param {number} index
 * @returns {Outline}
 */
export function withoutPoint(outline, index) {
  if (outline.anchors.length <= (outline.closed ? 3 : 2)) return outline;
  return { ...outline, anchors: outline.anchors.filter((_, number) => number !== index) };
}

/**
 * A corner becomes smooth, with handles along the way between its neighbours; a smooth point becomes a corner.
 * @param {Outline} outline
 * @param {number} index
 * @returns {Outline}
 */
export function turnedPoint(outline, index) {
  const { anchors, closed } = outline;
  const { at, in: before, out } = anchors[index];
  if (before || out) return withAnchor(outline, index, { at, in: null, out: null });
  const count = anchors.length;
  const neighbour = (/** @type {number} */ by) => {
    const place = index + by;
    return closed ? anchors[(place + count) % count].at : (anchors[place] || anchors[index]).at;
  };
  const [a, b] = [neighbour(-1), neighbour(1)];
  const by = [(b[0] - a[0]) * SMOOTH, (b[1] - a[1]) * SMOOTH];
  return withAnchor(outline, index, {
    at,
    in: [at[0] - by[0], at[1] - by[1]],
    out: [at[0] + by[0], at[1] + by[1]],
  });
}

/**
 * The same outline, drawn the other way.
 * @param {Outline} outline
 * @returns {Outline}
 */
export function reversed({ anchors, closed }) {
  return {
    closed,
    anchors: [...anchors].reverse().map((anchor) => ({ at: anchor.at, in: anchor.out, out: anchor.in })),
  };
}

/**
 * A stroke drawn by hand as few smooth points: those that it takes to stay within a distance of it (Douglas and Peucker
 * 1973), with handles along the way between their neighbours.
 * @param {number[][]} points
 * @param {number} within
 * @param {boolean} closed
 * @returns {Outline}
 */
export function simplified(points, within, closed) {
  const kept = thinned(points, within);
  /** @type {Outline} */
  let outline = { closed, anchors: kept.map((at) => ({ at, in: null, out: null })) };
  for (let n = 0; n < kept.length; n += 1) outline = turnedPoint(outline, n);
  return outline;
}

/**
 * @param {number[][]} points
 * @param {number} within
 * @returns {number[][]}
 */
function thinned(points, within) {
  const keep = new Set([0, points.length - 1]);
  const spans = [[0, points.length - 1]];
  while (spans.length) {
    const [first, last] = /** @type {number[]} */ (spans.pop());
    const line = { closed: false, anchors: [points[first], points[last]].map((at) => ({ at, in: null, out: null })) };
    let [far, place] = [within, -1];
    for (let n = first + 1; n < last; n += 1) {
      const { away } = nearestEdge(line, points[n]);
      if (away > far) [far, place] = [away, n];
    }
    if (place < 0) continue;
    keep.add(place);
    spans.push([first, place], [place, last]);
  }
  return points.filter((_, index) => keep.has(index));
}
