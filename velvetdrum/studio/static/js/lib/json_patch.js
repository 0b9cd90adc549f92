// Documents changed by JSON Patch (RFC 6902), as the page makes them and as the server tells them.

/**
 * A plain copy of a value that Alpine may have wrapped.
 * @param {any} value
 */
export function plain(value) {
  return value === undefined ? value : JSON.parse(JSON.stringify(value));
}

const keysOf = (/** @type {string} */ path) =>
  path
    .split("/")
    .slice(1)
    .map((/** @type {string} */ key) => key.replaceAll("~1", "/").replaceAll("~0", "~"));

const standing = (/** @type {Project} */ document, /** @type {string} */ path) =>
  keysOf(path).reduce((/** @type {any} */ node, /** @type {string} */ key) => node[key], document);

/**
 * Steps as additions and removals alone.
 * @param {any} document
 * @param {{op: string, path: string, from?: string, value?: any}} step
 * @returns {{op: string, path: string, value?: any}[]}
 */
function plainSteps(document, { op, path, from = "", value }) {
  if (op === "test") return [];
  if (op === "copy") return [{ op: "add", path, value: standing(document, from) }];
  if (op !== "move") return [{ op, path, value }];
  return [
    { op: "remove", path: from },
    { op: "add", path, value: standing(document, from) },
  ];
}

/**
 * A changed copy of a document: parts that no step touches are shared with the one before.
 * @param {any} document
 * @param {{op: string, path: string, from?: string, value?: any}[]} patch
 */
export function patched(document, patch) {
  let changed = document;
  const fresh = new Set(); // what was copied already, so that it may be written to
  const own = (/** @type {any} */ node) => {
    if (fresh.has(node)) return node;
    const copy = Array.isArray(node) ? [...node] : { ...node };
    fresh.add(copy);
    return copy;
  };
  /** @param {{op: string, path: string, value?: any}} step */
  const make = ({ op, path, value }) => {
    const keys = keysOf(path);
    if (!keys.length) {
      changed = plain(value);
      return;
    }
    const last = /** @type {string} */ (keys.pop());
    changed = own(changed);
    let target = changed;
    for (const key of keys) {
      target[key] = own(target[key]);
      target = target[key];
    }
    if (!Array.isArray(target)) {
      if (op === "remove") delete target[last];
      else target[last] = plain(value);
      return;
    }
    const index = last === "-" ? target.length : Number(last);
    if (op === "add") target.splice(index, 0, plain(value));
    else if (op === "remove") target.splice(index, 1);
    else target[index] = plain(value);
  };
  for (const step of patch) plainSteps(changed, step).forEach(make);
  return changed;
}

/**
 * An object without some of its keys.
 * @param {any} object
 * @param {...any} keys
 */
export function without(object, ...keys) {
  return Object.fromEntries(Object.entries(object).filter(([key]) => !keys.includes(key)));
}
