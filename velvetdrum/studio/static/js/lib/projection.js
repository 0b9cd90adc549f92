// Points of a layer as its camera sees them: three rows of four numbers lead to pixels times depth, and depth.

const NEAR = 1e-6;

/**
 * The three rows of a layer's handle; null where it has none.
 * @param {any} handle
 */
export function projectionRows(handle) {
  const flat = (handle && handle.projection) || [];
  return flat.length === 12 ? [flat.slice(0, 4), flat.slice(4, 8), flat.slice(8)] : null;
}

const times = (/** @type {any} */ row, /** @type {number[]} */ point) =>
  row[0] * point[0] + row[1] * point[1] + row[2] * point[2] + row[3];

/**
 * Where a point is seen, and the pixels that a step of one has there; null behind the camera.
 * @param {any} rows
 * @param {number[]} point
 */
export function projected(rows, point) {
  const depth = times(rows[2], point);
  if (depth < NEAR) return null;
  const at = [times(rows[0], point) / depth, times(rows[1], point) / depth];
  const slope = [0, 1, 2].map((axis) => (rows[0][axis] - at[0] * rows[2][axis]) / depth);
  return { at, scale: Math.hypot(...slope) };
}

/**
 * X and Y of what is seen at a place in pixels and has this Z; null where the plane is seen from its edge.
 * @param {any} rows
 * @param {number[]} place
 * @param {any} z
 */
export function onPlane(rows, place, z) {
  const [a, b] = [0, 1].map((index) => {
    const way = [0, 1, 2, 3].map((column) => rows[index][column] - place[index] * rows[2][column]);
    return { x: way[0], y: way[1], rest: -(way[2] * z + way[3]) };
  });
  const area = a.x * b.y - a.y * b.x;
  const size = Math.hypot(a.x, a.y) * Math.hypot(b.x, b.y);
  if (Math.abs(area) < 1e-3 * size || !size) return null;
  const point = [(a.rest * b.y - a.y * b.rest) / area, (a.x * b.rest - a.rest * b.x) / area];
  return times(rows[2], [...point, z]) > NEAR ? point : null;
}
