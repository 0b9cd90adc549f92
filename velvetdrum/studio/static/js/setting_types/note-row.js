// A list of notes of the project, by its id.

import { register } from "../lib/setting_type.js";

register("note-row", {});
