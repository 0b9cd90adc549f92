// Chance that is the same for the same seed.

/**
 * Even numbers from 0 to 1 out of a seed: the same ones whenever it is asked.
 * @param {number} seed
 */
export function chances(seed) {
  let state = (seed * 2654435761 + 1013904223) >>> 0;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}
