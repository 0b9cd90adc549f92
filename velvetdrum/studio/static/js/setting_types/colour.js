// A colour: mixed as the renderer mixes it, moved to the signal's own by a new patch.

import { mixed } from "../lib/colour.js";
import { register } from "../lib/setting_type.js";

register("colour", { mixed, ends: (now, signal) => ({ from: now, to: signal.colour }) });
