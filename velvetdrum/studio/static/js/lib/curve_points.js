// Curves through points, as the renderer joins them: cubic pieces that keep what rises rising.

/**
 * A curve's value at a place. Points are {at, value}, from left to right.
 * @param {{ at: number; value: number }[]} points
 * @param {number} place
 */
export function curveAt(points, place) {
  const last = points.length - 1;
  const at = Math.max(points[0].at, Math.min(points[last].at, place));
  let index = points.findIndex((point) => point.at > at) - 1;
  if (index < 0) index = last - 1;
  const slopes = slopesOf(points);
  const width = points[index + 1].at - points[index].at;
  const rise = points[index + 1].value - points[index].value;
  const t = (at - points[index].at) / width;
  const [from, to] = [slopes[index] * width, slopes[index + 1] * width];
  return points[index].value + t * (from + t * (3 * rise - 2 * from - to + t * (from + to - 2 * rise)));
}

/** @param {{ at: number; value: number }[]} points */
function slopesOf(points) {
  const steps = points.slice(1).map((point, index) => point.at - points[index].at);
  const rises = points.slice(1).map((point, index) => (point.value - points[index].value) / steps[index]);
  if (points.length === 2) return [rises[0], rises[0]];
  const inner = steps.slice(1).map((step, index) => {
    const [before, after] = [rises[index], rises[index + 1]];
    if (before * after <= 0) return 0;
    const [first, second] = [2 * step + steps[index], step + 2 * steps[index]];
    return (first + second) / (first / before + second / after);
  });
  const end = steps.length - 1;
  return [
    endSlope(steps[0], steps[1], rises[0], rises[1]),
    ...inner,
    endSlope(steps[end], steps[end - 1], rises[end], rises[end - 1]),
  ];
}

/**
 * @param {any} near
 * @param {number} far
 * @param {any} rise
 * @param {any} following
 */
function endSlope(near, far, rise, following) {
  const slope = ((2 * near + far) * rise - near * following) / (near + far);
  if (slope * rise <= 0) return 0;
  return rise * following <= 0 && Math.abs(slope) > Math.abs(3 * rise) ? 3 * rise : slope;
}

/**
 * A curve as SVG path data over a box of 100 by 100, its values from `lo` to `hi` from bottom to top.
 * @param {{ at: number; value: number }[]} points
 * @param {number} lo
 * @param {number} hi
 * @param {number} [count]
 */
export function curvePath(points, lo, hi, count = 60) {
  const places = Array.from({ length: count + 1 }, (_, index) => index / count);
  const heights = places.map((place) => 100 - ((curveAt(points, place) - lo) / (hi - lo)) * 100);
  return places.map((place, index) => `${index ? "L" : "M"}${place * 100} ${heights[index].toFixed(2)}`).join("");
}
