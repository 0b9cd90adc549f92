// Where what is moved comes to lie by itself: at lines of the frame and of other boxes.

/**
 * Lines along one axis: the frame's ends, middle, thirds and safe margins, and the ends and middles of boxes.
 * @param {number} size of the frame along the axis
 * @param {number[][]} boxes left, top, right, bottom
 * @param {0 | 1} axis 0 across, 1 down
 */
export function linesOf(size, boxes, axis) {
  const own = [0, size / 2, size, size / 3, (size * 2) / 3, size * 0.05, size * 0.95];
  const theirs = boxes.flatMap((box) => [box[axis], (box[axis] + box[axis + 2]) / 2, box[axis + 2]]);
  return [...own, ...theirs];
}

/**
 * The line that is nearest to an edge, and how far it is; null where none is within reach.
 * @param {number[]} edges
 * @param {number} by how far they are moved
 * @param {number[]} lines
 * @param {number} reach
 */
export function nearestLine(edges, by, lines, reach) {
  let best = null;
  for (const edge of edges) {
    for (const target of lines) {
      const off = target - (edge + by);
      if (Math.abs(off) <= reach && (!best || Math.abs(off) < Math.abs(best.off) - 1e-9)) best = { off, target };
    }
  }
  return best;
}
