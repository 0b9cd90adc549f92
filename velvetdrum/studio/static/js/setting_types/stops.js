// A gradient: its mixing is the renderer's; a new patch moves all of it to the signal's colour.

import { register } from "../lib/setting_type.js";

register("stops", {
  mixed: (before, after, share) => (share < 0.5 ? before : after),
  ends: (now, signal) => ({
    from: now,
    to: now.map((/** @type {Stop} */ stop) => ({ ...stop, colour: signal.colour })),
  }),
});
