// Outlines of straight lines as SVG path data: their points read, and written again.

const NUMBER = /[-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?/gi;

/**
 * The points of one closed outline of straight lines; null where the path has curves or several pieces.
 * @param {string} path
 * @returns {number[][] | null}
 */
export function outlinePoints(path) {
  if (!/^\s*M[^a-z]*(?:[LHV][^a-z]*)*z?\s*$/i.test(path) || /[a-y]/.test(path.replace(/z/gi, ""))) return null;
  const points = [];
  for (const [, command, rest] of path.matchAll(/([MLHV])([^MLHVZ]*)/gi)) {
    const values = (rest.match(NUMBER) || []).map(Number);
    const last = points[points.length - 1] || [0, 0];
    if (command === "H") values.forEach((x) => points.push([x, last[1]]));
    else if (command === "V") values.forEach((y) => points.push([last[0], y]));
    else for (let n = 0; n + 1 < values.length; n += 2) points.push([values[n], values[n + 1]]);
  }
  return points.length > 2 ? points : null;
}

/**
 * A closed outline of straight lines through points.
 * @param {number[][]} points
 */
export function outlinePath(points) {
  const told = (/** @type {any} */ [x, y]) => `${Math.round(x * 100) / 100} ${Math.round(y * 100) / 100}`;
  return `M${points.map(told).join("L")}z`;
}

/**
 * The box about points: left, top, right, bottom.
 * @param {number[][]} points
 */
export function boxOf(points) {
  const [xs, ys] = [points.map(([x]) => x), points.map(([, y]) => y)];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

/**
 * Where on an outline a point lies nearest: the number of the edge, and how far away.
 * @param {number[][]} points
 * @param {number[]} at
 */
export function nearestEdge(points, at) {
  const [x, y] = at;
  let best = { edge: 0, away: Infinity };
  points.forEach(([ax, ay], edge) => {
    const [bx, by] = points[(edge + 1) % points.length];
    const [dx, dy] = [bx - ax, by - ay];
    const share = Math.min(Math.max(((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1), 0), 1);
    const away = Math.hypot(x - ax - share * dx, y - ay - share * dy);
    if (away < best.away) best = { edge, away };
  });
  return best;
}
