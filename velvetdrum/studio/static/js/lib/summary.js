// One line that says what a layer, a part or a signal is set to, made from its kind's declaration.

import { hertz } from "./pitch.js";

const UNITS_ALONE = /^°/;

/**
 * A setting's value as it is told: with its unit, or as its choice is called.
 * @param {{ byId: (id: string) => Layer }} layers
 * @param {Setting} setting
 * @param {any} value
 * @param {any} first
 */
export function told(layers, setting, value, first) {
  if (setting.names_layer) return (layers.byId(value) || {}).name || setting.label;
  if (setting.type === "choice") {
    const [, text] = setting.choices.find(([key]) => key === value) || ["", String(value)];
    return first ? text : text.toLowerCase();
  }
  if (setting.type === "flag") return value ? setting.label.toLowerCase() : "";
  if (setting.unit === "Hz") return hertz(value);
  if (setting.numeric)
    return `${value}${setting.unit ? (UNITS_ALONE.test(setting.unit) ? "" : " ") + setting.unit : ""}`.replace(
      "-",
      "−",
    );
  return String(value);
}
