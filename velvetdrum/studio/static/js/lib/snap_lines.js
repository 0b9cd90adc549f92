// Where what is moved comes to lie by itself: at lines of the frame, of other boxes, of guides, and at equal distances.

/**
 * A line along one axis. `edge` is the only edge that comes to lie at it: 0 the first, 0.5 the middle, 1 the last.
 * @typedef {{at: number, text: string, edge?: number}} SnapLine
 */

const SIDES = [
  ["left edge", "top edge"],
  ["right edge", "bottom edge"],
];

/**
 * Lines along one axis: the frame's ends, middle, thirds and safe margins, and the ends and middles of boxes.
 * @param {number} size of the frame along the axis
 * @param {{box: number[], name: string}[]} others boxes: left, top, right, bottom
 * @param {0 | 1} axis 0 across, 1 down
 * @returns {SnapLine[]}
 */
export function linesOf(size, others, axis) {
  const own = [
    { at: 0, text: `${SIDES[0][axis]} of the frame` },
    { at: size / 2, text: "middle of the frame" },
    { at: size, text: `${SIDES[1][axis]} of the frame` },
    { at: size / 3, text: "third of the frame" },
    { at: (size * 2) / 3, text: "third of the frame" },
    { at: size * 0.05, text: "safe margin" },
    { at: size * 0.95, text: "safe margin" },
  ];
  const theirs = others.flatMap(({ box, name }) => [
    { at: box[axis], text: `${SIDES[0][axis]} of ${name}` },
    { at: (box[axis] + box[axis + 2]) / 2, text: `middle of ${name}` },
    { at: box[axis + 2], text: `${SIDES[1][axis]} of ${name}` },
  ]);
  return [...own, ...theirs];
}

/**
 * True where two boxes share a stretch of an axis.
 * @param {number[]} one
 * @param {number[]} other
 * @param {number} axis
 */
function meet(one, other, axis) {
  return one[axis] < other[axis + 2] && other[axis] < one[axis + 2];
}

/**
 * Lines at which the gap to a neighbour is that to the other one, or that between two others.
 * @param {number[]} box what is moved
 * @param {number[][]} boxes
 * @param {0 | 1} axis
 * @returns {SnapLine[]}
 */
export function gapLinesOf(box, boxes, axis) {
  const row = boxes.filter((other) => meet(box, other, 1 - axis)).sort((a, b) => a[axis] - b[axis]);
  const lines = [];
  for (let at = 0; at + 1 < row.length; at += 1) {
    const [first, second] = [row[at], row[at + 1]];
    const gap = second[axis] - first[axis + 2];
    if (gap <= 0) continue;
    lines.push({ at: (first[axis + 2] + second[axis]) / 2, text: "equal gaps", edge: 0.5 });
    lines.push({ at: second[axis + 2] + gap, text: "equal gaps", edge: 0 });
    lines.push({ at: first[axis] - gap, text: "equal gaps", edge: 1 });
  }
  return lines;
}

/**
 * The line that is nearest to an edge, and how far it is; null where none is within reach.
 * @param {number[]} edges first, middle and last; one alone may come to lie at any line
 * @param {number} by how far they are moved
 * @param {SnapLine[]} lines
 * @param {number} reach
 */
export function nearestLine(edges, by, lines, reach) {
  let best = null;
  for (const [index, edge] of edges.entries()) {
    for (const line of lines) {
      if (line.edge !== undefined && line.edge !== index / 2) continue;
      const off = line.at - (edge + by);
      if (Math.abs(off) <= reach && (!best || Math.abs(off) < Math.abs(best.off) - 1e-9)) best = { off, line };
    }
  }
  return best;
}

/**
 * How far a box is from what is next to it on each side: another box, else the end of the frame. Each a stretch from
 * one point to another, along an axis.
 * @param {number[]} box
 * @param {number[][]} boxes
 * @param {number[]} size of the frame
 */
export function distancesOf(box, boxes, size) {
  const result = [];
  for (const axis of [0, 1]) {
    const across = (box[1 - axis] + box[3 - axis]) / 2;
    const row = boxes.filter((other) => meet(box, other, 1 - axis));
    const before = Math.max(0, ...row.map((other) => other[axis + 2]).filter((end) => end <= box[axis]));
    const after = Math.min(size[axis], ...row.map((other) => other[axis]).filter((begin) => begin >= box[axis + 2]));
    for (const [from, to] of [
      [before, box[axis]],
      [box[axis + 2], after],
    ]) {
      const point = (/** @type {number} */ along) => (axis ? [across, along] : [along, across]);
      if (to - from > 0.5) result.push({ axis, from: point(from), to: point(to), length: to - from });
    }
  }
  return result;
}
