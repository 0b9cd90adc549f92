// A whole number: as a number, never between two.

import { register } from "../lib/setting_type.js";
import { NUMBER } from "./number.js";

register("whole", {
  ...NUMBER,
  allowed: Math.round,
  parts: 1,
  mixed: (...given) => Math.round(NUMBER.mixed(...given)),
  ends: (now, signal, setting) => NUMBER.ends(now, signal, { ...setting, step: 1 }),
});
