// Parts of the chosen layer, such as its masks and its effects: each sort a list, each part with its settings.

import { plain } from "./api.js";

const fresh = () => Math.random().toString(16).slice(2, 10).padEnd(8, "0");

export const parts = {
  openPart: null, // id of the part whose settings are shown

  /** The sort of parts that the panel shows, if it shows one. */
  get partSort() { return this.given.partSorts.find((sort) => sort.name === this.tab) || null; },
  sortNamed(name) { return this.given.partSorts.find((sort) => sort.name === name); },
  partsOf(layer, sort) { return (layer && layer[sort.listed]) || []; },
  get shownParts() { return this.partSort ? this.partsOf(this.layer, this.partSort) : []; },
  partKind(sort, part) { return sort.kinds.find((kind) => kind.kind === part.kind); },
  isOpenPart(part) { return this.openPart === part.id; },
  togglePart(part) { this.openPart = this.isOpenPart(part) ? null : part.id; },
  isPartOn(part) { return part.on !== false; },
  /** What a part is, and what it is set to: its summary, of which the first piece is its name. */
  partPieces(part) { return this.summaryOf(this.partKind(this.partSort, part), part.settings); },
  partTitle(part) { return this.partPieces(part)[0] || this.partKind(this.partSort, part).title; },
  partNote(part) { return [...this.partPieces(part).slice(1), this.isPartOn(part) ? "" : "off"].filter(Boolean).join(" · "); },
  /** A declared setting as one of a part: with its address, and where the part is. */
  partSetting(layer, sort, number, name) {
    const part = this.partsOf(layer, sort)[number];
    const setting = this.partKind(sort, part).settings.find((candidate) => candidate.name === name);
    return { ...setting, place: `${sort.name}:${part.id}:${name}`, part: { listed: sort.listed, number } };
  },
  partFields(part, often) {
    const sort = this.partSort;
    const number = this.shownParts.findIndex((other) => other.id === part.id);
    if (!sort || number < 0) return [];
    const kind = this.partKind(sort, part);
    return kind.settings
      .filter((setting) => !setting.advanced === often)
      .filter((setting) => setting.when.every(([name, values]) => this.holds(kind.settings, part.settings, name, values)))
      .map((setting) => this.partSetting(this.layer, sort, number, setting.name));
  },
  /** Where the settings of an owner are: the layer's own, or those of one of its parts. */
  settingsPath(setting) { return setting.part ? `${setting.part.listed}/${setting.part.number}/settings` : "settings"; },

  editParts(what, listed) {
    const path = `/layers/${this.layerIndex}/${this.partSort.listed}`;
    this.edit(`${this.layer.name}: ${what}`, [{ op: "add", path, value: plain(listed) }]);
  },
  addPart(kind) {
    if (this.refuseLocked()) return;
    const part = { id: fresh(), kind: kind.kind, on: true, settings: {} };
    for (const setting of kind.settings) part.settings[setting.name] = plain(setting.default);
    this.editParts(`add ${kind.title.toLowerCase()}`, [...this.shownParts, part]);
    this.openPart = part.id;
  },
  dropPart(part) {
    if (this.refuseLocked()) return;
    const value = plain(this.withoutParts(this.layer, [part.id]));
    this.edit(`${this.layer.name}: remove ${this.partTitle(part)}`, [{ op: "replace", path: `/layers/${this.layerIndex}`, value }]);
  },
  raisePart(part) {
    const listed = plain(this.shownParts);
    const at = listed.findIndex((other) => other.id === part.id);
    if (at < 1 || this.refuseLocked()) return;
    [listed[at - 1], listed[at]] = [listed[at], listed[at - 1]];
    this.editParts(`order of ${this.partSort.listed}`, listed);
  },
  switchPart(part) {
    if (this.refuseLocked()) return;
    const on = !this.isPartOn(part);
    this.editParts(`${this.partTitle(part)} ${on ? "on" : "off"}`, this.shownParts.map((other) => (other.id === part.id ? { ...other, on } : other)));
  },

  /** Ids of the layers that a part reads. */
  readBy(sort, part) {
    return this.partKind(sort, part).settings.filter((setting) => setting.names_layer).map((setting) => part.settings[setting.name]).filter(Boolean);
  },
  /** A layer without some of its parts, and without what moved them. */
  withoutParts(layer, gone) {
    const kept = (place) => !this.given.partSorts.some((sort) => gone.some((id) => place.startsWith(`${sort.name}:${id}:`)));
    const only = (values) => Object.fromEntries(Object.entries(values || {}).filter(([place]) => kept(place)));
    const rows = this.given.partSorts.map((sort) => [sort.listed, this.partsOf(layer, sort).filter((part) => !gone.includes(part.id))]);
    return {
      ...layer,
      ...Object.fromEntries(rows),
      patches: layer.patches.filter((patch) => kept(patch.setting)),
      keyframes: only(layer.keyframes),
      frames: Object.fromEntries(Object.entries(layer.frames || {}).map(([shape, values]) => [shape, only(values)])),
    };
  },
  /** The parts of a layer that read one of some layers. */
  readersOf(layer, isRead) {
    return this.given.partSorts.flatMap((sort) => this.partsOf(layer, sort).filter((part) => this.readBy(sort, part).some(isRead)).map((part) => part.id));
  },
  withoutReaders(layers, ids) {
    return layers.map((layer) => {
      const gone = this.readersOf(layer, (id) => ids.includes(id));
      return gone.length ? this.withoutParts(layer, gone) : layer;
    });
  },
  /** A copy of a layer whose parts read the copies of what they read. */
  readingCopies(layer, ids) {
    const copy = { ...layer };
    for (const sort of this.given.partSorts) {
      copy[sort.listed] = this.partsOf(layer, sort).map((part) => {
        const settings = { ...part.settings };
        for (const setting of this.partKind(sort, part).settings) {
          if (setting.names_layer && settings[setting.name]) settings[setting.name] = ids.get(settings[setting.name]) ?? settings[setting.name];
        }
        return { ...part, settings };
      });
    }
    return copy;
  },
  /** An empty row for each sort of parts. */
  get emptyParts() { return Object.fromEntries(this.given.partSorts.map((sort) => [sort.listed, []])); },

  /** What can be chosen where another layer is asked for: all but this one and those that would lead back to it. */
  get otherLayers() {
    if (!this.layer) return [];
    const own = new Set(this.branch(this.layer.id).map((layer) => layer.id));
    const above = new Set();
    for (let group = this.groupOf(this.layer); group; group = this.groupOf(this.byId(group) || {})) above.add(group);
    return this.document.layers.filter((layer) => !own.has(layer.id) && !above.has(layer.id));
  },
};
