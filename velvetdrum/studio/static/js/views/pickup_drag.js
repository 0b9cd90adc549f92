// Pickups on the spectrum, taken by a side or by their middle.

import { clamp } from "../lib/numbers.js";

/**
 * What a press at a place takes hold of: a side of the chosen pickup, its middle, or another pickup.
 * @param {any} view
 * @param {any} source
 * @param {number} x
 * @param {number} y
 */
export function holdAt(view, source, x, y) {
  const chosen = source.pickups.find((/** @type {any} */ pickup) => pickup.id === source.chosen);
  const boxOf = (/** @type {any} */ pickup) => ({
    left: view.x(pickup.low_hz),
    right: view.x(pickup.high_hz),
    top: view.y(pickup.loud_db),
    bottom: view.y(pickup.quiet_db),
  });
  if (chosen) {
    const box = boxOf(chosen);
    const inRows = y > box.top - 12 && y < box.bottom + 12;
    const inColumns = x > box.left - 12 && x < box.right + 12;
    /** @type {[string, number, boolean][]} */
    const sides = [
      ["left", Math.abs(x - box.left), inRows],
      ["right", Math.abs(x - box.right), inRows],
      ["top", Math.abs(y - box.top), inColumns],
      ["bottom", Math.abs(y - box.bottom), inColumns],
    ];
    const near = sides.filter(([, distance, along]) => along && distance < 9).sort((a, b) => a[1] - b[1])[0];
    if (near) return { side: near[0], pickup: chosen };
    if (x > box.left && x < box.right && y > box.top && y < box.bottom) return { side: "all", pickup: chosen };
  }
  const other = source.pickups.find((/** @type {any} */ pickup) => {
    const box = boxOf(pickup);
    return x > box.left - 3 && x < box.right + 3 && y > box.top - 16 && y < box.bottom + 3;
  });
  return other ? { side: "choose", pickup: other } : null;
}

/**
 * The band and the levels of a pickup that is dragged to a place of the canvas.
 * @param {any} view
 * @param {any} source
 * @param {any} drag
 * @param {number} x
 * @param {number} y
 */
export function draggedTo(view, source, drag, x, y) {
  const { pickup, side } = drag;
  const tidy = (/** @type {number} */ hz) =>
    hz < 100 ? Math.round(hz * 10) / 10 : hz < 1000 ? Math.round(hz) : Math.round(hz / 10) * 10;
  const half = (/** @type {number} */ db) => Math.round(db * 2) / 2;
  const limit = source.nyquist;
  if (side === "left") return { low_hz: tidy(clamp(view.hz(x), 10, pickup.high_hz * 0.97)) };
  if (side === "right") return { high_hz: tidy(clamp(view.hz(x), pickup.low_hz * 1.03, limit)) };
  if (side === "top") return { loud_db: half(clamp(view.db(y), pickup.quiet_db + 1, 30)) };
  if (side === "bottom") return { quiet_db: half(clamp(view.db(y), -120, pickup.loud_db - 1)) };
  const ratio = clamp(view.hz(x) / view.hz(drag.x), 10 / pickup.low_hz, limit / pickup.high_hz);
  const by = clamp(half(view.db(y) - view.db(drag.y)), -120 - pickup.quiet_db, 30 - pickup.loud_db);
  return {
    low_hz: tidy(pickup.low_hz * ratio),
    high_hz: tidy(pickup.high_hz * ratio),
    quiet_db: pickup.quiet_db + by,
    loud_db: pickup.loud_db + by,
  };
}
