// What fills the frame: the settings that kinds with a box of their own have in common.

/**
 * The settings with which a layer in a box fills the frame; null for a kind that has none.
 * @param {LayerKind} kind
 * @returns {Values | null}
 */
export function fillingOf(kind) {
  const box = kind.sizings.find(({ across, down }) => across.length && down.length);
  const fit = kind.settings.find(({ choices }) => choices.some(([value]) => value === "cover"));
  if (!box || !fit) return null;
  const sides = [...box.across, ...box.down].map((name) => [name, 100]);
  return { x: 50, y: 50, ...Object.fromEntries(sides), [fit.name]: "cover" };
}
