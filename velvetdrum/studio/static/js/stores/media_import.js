// Clips and pictures brought in, and those whose files are missing.

import { ask, send, refusalOf } from "../lib/api.js";
import { wait } from "../lib/time.js";
import { areNumbered, isAnimated, zipped } from "../lib/sequences.js";
import { fillingOf } from "../lib/frame_filling.js";
import { partWith } from "../lib/studio_part.js";

export class MediaImport extends partWith(
  "events",
  "fields",
  "given",
  "kinds",
  "layers",
  "messages",
  "parts",
  "project",
  "selection",
  "settings",
  "stage",
) {
  /** @type {any} */
  clipsAsked = null;
  /** @type {Record<string, any>} */
  clipFacts = {}; // key -> what is known of a clip
  /** @type {any} */
  clipWork = null; // {id, text, share, fault, hold, import}: a clip on its way in
  /** @type {any[]} */
  missing = [];
  async checkMissing() {
    try {
      this.missing = await ask(`/projects/${this.project.state.id}/missing`);
    } catch {
      /* asked again after the next change */
    }
  }

  /**
   * Keys of all files that layers, their masks and their effects hold, by what their settings say of themselves.
   * @param {Layer[]} layers
   */
  heldKeys(layers) {
    const held = (/** @type {any} */ { kind, settings }, /** @type {any} */ kinds) => {
      const known = kinds.find((/** @type {any} */ candidate) => candidate.kind === kind);
      const names = known ? known.settings.filter((/** @type {any} */ { media }) => media) : [];
      return names.map((/** @type {any} */ { name }) => settings[name]).filter(Boolean);
    };
    return layers.flatMap((layer) => [
      ...held(layer, this.kinds),
      ...this.given.partSorts.flatMap((sort) =>
        this.parts.partsOf(layer, sort).flatMap((part) => held(part, sort.kinds)),
      ),
    ]);
  }

  /** @param {Layer} layer */
  isMissing(layer) {
    const owners = [layer, ...this.given.partSorts.flatMap((sort) => this.parts.partsOf(layer, sort))];
    return this.missing.some((item) => owners.some(({ settings }) => Object.values(settings).includes(item.key)));
  }

  /** @param {string} key */
  isMissingKey(key) {
    return this.missing.some((item) => item.key === key);
  }

  get missingText() {
    const names = [...new Set(this.missing.flatMap((item) => item.layers))];
    return names.length
      ? `The file behind ${names.join(", ")} is not here. ` +
          "Drop it on the page, or choose another in the layer's settings."
      : "";
  }

  /** @param {Setting} setting */
  thumbAddress(setting) {
    const key = this.settings.current(setting);
    return key && !this.isMissingKey(key) ? `/pictures/${key}` : "";
  }

  /** @param {Setting} setting */
  clipNote(setting) {
    const key = this.settings.current(setting);
    if (!key) return "";
    if (this.isMissingKey(key)) return "This file is missing.";
    const facts = this.clipFacts[key];
    if (!facts) {
      this.loadClip(key);
      return "";
    }
    if (!facts.frames) return "being prepared";
    const more = [
      facts.varying ? "uneven frame times" : "",
      facts.turn ? "turned upright" : "",
      facts.interlaced ? "deinterlaced" : "",
      facts.light ? `${facts.light} brought to BT.709` : "",
      facts.alpha ? "with alpha" : "",
      facts.sound ? "with sound" : "no sound",
    ];
    return [
      facts.name,
      `${facts.width} × ${facts.height}`,
      `${facts.length_s.toFixed(2)} s`,
      `${Math.round(facts.rate * 100) / 100}/s`,
      ...more,
    ]
      .filter(Boolean)
      .join(" · ");
  }

  /** @param {string} key */
  async loadClip(key) {
    if ((this.clipsAsked ||= new Set()).has(key)) return;
    this.clipsAsked.add(key);
    try {
      this.clipFacts = { ...this.clipFacts, [key]: await ask(`/clips/${key}`) };
    } catch {
      this.clipFacts = { ...this.clipFacts, [key]: {} };
    }
  }

  /** @param {Setting} setting */
  isClipWork(setting) {
    return Boolean(this.clipWork) && this.clipWork.id === this.fields.fieldId(setting);
  }

  get clipBar() {
    return { width: `${Math.round((this.clipWork ? this.clipWork.share : 0) * 100)}%` };
  }

  get clipText() {
    return this.clipWork ? this.clipWork.text : "";
  }

  /**
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  chooseClip(setting, event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (file)
      this.bringClip(
        file,
        this.fields.fieldId(setting),
        (/** @type {string} */ key) => this.settings.put(setting, key),
        (/** @type {string} */ sentence) => {
          this.project.faults[this.settings.pointer(setting)] = sentence;
        },
      );
  }

  /**
   * Send a clip, wait until it is prepared, then put it to use.
   * @param {File} file
   * @param {string} id
   * @param {any} use
   * @param {any} failed
   */
  async bringClip(file, id, use, failed) {
    if (this.clipWork) {
      failed("Another clip is on its way in; wait until it is here.");
      return;
    }
    const hold = {};
    const show = (/** @type {string} */ text, /** @type {number} */ share) => {
      this.clipWork = { id, text, share, hold, import: this.clipWork && this.clipWork.import };
    };
    show(`Sending ${file.name}`, 0);
    try {
      const begun = await send(
        `/projects/${this.project.state.id}/clips`,
        file,
        (share) => show(`Sending ${file.name}`, share),
        hold,
      );
      if (begun.import) {
        this.clipWork.import = begun.import;
        for (;;) {
          const state = await ask(`/imports/${begun.import}`);
          show(`Preparing ${state.name}`, state.share);
          if (state.state === "failed") throw new Error(state.error);
          if (state.state === "cancelled") throw new Error("");
          if (state.state === "done") break;
          await wait(150);
        }
      }
      (this.clipsAsked ||= new Set()).delete(begun.key);
      this.loadClip(begun.key);
      use(begun.key);
      this.checkMissing();
      this.stage.showStill();
    } catch (thrown) {
      const problem = refusalOf(thrown);
      if (problem.message) failed(problem.message);
    } finally {
      this.clipWork = null;
    }
  }

  cancelClip() {
    if (!this.clipWork) return;
    if (this.clipWork.import) ask(`/imports/${this.clipWork.import}/cancel`, { method: "POST" });
    else if (this.clipWork.hold.abort) this.clipWork.hold.abort();
  }

  /**
   * Files dropped on the Picture room that are pictures or clips become layers; true when they were. Several pictures
   * with numbers in their names are one clip.
   * @param {File[]} files
   */
  dropPicture(files) {
    const [file] = files;
    const image = /\.(a?png|jpe?g|webp|gif|svg)$/i.test(file.name) || file.type.startsWith("image/");
    const video =
      /\.(mp4|mov|mkv|webm|avi|m4v|mpe?g|ts|m2ts|mts|vob|zip)$/i.test(file.name) || file.type.startsWith("video/");
    if (this.selection.room !== "picture" || !(image || video)) return false;
    if (areNumbered(files)) {
      const name = `${file.name.replace(/\.[a-z0-9]{1,5}$/i, "")}, ${files.length} pictures.zip`;
      zipped(files, name)
        .then((zip) => this.dropClip(zip))
        .catch(() => this.messages.tell("These pictures could not be read."));
    } else if (video) {
      this.dropClip(file);
    } else {
      isAnimated(file).then((moves) => (moves ? this.dropClip(file) : this.dropStill(file)));
    }
    return true;
  }

  /** @param {File} file */
  dropClip(file) {
    const use = (/** @type {string} */ key) => this.addMedia("clip", file.name, key);
    return this.bringClip(file, "drop", use, (/** @type {string} */ sentence) => this.messages.tell(sentence));
  }

  /** @param {File} file */
  async dropStill(file) {
    try {
      const found = await send(`/projects/${this.project.state.id}/pictures`, file, () => {}, {});
      this.addMedia(/\.svg$/i.test(file.name) ? "svg" : "picture", file.name, found.key);
      for (const note of found.notes || []) this.messages.tell(note);
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.messages.tell(problem.message);
    }
  }

  /**
   * A layer for a file that was dropped: of the kind that is made for its sort (picture, svg, clip).
   * @param {"clip" | "svg" | "picture"} sort
   * @param {any} fileName
   * @param {string} key
   */
  addMedia(sort, fileName, key) {
    const held = this.missing.some((item) => item.key === key);
    if (held) {
      this.checkMissing();
      this.stage.showStill();
      this.events.emit("saved");
      this.messages.tell("This is the file that was missing; it is shown again.");
      return;
    }
    const kind = /** @type {LayerKind} */ (this.kinds.find((candidate) => candidate.drops[sort]));
    const name = this.layers.freshName(fileName.replace(/\.[a-z0-9]{1,5}$/i, "").slice(0, 60));
    const fills = sort !== "svg" && fillingOf(kind);
    // On an empty scene it is the scene.
    const alone = !this.project.document.layers.length;
    const layer = this.layers.newLayer(kind.kind, name, {
      [String(kind.drops[sort])]: key,
      ...(alone && fills ? fills : {}),
    });
    this.project.edit(`Add ${layer.name}`, [
      { op: "add", path: `/layers/${this.layers.placeFor(kind.kind)}`, value: layer },
    ]);
    this.selection.choose(layer);
    if (!alone && fills && Object.entries(fills).some(([setting, value]) => layer.settings[setting] !== value))
      this.messages.tell(`${layer.name} lies in a box of its own.`, "Fill the frame", () =>
        this.fill(layer.id, fills),
      );
    this.checkMissing();
  }

  /**
   * @param {string} id
   * @param {Values} values
   */
  fill(id, values) {
    const index = this.layers.indexOf(id);
    if (index < 0) return;
    const steps = Object.entries(values).map(([name, value]) => ({
      op: "add",
      path: `/layers/${index}/settings/${name}`,
      value,
    }));
    this.project.edit(`${this.layers.byId(id).name} fills the frame`, steps);
  }
}
