// The start page: projects as pictures, and the place to drop a sound.

import Alpine from "../vendor/alpine-csp.esm.min.js";
import { ask, refusalOf, send } from "./lib/api.js";
import { readClock } from "./lib/time.js";
import { Messages } from "./stores/messages.js";
import { SoundImport } from "./stores/sound_import.js";
import { paintImport } from "./views/import_wave.js";
import { projectCards } from "./views/project_cards.js";
import { switchTheme } from "./views/theme_switch.js";

const messages = Alpine.reactive(new Messages());

const PICTURE = /^image\//;

/**
 * Begin a project with a picture.
 * @param {File} file
 */
async function beginWith(file) {
  return (await send("/projects/from-picture", file, () => {}, {})).id;
}

// What is said after the page is loaded anew.
const TOLD = "velvet-told";
let several = false;
let beside = ""; // where the next file goes, when it is a track beside others
/** @type {string[]} */
let brought = []; // projects of several sounds

/**
 * A project of each of several files, one after the other; what could not be brought in is told at the end. Where all
 * of them are sounds, looks stand there for them together.
 * @param {File[]} files
 */
async function bringAll(files) {
  const root = document.querySelector("[x-data=start]");
  const { soundImport } = /** @type {any} */ (Alpine).$data(root);
  several = true;
  /** @type {string[]} */
  const faults = [];
  brought = [];
  for (const file of files) {
    if (PICTURE.test(file.type)) {
      await beginWith(file).catch((thrown) => faults.push(`${file.name}: ${refusalOf(thrown).message}`));
      continue;
    }
    await soundImport.bring(file);
    if (soundImport.bringingFault) faults.push(`${file.name}: ${soundImport.bringingFault}`);
    soundImport.dismissBringing();
  }
  const count = files.length - faults.length;
  if (brought.length > 1 && !faults.length) {
    location.href = `/projects/${brought[0]}/looks?others=${brought.slice(1).join(",")}`;
    return;
  }
  sessionStorage.setItem(TOLD, [`${count} projects were made of ${files.length} files.`, ...faults].join(" "));
  location.reload();
}

// Parts of a song, by which the names of stems are told from those of songs.
const PARTS = "kick|snare|hats?|drums?|perc|bass|vocals?|vox|voice|keys|piano|synth|guitar|strings|pads?|stem";
const STEM = new RegExp(`(^|[^a-z])(${PARTS})([^a-z]|$)`, "i");
/** @param {File[]} files */
const areStems = (files) =>
  files.length > 1 &&
  files.every(({ type }) => !PICTURE.test(type)) &&
  files.filter(({ name }) => STEM.test(name)).length > 1;

/** @param {File[]} files */
function askStems(files) {
  const root = /** @type {any} */ (Alpine).$data(document.querySelector("[x-data=start]"));
  root.stems = files;
  root.$refs.stems.showModal();
}

/**
 * One project of several files, a track each.
 * @param {File[]} files
 */
async function bringStems(files) {
  const { soundImport } = /** @type {any} */ (Alpine).$data(document.querySelector("[x-data=start]"));
  several = true;
  brought = [];
  for (const file of files) {
    beside = brought.length ? `?project=${brought[0]}&track=beside` : "";
    await soundImport.bring(file);
    if (soundImport.bringingFault) return;
    soundImport.dismissBringing();
  }
  location.href = `/projects/${brought[0]}`;
}

Alpine.data("start", () => ({
  stems: /** @type {File[]} */ ([]),
  /** @this {any} */
  oneSong() {
    this.$refs.stems.close();
    bringStems(this.stems);
  },
  /** @this {any} */
  eachAlone() {
    this.$refs.stems.close();
    bringAll(this.stems);
  },
  /** @this {any} */
  noStems() {
    this.$refs.stems.close();
  },
  messages,
  switchTheme,
  /** @this {any} */
  init() {
    const told = sessionStorage.getItem(TOLD);
    sessionStorage.removeItem(TOLD);
    if (told) messages.tell(told);
  },
  soundImport: new SoundImport({
    address: () => `/sounds${beside}`,
    /** @this {any} */
    brought(project, note, opened) {
      if (!project) {
        this.dismissBringing();
        messages.tell(note);
        return;
      }
      if (!several) location.href = `/projects/${project}${opened ? "" : "/looks"}`;
      else if (!opened) brought.push(project);
    },
    opened: (ident) => {
      if (!several) location.href = `/imports/${ident}/looks`;
      return !several;
    },
    taken: (files) => {
      if (areStems(files)) askStems(files);
      else if (files.length > 1) bringAll(files);
      else if (PICTURE.test(files[0].type))
        beginWith(files[0]).then(
          (id) => (location.href = `/projects/${id}`),
          (thrown) => messages.tell(refusalOf(thrown).message),
        );
      else return false;
      return true;
    },
    wave: (values) => paintImport(/** @type {any} */ (document.querySelector("[x-ref=listening]")), values),
  }),
  faultOfEmpty: "",
  /** @this {any} */
  openEmpty() {
    this.$refs.empty.showModal();
  },
  /** @this {any} */
  closeEmpty() {
    this.$refs.empty.close();
  },
  /** @this {any} */
  async beginEmpty() {
    const { name, frame, rate, length } = this.$refs;
    const json = {
      name: name.value,
      frame: frame.value,
      rate: rate.value,
      length_s: readClock(length.value) ?? 0,
    };
    try {
      const { id } = await ask("/projects", { json });
      location.href = `/projects/${id}`;
    } catch (thrown) {
      this.faultOfEmpty = refusalOf(thrown).message;
    }
  },
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

for (const [name, component] of Object.entries(projectCards(messages))) Alpine.data(name, component);

Alpine.start();
