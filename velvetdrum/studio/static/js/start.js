// The start page: projects as pictures, and the place to drop a sound.

import Alpine from "../vendor/alpine-csp.esm.min.js";
import { ask, refusalOf } from "./lib/api.js";
import { Messages } from "./stores/messages.js";
import { SoundImport } from "./stores/sound_import.js";
import { paintImport } from "./views/import_wave.js";
import { switchTheme } from "./views/theme_switch.js";

const messages = Alpine.reactive(new Messages());

// What is said after the page is loaded anew.
const TOLD = "velvet-told";
let several = false;

/**
 * A project of each of several files, one after the other; what could not be brought in is told at the end.
 * @param {File[]} files
 */
async function bringAll(files) {
  const root = document.querySelector("[x-data=start]");
  const { soundImport } = /** @type {any} */ (Alpine).$data(root);
  several = true;
  /** @type {string[]} */
  const faults = [];
  for (const file of files) {
    await soundImport.bring(file);
    if (soundImport.bringingFault) faults.push(`${file.name}: ${soundImport.bringingFault}`);
    soundImport.dismissBringing();
  }
  const count = files.length - faults.length;
  sessionStorage.setItem(TOLD, [`${count} projects were made of ${files.length} files.`, ...faults].join(" "));
  location.reload();
}

Alpine.data("start", () => ({
  messages,
  switchTheme,
  /** @this {any} */
  init() {
    const told = sessionStorage.getItem(TOLD);
    sessionStorage.removeItem(TOLD);
    if (told) messages.tell(told);
  },
  soundImport: new SoundImport({
    address: () => "/sounds",
    brought: (project, _, opened) => {
      if (!several) location.href = `/projects/${project}${opened ? "" : "/looks"}`;
    },
    opened: (ident) => {
      if (!several) location.href = `/imports/${ident}/looks`;
      return !several;
    },
    taken: (files) => files.length > 1 && Boolean(bringAll(files)),
    wave: (values) => paintImport(/** @type {any} */ (document.querySelector("[x-ref=listening]")), values),
  }),
  async signOut() {
    try {
      await ask("/sign-out", { method: "POST" });
    } catch {
      /* then this session has ended already */
    }
    location.href = "/sign-in";
  },
}));

// Milliseconds after which it is asked whether more of the demo's projects are there.
const COMING_MS = 1500;

Alpine.data("coming", () => ({
  projects: 0,
  /** @this {any} */
  init() {
    this.projects = Number(this.$el.dataset.projects);
    setTimeout(() => this.look(), COMING_MS);
  },
  /** @this {any} */
  async look() {
    const { coming, projects } = await ask("/demo").catch(() => ({ coming: true, projects: this.projects }));
    // Nothing is taken away from who is typing a name or bringing a file in.
    const busy = document.activeElement?.matches("input:not([type=file])") || document.querySelector("dialog[open]");
    if ((!coming || projects !== this.projects) && !busy) location.reload();
    else setTimeout(() => this.look(), COMING_MS);
  },
}));

Alpine.data("projectList", () => ({
  search: "",
  by: "changed",
  none: false,
  /** @this {any} */
  apply() {
    const cards = [...this.$refs.cards.children];
    const words = this.search.toLowerCase().split(/\s+/).filter(Boolean);
    const keys = {
      changed: (/** @type {any} */ a, /** @type {any} */ b) => b.dataset.changed - a.dataset.changed,
      length: (/** @type {any} */ a, /** @type {any} */ b) => b.dataset.length - a.dataset.length,
      name: (/** @type {any} */ a, /** @type {any} */ b) => a.dataset.name.localeCompare(b.dataset.name),
    };
    cards.sort(keys[/** @type {keyof typeof keys} */ (this.by)]);
    this.$refs.cards.append(...cards);
    let shown = 0;
    for (const card of cards) {
      const name = card.dataset.name.toLowerCase();
      card.hidden = !words.every((/** @type {string} */ word) => name.includes(word));
      if (!card.hidden) shown += 1;
    }
    this.none = shown === 0;
  },
}));

Alpine.data("binned", () => ({
  gone: false,
  asked: false,
  /** @this {any} */
  async restore() {
    try {
      await ask(`/projects/${this.$el.closest("li").dataset.id}/restore`, { method: "POST" });
      location.reload();
    } catch (thrown) {
      messages.tell(refusalOf(thrown).message);
    }
  },
  /** @this {any} */
  async purge() {
    const { id, name } = this.$el.closest("li").dataset;
    if (!this.asked) {
      this.asked = true;
      return;
    }
    try {
      await ask(`/projects/${id}/purge`, { method: "POST" });
      this.gone = true;
      messages.tell(`${name} is gone for good, with its exports.`);
    } catch (thrown) {
      messages.tell(refusalOf(thrown).message);
    }
  },
}));

Alpine.data("card", () => ({
  gone: false,
  renaming: false,
  name: "",
  id: "",
  revision: 0,
  /** @this {any} */
  init() {
    this.id = this.$el.dataset.id;
    this.name = this.$el.dataset.name;
    this.revision = Number(this.$el.dataset.revision);
  },
  /** @this {any} */
  startRenaming() {
    this.renaming = true;
    this.$nextTick(() => {
      this.$refs.name.focus();
      this.$refs.name.select();
    });
  },
  /** @this {any} */
  stopRenaming() {
    this.renaming = false;
  },
  /** @this {any} */
  async rename() {
    const name = this.$refs.name.value.trim();
    if (!this.renaming) return;
    this.renaming = false;
    if (!name || name === this.name) return;
    try {
      const patch = [{ op: "replace", path: "/name", value: name }];
      const state = await ask(`/projects/${this.id}/edits`, {
        json: { revision: this.revision, label: "Rename", patch },
      });
      this.name = name;
      this.revision = state.revision;
    } catch (thrown) {
      const problem = refusalOf(thrown);
      messages.tell(problem.message);
    }
  },
  /** @this {any} */
  async duplicate() {
    try {
      await ask(`/projects/${this.id}/duplicate`, { method: "POST" });
      location.reload();
    } catch (thrown) {
      const problem = refusalOf(thrown);
      messages.tell(problem.message);
    }
  },
  /** @this {any} */
  async remove() {
    try {
      await ask(`/projects/${this.id}/delete`, { method: "POST" });
    } catch (thrown) {
      const problem = refusalOf(thrown);
      messages.tell(problem.message);
      return;
    }
    this.gone = true;
    messages.tell(`${this.name} is deleted.`, "Undo", async () => {
      await ask(`/projects/${this.id}/restore`, { method: "POST" });
      this.gone = false;
    });
  },
}));

Alpine.start();
