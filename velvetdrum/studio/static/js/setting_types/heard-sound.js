// A sound of the project: the sum, a track, or a part of either.

import { register } from "../lib/setting_type.js";

register("heard-sound", {});
