// Parts of layers, such as masks and effects: each sort a list, each part with its settings.

import { plain } from "../lib/json_patch.js";
import { newId } from "../lib/ids.js";
import { told } from "../lib/summary.js";
import { partWith } from "../lib/studio_part.js";

export class Parts extends partWith(
  "given",
  "layerEdits",
  "layers",
  "partReaders",
  "project",
  "selection",
  "settings",
  "views",
) {
  /** @type {string | null} */
  openPart = null; // id of the part whose settings are shown
  /** @type {string | null} */
  grabbed = null; // id of the part that is drawn to another place
  /** @type {string | null} */
  over = null;
  /** The sort of parts that the panel shows, if it shows one. */
  get partSort() {
    return /** @type {PartSort} */ (this.given.partSorts.find((sort) => sort.name === this.selection.tab) || null);
  }

  /** @param {string} name */
  sortNamed(name) {
    return /** @type {PartSort} */ (this.given.partSorts.find((sort) => sort.name === name));
  }

  /**
   * @param {Layer} layer
   * @param {PartSort} sort
   */
  partsOf(layer, sort) {
    return (layer && layer[sort.listed]) || [];
  }

  get shownParts() {
    return this.partSort ? this.partsOf(this.selection.layer, this.partSort) : [];
  }

  /**
   * @param {PartSort} sort
   * @param {Part} part
   */
  partKind(sort, part) {
    return /** @type {PartKind} */ (sort.kinds.find((kind) => kind.kind === part.kind));
  }

  /** @param {Part} part */
  isOpenPart(part) {
    return this.openPart === part.id;
  }

  /** @param {Part} part */
  togglePart(part) {
    this.openPart = this.isOpenPart(part) ? null : part.id;
    this.views.handlesView.draw();
  }

  /**
   * Drawn by the pointer to another place in its row.
   * @param {Part} part
   * @param {DropEvent} event
   */
  grab(part, event) {
    this.grabbed = part.id;
    event.dataTransfer.effectAllowed = "move";
    event.dataTransfer.setData("text/plain", part.id);
  }

  /** @param {Part} part */
  isOver(part) {
    return this.over === part.id && this.grabbed !== part.id;
  }

  /** @param {Part} part */
  moveOver(part) {
    if (this.grabbed) this.over = part.id;
  }

  rest() {
    this.grabbed = this.over = null;
  }

  /** @param {Part} part */
  lay(part) {
    const { grabbed } = this;
    this.rest();
    if (!grabbed || grabbed === part.id || this.layerEdits.refuseLocked()) return;
    const listed = plain(this.shownParts);
    const at = listed.findIndex((/** @type {any} */ { id }) => id === part.id);
    const [moved] = listed.splice(
      listed.findIndex((/** @type {any} */ { id }) => id === grabbed),
      1,
    );
    listed.splice(at, 0, moved);
    this.editParts(`order of ${this.partSort.listed}`, listed);
  }

  /** @param {Part} part */
  isPartOn(part) {
    return part.on !== false;
  }

  /**
   * What a part is, and what it is set to: its summary, of which the first piece is its name.
   * @param {Part} part
   */
  partPieces(part) {
    return this.summaryOf(this.partKind(this.partSort, part), part.settings);
  }

  /** @param {Part} part */
  partTitle(part) {
    return this.partPieces(part)[0] || this.partKind(this.partSort, part).title;
  }

  /** @param {Part} part */
  partNote(part) {
    return [...this.partPieces(part).slice(1), this.isPartOn(part) ? "" : "off"].filter(Boolean).join(" · ");
  }

  /**
   * A declared setting as one of a part: with its address, and where the part is.
   * @param {Layer} layer
   * @param {any} sort
   * @param {number} number
   * @param {string} name
   */
  partSetting(layer, sort, number, name) {
    const part = this.partsOf(layer, sort)[number];
    const { settings } = this.partKind(sort, part);
    const setting = /** @type {Setting} */ (settings.find((candidate) => candidate.name === name));
    return { ...setting, place: `${sort.name}:${part.id}:${name}`, part: { listed: sort.listed, number } };
  }

  /**
   * @param {Part} part
   * @param {any} often
   */
  partFields(part, often) {
    const sort = this.partSort;
    const number = this.shownParts.findIndex((other) => other.id === part.id);
    if (!sort || number < 0) return [];
    const kind = this.partKind(sort, part);
    return kind.settings
      .filter((setting) => !setting.advanced === often)
      .filter((setting) =>
        setting.when.every(([name, values]) => this.settings.holds(kind.settings, part.settings, name, values)),
      )
      .map((setting) => this.partSetting(this.selection.layer, sort, number, setting.name));
  }

  /**
   * Where the settings of an owner are: the layer's own, or those of one of its parts.
   * @param {Setting} setting
   */
  settingsPath(setting) {
    return setting.part ? `${setting.part.listed}/${setting.part.number}/settings` : "settings";
  }

  /**
   * @param {string} what
   * @param {any} listed
   */
  editParts(what, listed) {
    const path = `/layers/${this.selection.layerIndex}/${this.partSort.listed}`;
    this.project.edit(`${this.selection.layer.name}: ${what}`, [{ op: "add", path, value: plain(listed) }]);
  }

  /** @param {any} kind */
  addPart(kind) {
    if (this.layerEdits.refuseLocked()) return;
    const part = { id: newId(), kind: kind.kind, on: true, settings: {} };
    for (const setting of kind.settings) /** @type {Values} */ (part.settings)[setting.name] = plain(setting.default);
    this.editParts(`add ${kind.title.toLowerCase()}`, [...this.shownParts, part]);
    this.openPart = part.id;
    this.views.handlesView.draw();
  }

  /** @param {Part} part */
  dropPart(part) {
    if (this.layerEdits.refuseLocked()) return;
    const value = plain(this.partReaders.withoutParts(this.selection.layer, [part.id]));
    this.project.edit(`${this.selection.layer.name}: remove ${this.partTitle(part)}`, [
      { op: "replace", path: `/layers/${this.selection.layerIndex}`, value },
    ]);
  }

  /** @param {Part} part */
  raisePart(part) {
    const listed = plain(this.shownParts);
    const at = listed.findIndex((/** @type {any} */ other) => other.id === part.id);
    if (at < 1 || this.layerEdits.refuseLocked()) return;
    [listed[at - 1], listed[at]] = [listed[at], listed[at - 1]];
    this.editParts(`order of ${this.partSort.listed}`, listed);
  }

  /** @param {Part} part */
  switchPart(part) {
    if (this.layerEdits.refuseLocked()) return;
    const on = !this.isPartOn(part);
    this.editParts(
      `${this.partTitle(part)} ${on ? "on" : "off"}`,
      this.shownParts.map((other) => (other.id === part.id ? { ...other, on } : other)),
    );
  }

  /**
   * The pieces of a kind's summary for some settings, those that are empty left out.
   * @param {any} kind
   * @param {any} settings
   */
  summaryOf(kind, settings) {
    if (!kind) return [];
    const value = (/** @type {string} */ name) =>
      settings[name] ?? (kind.settings.find((/** @type {Setting} */ setting) => setting.name === name) || {}).default;
    const pieces = kind.summary.split("|").map((/** @type {any} */ piece, /** @type {number} */ index) =>
      piece.replaceAll(
        /\{(\w+)(#?)\}/g,
        (/** @type {any} */ _, /** @type {string} */ name, /** @type {number} */ count, /** @type {number} */ at) => {
          const setting = kind.settings.find((/** @type {any} */ candidate) => candidate.name === name);
          return count
            ? String(value(name).length)
            : told(this.layers, setting, value(name), index === 0 && at === 0);
        },
      ),
    );
    // A unit that both ends of a range have stands once; one beat is no beats.
    return pieces
      .map((/** @type {string} */ text) =>
        text
          .replace(/ (\S+) – (\S+) \1(?= |$)/, "–$2 $1")
          .replace(/\b1 (\w+)s\b/, "1 $1")
          .trim(),
      )
      .filter(Boolean);
  }
}
