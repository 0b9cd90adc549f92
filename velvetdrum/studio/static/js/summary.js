// One line that says what a layer, a part or a signal is set to, made from its kind's declaration.

import { hertz } from "./spectrum.js";

const UNITS_ALONE = /^°/;

/** A setting's value as it is told: with its unit, or as its choice is called. */
function told(app, setting, value, first) {
  if (setting.names_layer) return (app.byId(value) || {}).name || setting.label;
  if (setting.type === "choice") {
    const [, text] = setting.choices.find(([key]) => key === value) || ["", String(value)];
    return first ? text : text.toLowerCase();
  }
  if (setting.type === "flag") return value ? setting.label.toLowerCase() : "";
  if (setting.unit === "Hz") return hertz(value);
  if (setting.numeric) return `${value}${setting.unit ? (UNITS_ALONE.test(setting.unit) ? "" : " ") + setting.unit : ""}`.replace("-", "−");
  return String(value);
}

export const summary = {
  /** The pieces of a kind's summary for some settings, those that are empty left out. */
  summaryOf(kind, settings) {
    if (!kind) return [];
    const value = (name) => settings[name] ?? (kind.settings.find((setting) => setting.name === name) || {}).default;
    const pieces = kind.summary.split("|").map((piece, index) => piece.replaceAll(/\{(\w+)(#?)\}/g, (_, name, count, at) => {
      const setting = kind.settings.find((candidate) => candidate.name === name);
      return count ? String(value(name).length) : told(this, setting, value(name), index === 0 && at === 0);
    }));
    // A unit that both ends of a range have stands once; one beat is no beats.
    return pieces.map((text) => text.replace(/ (\S+) – (\S+) \1(?= |$)/, "–$2 $1").replace(/\b1 (\w+)s\b/, "1 $1").trim()).filter(Boolean);
  },
};
