// Cues as rules: in order of time, split, joined, moved, reworded. A cue is {id, start_s, end_s, text, speaker, words};
// a word is [start, end, text, confidence]; times are seconds of the recording.

const ROUND = 1e4;
const round = (/** @type {any} */ value) => Math.round(value * ROUND) / ROUND;

/** The words of a text. */
export const tokens = (/** @type {string} */ text) => text.split(/\s+/).filter(Boolean);

/**
 * Cues in order of time, each with its id.
 * @param {Record<string, any>} cues
 */
export function ordered(cues) {
  return Object.keys(cues)
    .map((id) => ({ id, speaker: "", words: [], ...cues[id] }))
    .sort((a, b) => a.start_s - b.start_s);
}

/**
 * A cue in its stored form.
 * @param {any} values
 */
export function stored({ start_s, end_s, text, speaker, words }) {
  const cue = { start_s: round(Math.max(0, start_s)), end_s: round(Math.max(end_s, start_s + 0.02)), text };
  return { ...cue, ...(speaker ? { speaker } : {}), ...(words && words.length ? { words } : {}) };
}

/**
 * Place of the last cue that has begun at a time; -1 before the first.
 * @param {any} row
 * @param {number} time
 */
export function indexAt(row, time) {
  let [low, high] = [0, row.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (row[middle].start_s <= time + 1e-6) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** Characters a second. */
export const readingSpeed = (/** @type {ListedCue} */ cue) =>
  cue.text.replace(/\s+/g, " ").trim().length / Math.max(cue.end_s - cue.start_s, 1e-3);

/** True while every word of the text has its time. */
export const isTimed = (/** @type {ListedCue} */ cue) => {
  const said = tokens(cue.text);
  return (
    said.length > 0 &&
    said.length === cue.words.length &&
    said.every((/** @type {string} */ text, /** @type {number} */ n) => text === cue.words[n][2])
  );
};

/**
 * The words of a cue with times: their own, or their share of the cue by letters.
 * @param {ListedCue} cue
 */
export function timedWords(cue) {
  if (isTimed(cue)) return cue.words.map(([start, end, text, sure]) => ({ start, end, text, sure, own: true }));
  const said = tokens(cue.text);
  const whole = said.reduce((/** @type {number} */ sum, /** @type {string} */ text) => sum + text.length + 1, 0);
  let gone = 0;
  return said.map((/** @type {string} */ text) => {
    const start = cue.start_s + ((cue.end_s - cue.start_s) * gone) / whole;
    gone += text.length + 1;
    return { start, end: cue.start_s + ((cue.end_s - cue.start_s) * gone) / whole, text, sure: 1, own: false };
  });
}

/**
 * Two cues of one: the second begins with a word.
 * @param {ListedCue} cue
 * @param {number} at
 */
export function split(cue, at) {
  const words = timedWords(cue);
  if (at < 1 || at >= words.length) return null;
  const lines = [words.slice(0, at), words.slice(at)].map((row) =>
    row.map((/** @type {any} */ { text }) => text).join(" "),
  );
  const parts = isTimed(cue) ? [cue.words.slice(0, at), cue.words.slice(at)] : [[], []];
  const middle = isTimed(cue) ? words[at - 1].end : words[at].start;
  return [
    { ...cue, end_s: Math.min(middle, words[at].start), text: lines[0], words: parts[0] },
    { ...cue, start_s: words[at].start, text: lines[1], words: parts[1] },
  ];
}

/**
 * One cue of two that follow each other.
 * @param {ListedCue} first
 * @param {ListedCue} second
 */
export function joined(first, second) {
  const words = isTimed(first) && isTimed(second) ? [...first.words, ...second.words] : [];
  const text = `${first.text} ${second.text}`.trim();
  return { ...first, end_s: Math.max(first.end_s, second.end_s), text, words };
}

/**
 * A cue with every time t at factor * t + offset.
 * @param {ListedCue} cue
 * @param {number} factor
 * @param {any} offset
 */
export function mapped(cue, factor, offset) {
  const at = (/** @type {number} */ time) => round(Math.max(0, factor * time + offset));
  const words = cue.words.map(([start, end, ...rest]) => [at(start), at(end), ...rest]);
  return { ...cue, start_s: at(cue.start_s), end_s: at(cue.end_s), words };
}

/**
 * A cue with other edges; words keep their times where they can, and are cut at the edges.
 * @param {ListedCue} cue
 * @param {number} start
 * @param {number} end
 */
export function placed(cue, start, end) {
  const fit = (/** @type {number} */ time) => round(Math.min(Math.max(time, start), end));
  const words = cue.words.map(([from, to, ...rest]) => [fit(from), fit(to), ...rest]);
  return { ...cue, start_s: start, end_s: end, words };
}

/**
 * A cue with another text: words that stay keep their times, those between share the stretch that is free.
 * @param {ListedCue} cue
 * @param {string} text
 */
export function reworded(cue, text) {
  const said = tokens(text);
  if (!isTimed(cue) || !said.length) return { ...cue, text, words: [] };
  const old = cue.words;
  let front = 0;
  while (front < Math.min(said.length, old.length) && said[front] === old[front][2]) front += 1;
  let back = 0;
  const most = Math.min(said.length, old.length) - front;
  while (back < most && said[said.length - 1 - back] === old[old.length - 1 - back][2]) back += 1;
  const fresh = said.slice(front, said.length - back);
  const gone = old.slice(front, old.length - back);
  if (fresh.length === gone.length) {
    const words = [...old];
    fresh.forEach(
      (/** @type {string} */ word, /** @type {number} */ n) =>
        (words[front + n] = [gone[n][0], gone[n][1], word, gone[n][3]]),
    );
    return { ...cue, text, words };
  }
  const from = front ? old[front - 1][1] : cue.start_s;
  const to = back ? old[old.length - back][0] : cue.end_s;
  const whole =
    fresh.reduce((/** @type {number} */ sum, /** @type {string} */ word) => sum + word.length + 1, 0) || 1;
  let at = 0;
  const between = fresh.map((/** @type {string} */ word) => {
    const start = from + ((to - from) * at) / whole;
    at += word.length + 1;
    return [round(start), round(from + ((to - from) * at) / whole), word, 0.4];
  });
  return { ...cue, text, words: [...old.slice(0, front), ...between, ...old.slice(old.length - back)] };
}

/**
 * A cue with one word's edge at another time; its neighbours give way, and the cue's own edges follow.
 * @param {ListedCue} cue
 * @param {number} index
 * @param {number} edge
 * @param {number} time
 */
export function wordMoved(cue, index, edge, time) {
  if (!isTimed(cue)) return cue;
  const words = cue.words.map((word) => [...word]);
  const word = words[index];
  const before = index ? words[index - 1] : null;
  const after = words[index + 1] || null;
  if (edge === 0) {
    word[0] = round(Math.min(Math.max(time, before ? before[0] + 0.02 : 0), word[1] - 0.02));
    if (before && before[1] > word[0]) before[1] = word[0];
  } else {
    word[1] = round(Math.max(Math.min(time, after ? after[1] - 0.02 : Infinity), word[0] + 0.02));
    if (after && after[0] < word[1]) after[0] = word[1];
  }
  word[3] = 1;
  const start = Math.min(words[0][0], index === 0 && edge === 0 ? words[0][0] : cue.start_s);
  const end = Math.max(words[words.length - 1][1], index === words.length - 1 && edge ? 0 : cue.end_s);
  return { ...cue, start_s: index === 0 && edge === 0 ? word[0] : start, end_s: end, words };
}
