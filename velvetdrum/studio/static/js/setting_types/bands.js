// Bands of frequency: a text, whose bands are dragged on the spectrum, too.

import { register } from "../lib/setting_type.js";
import { TEXT } from "./text.js";

register("bands", TEXT);
