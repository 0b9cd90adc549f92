// A text: what is refused of it stays in its field, as it was typed.

import { register } from "../lib/setting_type.js";

export const TEXT = { typed: true };

register("text", TEXT);
