// What the page does with settings by their type. Each type registers itself in a file of its own in `setting_types`.

/**
 * @typedef {object} SettingType
 * @property {(before: any, after: any, share: number, setting: any) => any} mixed the value between two keyframes
 * @property {(now: any, signal: any, setting: any) => object | null} ends the ends of a new patch; null for none
 * @property {(value: number, setting?: any) => number} allowed the nearest number that it may have
 * @property {boolean} numeric
 * @property {boolean} typed true for words that stay in their field when they are refused
 * @property {number} parts into how many a step is divided where its value is shown
 */

/** @type {SettingType} */
const PLAIN = {
  mixed: (before) => before,
  ends: () => null,
  allowed: (value) => value,
  numeric: false,
  typed: false,
  parts: 10,
};

/** @type {Map<string, SettingType>} */
const types = new Map();

/**
 * @param {string} name as settings are declared with it
 * @param {Partial<SettingType>} behaviour what differs from a type whose value is set and stays
 */
export function register(name, behaviour) {
  if (types.has(name)) throw new Error(`The setting type ${name} is registered twice.`);
  types.set(name, { ...PLAIN, ...behaviour });
}

/**
 * @param {{type: string}} setting
 * @returns {SettingType}
 */
export function typeOf(setting) {
  return types.get(setting.type) ?? PLAIN;
}
