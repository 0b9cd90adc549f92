// Outlines that are handled point by point, as SVG path data: straight edges and cubic curves, read and written again.

const COMMAND = /([MLHVCZ])([^MLHVCZ]*)/gi;
const NUMBER = /[-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?/gi;
const MOST = 120; // points that can be handled; what has more is edited as text
const EDGE_STEPS = 24;

/** @typedef {{ at: number[], in: number[] | null, out: number[] | null }} Anchor handles before and after the point */
/** @typedef {{ anchors: Anchor[], closed: boolean }} Outline */

/**
 * One outline of straight edges and cubic curves; null where the path has other commands, several pieces or too many
 * points.
 * @param {string} path
 * @returns {Outline | null}
 */
export function readOutline(path) {
  if (!/^\s*m/i.test(path) || /[a-z]/i.test(path.replace(/[MLHVCZ]|\de[-+]?\d/gi, ""))) return null;
  /** @type {Anchor[]} */
  const anchors = [];
  let closed = false;
  for (const [, command, rest] of path.matchAll(COMMAND)) {
    const values = (rest.match(NUMBER) || []).map(Number);
    const last = anchors.length ? anchors[anchors.length - 1].at : [0, 0];
    const base = command >= "a" ? last : [0, 0];
    if (closed || (/m/i.test(command) && anchors.length)) return null;
    if (/z/i.test(command)) closed = true;
    else if (!placed(command.toUpperCase(), values, base, command >= "a", anchors)) return null;
    if (anchors.length > MOST) return null;
  }
  return anchors.length > 1 ? { anchors: joined(anchors, closed), closed } : null;
}

/**
 * The points of one command; false where its numbers do not fit.
 * @param {string} command
 * @param {number[]} values
 * @param {number[]} base what they are counted from
 * @param {boolean} relative
 * @param {Anchor[]} anchors
 */
function placed(command, values, base, relative, anchors) {
  let here = base;
  const last = () => (anchors.length ? anchors[anchors.length - 1].at : [0, 0]);
  const size = { M: 2, L: 2, H: 1, V: 1, C: 6 }[command] || 0;
  if (!size || !values.length || values.length % size) return false;
  for (let n = 0; n < values.length; n += size) {
    const of = values.slice(n, n + size);
    if (command === "H") anchors.push({ at: [here[0] + of[0], last()[1]], in: null, out: null });
    else if (command === "V") anchors.push({ at: [last()[0], here[1] + of[0]], in: null, out: null });
    else {
      const pairs = [];
      for (let k = 0; k < size; k += 2) pairs.push([here[0] + of[k], here[1] + of[k + 1]]);
      const at = /** @type {number[]} */ (pairs.pop());
      if (command === "C") anchors[anchors.length - 1].out = apart(pairs[0], last());
      anchors.push({ at, in: command === "C" ? apart(pairs[1], at) : null, out: null });
    }
    if (relative) here = last();
  }
  return true;
}

/**
 * A handle; null where it lies on its own point.
 * @param {number[]} handle
 * @param {number[]} at
 */
const apart = (handle, at) => (Math.hypot(handle[0] - at[0], handle[1] - at[1]) < 1e-6 ? null : handle);

/**
 * A closed outline whose end lies on its beginning has that point once.
 * @param {Anchor[]} anchors
 * @param {boolean} closed
 */
function joined(anchors, closed) {
  const [first, last] = [anchors[0], anchors[anchors.length - 1]];
  const meets = Math.hypot(first.at[0] - last.at[0], first.at[1] - last.at[1]) < 1e-6;
  if (!closed || !meets || anchors.length < 3) return anchors;
  return [{ ...first, in: last.in }, ...anchors.slice(1, -1)];
}

/** @param {Outline} outline */
export function writeOutline({ anchors, closed }) {
  const told = (/** @type {number[]} */ [x, y]) => `${Math.round(x * 100) / 100} ${Math.round(y * 100) / 100}`;
  const edges = edgesOf({ anchors, closed }).map(([from, to]) => {
    if (!from.out && !to.in) return `L${told(to.at)}`;
    return `C${told(from.out || from.at)} ${told(to.in || to.at)} ${told(to.at)}`;
  });
  // The last straight edge is drawn by closing.
  if (closed && edges[edges.length - 1].startsWith("L")) edges.pop();
  return `M${told(anchors[0].at)}${edges.join("")}${closed ? "z" : ""}`;
}

/**
 * Pairs of points with an edge between.
 * @param {Outline} outline
 */
export function edgesOf({ anchors, closed }) {
  const count = closed ? anchors.length : anchors.length - 1;
  return Array.from({ length: count }, (_, n) => [anchors[n], anchors[(n + 1) % anchors.length]]);
}

/**
 * The point of an edge at a share of it.
 * @param {Anchor[]} edge
 * @param {number} t
 */
export function onEdge([from, to], t) {
  const [a, b, c, d] = [from.at, from.out || from.at, to.in || to.at, to.at];
  if (!from.out && !to.in) return [0, 1].map((i) => a[i] + (d[i] - a[i]) * t);
  const s = 1 - t;
  return [0, 1].map((i) => s * s * s * a[i] + 3 * s * s * t * b[i] + 3 * s * t * t * c[i] + t * t * t * d[i]);
}

/**
 * The box about an outline, with what its curves reach beyond their points: left, top, right, bottom.
 * @param {Outline} outline
 */
export function boxOf(outline) {
  const points = outline.anchors.map(({ at }) => at);
  for (const edge of edgesOf(outline)) {
    for (const i of [0, 1]) for (const t of turns(edge, i)) points.push(onEdge(edge, t));
  }
  const [xs, ys] = [points.map(([x]) => x), points.map(([, y]) => y)];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

/**
 * Where along a curve one of its coordinates turns: the roots of its derivative between 0 and 1.
 * @param {Anchor[]} edge
 * @param {number} i
 */
function turns([from, to], i) {
  if (!from.out && !to.in) return [];
  const [p0, p1, p2, p3] = [from.at, from.out || from.at, to.in || to.at, to.at].map((point) => point[i]);
  const [a, b, c] = [p3 - 3 * p2 + 3 * p1 - p0, 2 * (p2 - 2 * p1 + p0), p1 - p0];
  const root = Math.sqrt(Math.max(b * b - 4 * a * c, 0));
  const found = Math.abs(a) < 1e-9 ? [-c / (b || 1)] : [(-b + root) / (2 * a), (-b - root) / (2 * a)];
  return found.filter((t) => t > 0 && t < 1);
}

/**
 * Where on an outline a point lies nearest: the number of the edge, the share of it, and how far away.
 * @param {Outline} outline
 * @param {number[]} at
 */
export function nearestEdge(outline, at) {
  let best = { edge: 0, t: 0, away: Infinity };
  edgesOf(outline).forEach((edge, number) => {
    for (let step = 0; step < EDGE_STEPS; step += 1) {
      const [a, b] = [onEdge(edge, step / EDGE_STEPS), onEdge(edge, (step + 1) / EDGE_STEPS)];
      const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
      const length = dx * dx + dy * dy || 1;
      const share = Math.min(Math.max(((at[0] - a[0]) * dx + (at[1] - a[1]) * dy) / length, 0), 1);
      const away = Math.hypot(at[0] - a[0] - share * dx, at[1] - a[1] - share * dy);
      if (away < best.away) best = { edge: number, t: (step + share) / EDGE_STEPS, away };
    }
  });
  return best;
}

/**
 * The outline with all its points led elsewhere.
 * @param {Outline} outline
 * @param {(point: number[]) => number[]} lead
 * @returns {Outline}
 */
export function mapped({ anchors, closed }, lead) {
  const led = (/** @type {number[] | null} */ point) => point && lead(point);
  return {
    closed,
    anchors: anchors.map(({ at, in: before, out }) => ({ at: lead(at), in: led(before), out: led(out) })),
  };
}
