// A whole studio without a page: what the server sent with one, its parts, and a server that keeps the document.

import { readFileSync } from "node:fs";
import { patched } from "../../velvetdrum/studio/static/js/lib/json_patch.js";
import { Studio } from "../../velvetdrum/studio/static/js/studio.js";
import "../../velvetdrum/studio/static/js/setting_types/whole.js";
import "../../velvetdrum/studio/static/js/setting_types/colour.js";
import "../../velvetdrum/studio/static/js/setting_types/stops.js";
import "../../velvetdrum/studio/static/js/setting_types/path.js";

const GIVEN = readFileSync(new URL("../../.venv/studio_page.json", import.meta.url), "utf8");

/** What draws, plays and stands on the screen: everything of it may be called, and does nothing. */
const silent = () =>
  new Proxy(function () {}, { get: (_, name) => (name === "then" ? undefined : silent()), apply() {} });

/**
 * The studio of a project with a ground, bars, a text in a group, and two signals. Every edit goes to a server that
 * takes it: `edits` are its labels, `server` its document.
 */
export function wholeStudio() {
  const given = JSON.parse(GIVEN);
  const edits = [];
  let { revision, document } = structuredClone(given.project);
  const past = [];
  globalThis.fetch = async (path, { body } = {}) => {
    const asked = body ? JSON.parse(body) : {};
    if (path.endsWith("/edits")) {
      past.push(document);
      document = patched(document, asked.patch);
      edits.push(asked.label);
      return answer({
        id: given.project.id,
        revision: ++revision,
        patch: asked.patch,
        undo: asked.label,
        redo: null,
      });
    }
    if (path.endsWith("/beats")) return answer({ ...studio.tempo.beatGrid });
    return answer({});
  };
  globalThis.document = { activeElement: null, querySelector: () => null };
  globalThis.requestAnimationFrame = (run) => run();
  globalThis.window = { matchMedia: () => ({ matches: false }) };
  const studio = new Studio(
    given,
    (value) => value,
    (value) => value,
  );
  const player = {
    rate: 30,
    frames: 300,
    frame: 0,
    now: 0,
    playing: false,
    pause() {},
    seek() {},
    setVolume() {},
    grain() {},
  };
  Object.assign(studio.views, { player });
  // Any canvas may be asked to draw.
  const get = (_, name) => (typeof name === "symbol" ? undefined : silent());
  Object.setPrototypeOf(studio.views, new Proxy({}, { get }));
  studio.page.refs = silent();
  studio.page.nextTick = (run) => run();
  // As the page does after every change.
  studio.events.on("changed", () => studio.cues.refresh());
  studio.project.accept(given.project);
  return {
    studio,
    edits,
    /** The document that the server has, once all that was on its way is there. */
    async server() {
      await studio.project.settled();
      return document;
    },
    layer: (id) => studio.layers.byId(id),
    /** A layer's panel, open. */
    open(id) {
      studio.selection.choose(studio.layers.byId(id));
      return studio;
    },
    setting(id, name) {
      studio.selection.choose(studio.layers.byId(id));
      return studio.selection.kind.settings.find((setting) => setting.name === name);
    },
  };
}

const answer = (body) => ({
  ok: true,
  status: 200,
  json: async () => body,
  arrayBuffer: async () => new ArrayBuffer(0),
});

/** An event of a field in which something was typed. */
export const typed = (value) => ({ target: { value: String(value), blur() {} } });
