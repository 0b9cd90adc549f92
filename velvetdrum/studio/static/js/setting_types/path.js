// A path in the notation of SVG: a text.

import { register } from "../lib/setting_type.js";
import { TEXT } from "./text.js";

register("path", TEXT);
