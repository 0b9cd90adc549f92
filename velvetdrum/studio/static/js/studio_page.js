// The studio's page: the studio is made from what the server sent, and its parts are given to the templates.

import Alpine from "../vendor/alpine-csp.esm.min.js";
import { Studio } from "./studio.js";
import { PANELS } from "./views/panels.js";

const given = JSON.parse(/** @type {any} */ (document.getElementById("given")).textContent);
const studio = new Studio(given, Alpine.reactive, Alpine.raw);
Object.assign(window, { velvet: studio }); // for tests and for the curious

/**
 * What a panel's markup sees: the parts that it names, and nothing else.
 * @param {(keyof Studio)[]} names
 */
const seen = (names) => Object.fromEntries(names.map((name) => [name, studio[name]]));

for (const [panel, names] of Object.entries(PANELS)) Alpine.data(panel, () => seen(names));
Alpine.data("studio", () => ({
  ...seen(PANELS.studio),
  /** @this {any} */
  init() {
    const refs = [...document.querySelectorAll("[x-ref]")].map((element) => [element.getAttribute("x-ref"), element]);
    studio.begin(Object.fromEntries(refs), (/** @type {any} */ run) => this.$nextTick(run));
  },
}));
Alpine.start();
