// What a change of the document concerns, by the pointers of its patch: only that is asked for anew.

/**
 * @typedef {object} Concerns
 * @property {boolean} picture the picture, the small pictures and the handles
 * @property {boolean} sound the track, its waves and how long the project is
 * @property {boolean} curves curves of signals
 * @property {boolean} beats the beat grid
 * @property {boolean} cues cues, their checks and their lanes
 * @property {boolean} media files that layers hold
 */

/** @type {Concerns} */
const NOTHING = { picture: false, sound: false, curves: false, beats: false, cues: false, media: false };

/** @type {Concerns} */
export const EVERYTHING = { picture: true, sound: true, curves: true, beats: true, cues: true, media: true };

/** @type {Record<string, Partial<Concerns>>} by the first part of a pointer */
const BY_PART = {
  name: { picture: true },
  tags: { picture: true },
  markers: { picture: true, curves: true },
  cue_tracks: { picture: true, curves: true, cues: true },
  beats: { picture: true, curves: true, beats: true },
  signals: { picture: true, curves: true },
  layers: { picture: true, media: true },
  workspace: {},
};

/**
 * What one pointer concerns. What a pattern of this list does not know concerns everything.
 * @param {string} path
 * @returns {Partial<Concerns>}
 */
function ofPointer(path) {
  const parts = path.split("/").slice(1);
  const known = BY_PART[parts[0]];
  if (!known) return EVERYTHING;
  // A layer as a whole brings its patches; a patch alone changes what moves, not what signals are.
  const whole = parts[0] === "layers" && (parts.length < 3 || parts[2] === "patches");
  return whole ? { ...known, curves: true } : known;
}

/**
 * What a patch concerns; everything where none is known.
 * @param {{path: string, from?: string}[] | undefined} patch
 * @returns {Concerns}
 */
export function concernsOf(patch) {
  if (!patch) return EVERYTHING;
  /** @type {Record<string, any>} */
  const out = { ...NOTHING };
  for (const { path, from } of patch) {
    for (const pointer of from === undefined ? [path] : [path, from]) {
      for (const [name, is] of Object.entries(ofPointer(pointer))) out[name] ||= is;
    }
  }
  return /** @type {Concerns} */ (out);
}

/**
 * Two changes as one.
 * @param {Concerns} one
 * @param {Concerns} other
 * @returns {Concerns}
 */
export function both(one, other) {
  return /** @type {Concerns} */ (
    Object.fromEntries(Object.entries(one).map(([name, is]) => [name, is || /** @type {any} */ (other)[name]]))
  );
}
