// What goes into the open places of the chosen look.

import { ask, refusalOf, send } from "../lib/api.js";
import { wait } from "../lib/time.js";

const TEXTS = ["title", "artist", "speaker"];
const TYPED = 600;
const PICTURES = /^image\//;
const POLL = 200;

export class LookFilling {
  /** @param {any} given what the page was given */
  constructor(given) {
    this.given = given;
    const { tags, name } = given.project.document;
    this.values = /** @type {Record<string, string>} */ ({
      title: tags.title || name,
      artist: tags.artist || "",
      speaker: tags.speaker || "",
    });
  }

  /** What the project has in its places already, the film of its sound among it, and its words. */
  takeHeld() {
    const { media, words } = this.given;
    this.media = { ...media, ...this.media };
    if (!Object.keys(this.cues).length) this.cues = words.cues;
    const count = Object.keys(this.cues).length;
    if (count && !this.wordsNote) this.wordsNote = `${count} cues of this project.`;
  }

  /** @type {any} */
  look = { name: "", about: "", places: [], colours: {}, notes: [] };
  shape = ""; // that all looks are shown in; empty: each as it was drawn first
  /** @type {Record<string, {key: string, name: string, photo: boolean}>} */
  media = {};
  /** @type {Record<string, string>} */
  working = {}; // what is being sent, by place
  /** @type {Record<string, string>} */
  faults = {};
  wordsText = "";
  wordsNote = "";
  /** @type {Record<string, any>} */
  cues = {};
  /** @type {Record<string, string>} */
  colours = {};
  /** @param {number} _later milliseconds after which it may be drawn anew */
  changed(_later) {}

  get fileOfLook() {
    return `/looks/${this.look.id}/file`;
  }

  /** @param {any} look */
  take(look) {
    this.look = look;
    this.colours = {};
  }

  /** @param {string} id */
  isChosen(id) {
    return this.look.id === id;
  }

  get texts() {
    return this.look.places.filter((/** @type {any} */ place) => TEXTS.includes(place.kind));
  }

  get files() {
    return this.look.places.filter((/** @type {any} */ place) => ["cover", "film"].includes(place.kind));
  }

  get asksWords() {
    return this.look.places.some((/** @type {any} */ place) => place.kind === "words");
  }

  /** @param {string} kind */
  value(kind) {
    return this.values[kind];
  }

  /**
   * @param {string} kind
   * @param {FieldEvent} event
   */
  type(kind, event) {
    this.values[kind] = event.target.value;
    this.changed(TYPED);
  }

  /** @param {string} kind */
  fieldId(kind) {
    return `place-${kind}`;
  }

  /** @param {string} kind */
  accepts(kind) {
    return kind === "cover" ? "image/*,.svg" : "image/*,video/*";
  }

  /** @param {string} kind */
  fault(kind) {
    return this.faults[kind] || "";
  }

  /** @param {string} kind */
  fileText(kind) {
    if (this.working[kind]) return this.working[kind];
    if (this.media[kind]) return this.media[kind].name;
    return kind === "cover" ? "drop a picture or SVG" : "drop a clip or a photo";
  }

  /** @param {string} kind */
  fileVerb(kind) {
    return this.media[kind] ? "change" : "choose";
  }

  get hasPicture() {
    return Boolean(this.media.cover);
  }

  /**
   * @param {string} kind
   * @param {FieldEvent} event
   */
  choose(kind, event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (file) this.bring(kind, file);
  }

  /**
   * @param {string} kind
   * @param {DropEvent} event
   */
  drop(kind, event) {
    const [file] = event.dataTransfer.files;
    if (file) this.bring(kind, file);
  }

  /**
   * @param {string} kind
   * @param {File} file
   */
  async bring(kind, file) {
    const photo = PICTURES.test(file.type);
    this.faults[kind] = "";
    try {
      if (kind === "cover" && !photo) throw new Error("A picture or an SVG goes in here.");
      this.working[kind] = `${file.name} waits for the sound`;
      await this.given.whole;
      const to = `/projects/${this.given.project.id}/${photo ? "pictures" : "clips"}`;
      this.working[kind] = `Sending ${file.name}`;
      const begun = await send(to, file, () => {}, {});
      while (begun.import) {
        const state = await ask(`/imports/${begun.import}`);
        this.working[kind] = `Preparing ${file.name}, ${Math.round(state.share * 100)} %`;
        if (state.state === "failed") throw new Error(state.error);
        if (state.state !== "running") break;
        await wait(POLL);
      }
      this.media[kind] = { key: begun.key, name: file.name, photo };
      this.changed(0);
    } catch (thrown) {
      this.faults[kind] = refusalOf(thrown).message;
    } finally {
      this.working[kind] = "";
    }
  }

  /** @param {FieldEvent} event */
  async typeWords(event) {
    this.wordsText = event.target.value;
    if (!this.wordsText.trim()) {
      this.cues = {};
      this.wordsNote = "";
      this.changed(0);
      return;
    }
    this.wordsNote = "The words wait for the sound.";
    await this.given.whole;
    const song = this.look.uses.includes("song");
    const json = { text: this.wordsText, song, by: song ? "line" : "sentence" };
    try {
      const { alignment } = await ask(`/projects/${this.given.project.id}/alignments`, { json });
      for (;;) {
        const state = await ask(`/alignments/${alignment}`);
        this.wordsNote = `Finding the words in the sound, ${Math.round(state.share * 100)} %`;
        if (state.state === "failed") throw new Error(state.error);
        if (state.state === "done") {
          this.cues = state.found.cues;
          this.wordsNote = `${state.found.words - state.found.lost} of ${state.found.words} words found their times.`;
          break;
        }
        await wait(POLL);
      }
      ask(`/alignments/${alignment}/taken`, { json: {} }).catch(() => {});
      this.changed(0);
    } catch (thrown) {
      this.wordsNote = refusalOf(thrown).message;
    }
  }

  /** @param {DropEvent} event */
  async dropWords(event) {
    const [file] = event.dataTransfer.files;
    if (!file) return;
    try {
      await this.given.whole;
      const { cues } = await send(`/projects/${this.given.project.id}/cues`, file, () => {}, {});
      this.cues = cues;
      this.wordsNote = `${Object.keys(cues).length} cues of ${file.name}.`;
      this.changed(0);
    } catch (thrown) {
      this.wordsNote = refusalOf(thrown).message;
    }
  }

  get swatches() {
    return Object.entries(this.look.colours).map(([name, own]) => ({ name, value: this.colours[name] || own }));
  }

  get recoloured() {
    return Object.keys(this.colours).length > 0;
  }

  /**
   * @param {string} name
   * @param {FieldEvent} event
   */
  setColour(name, event) {
    this.colours = { ...this.colours, [name]: event.target.value };
    this.changed(0);
  }

  ownColours() {
    this.colours = {};
    this.changed(0);
  }

  async fromPicture() {
    try {
      const names = Object.keys(this.look.colours);
      const json = { picture: this.media.cover.key, names };
      this.colours = (await ask("/looks/colours", { json })).colours;
      this.changed(0);
    } catch (thrown) {
      this.faults.cover = refusalOf(thrown).message;
    }
  }

  get frame() {
    return this.shape || this.look.frame;
  }

  /** What the server is told of the chosen look. */
  get body() {
    return this.bodyOf(this.look);
  }

  /** @param {any} look */
  bodyOf(look) {
    const asked = new Set(look.places.map((/** @type {any} */ place) => place.kind));
    const { cover, film } = this.media;
    return {
      ...Object.fromEntries(TEXTS.map((kind) => [kind, this.values[kind]])),
      cover: asked.has("cover") && cover ? cover.key : "",
      film: asked.has("film") && film ? film.key : "",
      photo: Boolean(asked.has("film") && film && film.photo),
      words: asked.has("words") ? this.cues : {},
      colours: look === this.look || !this.look.id ? this.colours : {},
      frame: this.shape || look.frame,
    };
  }
}
