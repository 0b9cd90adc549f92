// The list of layers as a tree: choosing one or several, groups, order, marks, copies.

import { plain } from "./api.js";

const fresh = () => Math.random().toString(16).slice(2, 10).padEnd(8, "0");

export const layering = {
  chosen: null,
  also: [], // ids of layers chosen besides
  folded: {}, // ids of groups whose members are not shown in the list
  grabbedLayer: null,
  dropTarget: null,

  get layer() { return this.document.layers.find((layer) => layer.id === this.chosen) || null; },
  get layerIndex() { return this.indexOf(this.chosen); },
  indexOf(id) { return this.document.layers.findIndex((layer) => layer.id === id); },
  byId(id) { return this.document.layers.find((layer) => layer.id === id) || null; },
  groupOf(layer) { return layer.group || ""; },
  membersOf(id) { return this.document.layers.filter((layer) => this.groupOf(layer) === id); },
  isGroup(layer) { return Boolean(layer) && Boolean((this.kinds.find((kind) => kind.kind === layer.kind) || {}).members); },
  isFolded(layer) { return Boolean(this.folded[layer.id]); },
  fold(layer) { this.folded = { ...this.folded, [layer.id]: !this.folded[layer.id] }; },
  /** A layer and all that is in it, in the order of the document. */
  branch(id) {
    const inside = new Set([id]);
    for (let more = true; more;) {
      more = false;
      for (const layer of this.document.layers) {
        if (!inside.has(layer.id) && inside.has(this.groupOf(layer))) { inside.add(layer.id); more = true; }
      }
    }
    return this.document.layers.filter((layer) => inside.has(layer.id));
  },
  depthOf(layer) {
    let depth = 0;
    for (let group = this.groupOf(layer); group && depth < 30; group = this.groupOf(this.byId(group) || {})) depth += 1;
    return depth;
  },
  /** Front first, members under their group: what the list shows. */
  get layersFrontFirst() {
    const listed = [];
    const add = (group) => {
      for (const layer of this.membersOf(group).reverse()) {
        listed.push(layer);
        if (this.isGroup(layer) && !this.folded[layer.id]) add(layer.id);
      }
    };
    add("");
    return listed;
  },
  indent(layer) { return { "--depth": this.depthOf(layer) }; },

  kindTitle(layer) {
    const kind = this.kinds.find((candidate) => candidate.kind === layer.kind);
    return kind ? kind.title.toLowerCase() : layer.kind;
  },
  thumbOf(layer) { return this.thumbs[layer.id] || ""; },
  layerNote(layer) {
    const count = this.isGroup(layer) ? `${this.membersOf(layer.id).length} in it` : this.kindTitle(layer);
    const parts = this.given.partSorts.filter((sort) => this.partsOf(layer, sort).length).map((sort) => sort.listed);
    const keyed = Object.keys(layer.keyframes || {}).length ? "keyed" : "";
    const marks = [layer.solo ? "solo" : "", layer.locked ? "locked" : "", ...parts, keyed, this.isMissing(layer) ? "file missing" : ""];
    return [count, ...marks].filter(Boolean).join(" · ");
  },

  // Choosing
  get selected() { return [this.chosen, ...this.also].filter((id) => id && this.byId(id)); },
  get several() { return this.selected.length > 1; },
  get selectedText() { return this.several ? `${this.selected.length} layers` : ""; },
  isChosen(layer) { return layer.id === this.chosen || this.also.includes(layer.id); },
  choose(layer) {
    this.also = [];
    this.setChosen(layer.id);
  },
  setChosen(id) {
    this.chosen = id;
    this.dragValue = null;
    if (!this.tabs.some((tab) => tab.name === this.tab)) this.tab = this.tabs.length ? this.tabs[0].name : "shape";
    this.placeChanged();
  },
  /** A click in the list or on the picture: with Ctrl or Shift it takes a layer into the choice, or out of it. */
  pick(layer, event) {
    if (!(event && (event.ctrlKey || event.metaKey || event.shiftKey))) { this.choose(layer); return; }
    if (layer.id === this.chosen) {
      if (this.also.length) { const [next, ...rest] = this.also; this.also = rest; this.setChosen(next); }
    } else if (this.also.includes(layer.id)) this.also = this.also.filter((id) => id !== layer.id);
    else { this.also = [...this.also, layer.id]; if (!this.chosen) this.choose(layer); }
    this.placeChanged();
  },
  chooseAll() {
    const open = this.membersOf("").filter((layer) => !layer.locked);
    if (!open.length) return;
    this.also = open.slice(0, -1).map((layer) => layer.id);
    this.setChosen(open[open.length - 1].id);
  },

  // Marks
  /** Says so and undoes what was tried when a layer that would change is locked. */
  refuseLocked(layers = this.room === "sound" || !this.layer ? [] : [this.layer]) {
    const held = layers.find((layer) => layer.locked);
    if (!held) return false;
    this.draft = this.dragValue = null;
    this.preview.still(this.frame);
    this.tell(`${held.name} is locked.`, "Unlock", () => { this.choose(held); this.markLayer("locked"); });
    this.document = plain(this.document);
    return true;
  },
  markLayer(mark) {
    const { layer, layerIndex } = this;
    const words = { solo: ["Solo", "End solo of"], locked: ["Lock", "Unlock"] }[mark];
    this.edit(`${words[layer[mark] ? 1 : 0]} ${layer.name}`, [{ op: "add", path: `/layers/${layerIndex}/${mark}`, value: !layer[mark] }]);
  },
  get soloOn() { return Boolean(this.layer && this.layer.solo); },
  get lockOn() { return Boolean(this.layer && this.layer.locked); },
  soloLayer() { this.markLayer("solo"); },
  lockLayer() { this.markLayer("locked"); },
  toggleLayer(layer) {
    this.edit(`${layer.visible ? "Hide" : "Show"} ${layer.name}`, [{ op: "replace", path: `/layers/${this.indexOf(layer.id)}/visible`, value: !layer.visible }]);
  },
  renameLayer(event) {
    const name = event.target.value.trim();
    if (name && name !== this.layer.name) this.edit(`Rename ${this.layer.name}`, [{ op: "replace", path: `/layers/${this.layerIndex}/name`, value: name }]);
    else event.target.value = this.layer.name;
  },

  // Order
  /** The steps that take layers out and put them back before the layer that stands at `before` now, or at the end. */
  reorder(ids, before, group) {
    const moving = this.document.layers.filter((layer) => ids.includes(layer.id));
    const rest = this.document.layers.filter((layer) => !ids.includes(layer.id));
    const at = before ? rest.findIndex((layer) => layer.id === before) : rest.length;
    const put = moving.map((layer) => ({ ...plain(layer), group }));
    const layers = [...rest.slice(0, at), ...put, ...rest.slice(at)];
    return [{ op: "replace", path: "/layers", value: layers.map(plain) }];
  },
  moveLayer(by) {
    if (!this.layer) return;
    const siblings = this.membersOf(this.groupOf(this.layer));
    const place = siblings.indexOf(this.layer) + by;
    if (place < 0 || place >= siblings.length) return;
    const other = siblings[place];
    const before = by > 0 ? siblings[place + 1] : other;
    const after = by > 0 && !before ? this.document.layers[this.indexOf(other.id) + 1] : before;
    this.edit(`${by > 0 ? "Raise" : "Lower"} ${this.layer.name}`, this.reorder([this.layer.id], after && after.id !== this.layer.id ? after.id : null, this.groupOf(this.layer)));
  },
  raiseLayer() { this.moveLayer(1); },
  lowerLayer() { this.moveLayer(-1); },
  get atFront() { return !this.layer || this.membersOf(this.groupOf(this.layer)).slice(-1)[0] === this.layer; },
  get atBack() { return !this.layer || this.membersOf(this.groupOf(this.layer))[0] === this.layer; },
  grabLayer(layer, event) {
    if (!this.isChosen(layer)) this.choose(layer);
    this.grabbedLayer = layer.id;
    event.dataTransfer.effectAllowed = "move";
    event.dataTransfer.setData("text/plain", layer.name);
  },
  overLayer(layer, event) {
    if (!this.grabbedLayer) return;
    const box = event.currentTarget.getBoundingClientRect();
    const part = (event.clientY - box.top) / box.height;
    const where = this.isGroup(layer) && part > 0.3 && part < 0.75 ? "in" : part < 0.5 ? "front" : "back";
    if (!this.isTarget(layer, where)) this.dropTarget = { id: layer.id, where };
  },
  isTarget(layer, where) { return Boolean(this.dropTarget) && this.dropTarget.id === layer.id && this.dropTarget.where === where; },
  layLayer(layer) {
    const [grabbed, target] = [this.grabbedLayer, this.dropTarget];
    this.restLayer();
    if (!grabbed || !target || grabbed === layer.id) return;
    const ids = this.isChosen(this.byId(grabbed)) ? this.selected : [grabbed];
    const inside = new Set(ids.flatMap((id) => this.branch(id).map((other) => other.id)));
    if (inside.has(layer.id)) {
      this.tell("A group can't be moved into itself.");
      return;
    }
    const tops = ids.filter((id) => !ids.some((other) => other !== id && this.branch(other).some((member) => member.id === id)));
    if (this.refuseLocked(tops.map((id) => this.byId(id)))) return;
    const { layers } = this.document;
    const label = tops.length > 1 ? `Move ${tops.length} layers` : `Move ${this.byId(tops[0]).name}`;
    if (target.where === "in") this.edit(`${label} into ${layer.name}`, this.reorder(tops, null, layer.id));
    else {
      const next = target.where === "front" ? layers.slice(this.indexOf(layer.id) + 1).find((other) => !tops.includes(other.id)) : layer;
      this.edit(label, this.reorder(tops, next ? next.id : null, this.groupOf(layer)));
    }
  },
  restLayer() { this.grabbedLayer = this.dropTarget = null; },
  /** Into the group that stands next in front, or out of the one that it is in. */
  intoGroup() {
    const siblings = this.layer ? this.membersOf(this.groupOf(this.layer)) : [];
    const place = siblings.indexOf(this.layer);
    const group = siblings.slice(place + 1).find((other) => this.isGroup(other)) || siblings.slice(0, place).reverse().find((other) => this.isGroup(other));
    if (!group) { this.tell("There is no group beside this layer. Choose layers and press Ctrl G."); return; }
    this.edit(`Move ${this.layer.name} into ${group.name}`, this.reorder([this.layer.id], null, group.id));
  },
  outOfGroup() {
    const group = this.layer && this.byId(this.groupOf(this.layer));
    if (!group) return;
    const next = this.document.layers[this.indexOf(group.id) + 1];
    this.edit(`Move ${this.layer.name} out of ${group.name}`, this.reorder([this.layer.id], next && next.id !== this.layer.id ? next.id : null, this.groupOf(group)));
  },

  // Groups
  groupLayers() {
    const ids = this.selected.filter((id) => !this.selected.some((other) => other !== id && this.branch(other).some((member) => member.id === id)));
    if (!ids.length) { this.tell("Choose the layers first: click them with Ctrl held."); return; }
    if (this.refuseLocked(ids.map((id) => this.byId(id)))) return;
    const kind = this.kinds.find((candidate) => candidate.members);
    const parent = this.groupOf(this.byId(ids[0]));
    const group = { id: fresh(), kind: kind.kind, name: this.freshName(kind.title), visible: true, settings: {}, patches: [], group: parent, ...this.emptyParts, keyframes: {}, frames: {} };
    for (const setting of kind.settings) group.settings[setting.name] = plain(setting.default);
    const top = Math.max(...ids.map((id) => this.indexOf(id)));
    const layers = this.document.layers.flatMap((layer, index) => {
      const own = ids.includes(layer.id) ? { ...plain(layer), group: group.id } : plain(layer);
      return index === top ? [own, group] : [own];
    });
    this.edit(`Group ${ids.length > 1 ? `${ids.length} layers` : this.byId(ids[0]).name}`, [{ op: "replace", path: "/layers", value: layers }]);
    this.choose(group);
  },
  ungroup() {
    const { layer } = this;
    if (!this.isGroup(layer)) { this.tell("This is no group."); return; }
    if (this.refuseLocked()) return;
    const members = this.membersOf(layer.id).map((member) => member.id);
    const layers = this.document.layers.filter((other) => other.id !== layer.id)
      .map((other) => (members.includes(other.id) ? { ...plain(other), group: this.groupOf(layer) } : plain(other)));
    this.edit(`Ungroup ${layer.name}`, [{ op: "replace", path: "/layers", value: this.withoutReaders(layers, [layer.id]) }]);
    this.also = members.slice(0, -1);
    this.setChosen(members[members.length - 1] || null);
  },
  freshName(base) {
    const names = new Set(this.document.layers.map((layer) => layer.name));
    if (!names.has(base)) return base;
    for (let n = 2; ; n += 1) if (!names.has(`${base} ${n}`)) return `${base} ${n}`;
  },
  // Copies
  /** Layers with new ids; what they say of each other is kept. */
  renewed(layers) {
    const ids = new Map(layers.map((layer) => [layer.id, fresh()]));
    return layers.map((layer) => {
      const copy = { ...plain(layer), id: ids.get(layer.id), group: ids.get(layer.group) ?? layer.group ?? "" };
      return this.readingCopies(copy, ids);
    });
  },
  copyLayer() {
    const ids = this.selected;
    const tops = ids.filter((id) => !ids.some((other) => other !== id && this.branch(other).some((member) => member.id === id)));
    if (!tops.length) return;
    const whole = this.document.layers.filter((layer) => tops.some((id) => this.branch(id).includes(layer)));
    const copies = this.renewed(whole);
    const made = [];
    whole.forEach((layer, index) => { if (tops.includes(layer.id)) { copies[index].name = `${layer.name} copy`; made.push(copies[index]); } });
    const at = Math.max(...tops.map((id) => this.indexOf(id))) + 1;
    this.edit(`Copy ${tops.length > 1 ? `${tops.length} layers` : this.layer.name}`, copies.map((copy, index) => ({ op: "add", path: `/layers/${at + index}`, value: copy })));
    this.also = made.slice(0, -1).map((copy) => copy.id);
    this.setChosen(made[made.length - 1].id);
  },
  dropLayer() {
    const layers = this.selected.map((id) => this.byId(id));
    if (!layers.length || this.refuseLocked(layers)) return;
    const gone = [...new Set(layers.flatMap((layer) => this.branch(layer.id).map((other) => other.id)))];
    const name = layers.length > 1 ? `${layers.length} layers` : layers[0].name;
    const rest = this.withoutReaders(this.document.layers.filter((layer) => !gone.includes(layer.id)), gone).map(plain);
    const next = rest[Math.max(0, Math.min(rest.length - 1, this.layerIndex - 1))];
    this.edit(`Delete ${name}`, [{ op: "replace", path: "/layers", value: rest }]);
    this.also = [];
    this.chosen = null;
    if (next) this.setChosen(next.id);
    this.tell(`${name} ${layers.length > 1 ? "are" : "is"} deleted.`, "Undo", () => this.undo());
  },
  /** Keep the chosen layers for pasting, here or in another project, with the signals that drive them. */
  keepLayer() {
    const ids = this.selected;
    if (!ids.length) return;
    const layers = this.document.layers.filter((layer) => ids.some((id) => this.branch(id).includes(layer))).map(plain);
    const inside = new Set(layers.map((layer) => layer.id));
    for (const layer of layers) if (!inside.has(layer.group)) layer.group = "";
    const wanted = new Set(layers.flatMap((layer) => layer.patches.map((patch) => patch.signal)));
    const signals = plain(this.signals.filter((signal) => wanted.has(signal.id)));
    localStorage.setItem("velvet-layers", JSON.stringify({ layers, signals }));
    this.tell(`${ids.length > 1 ? `${ids.length} layers are` : `${this.layer.name} is`} copied; paste here or in another project.`);
  },
  /** Paste the kept layers in front of the chosen one. Signals that this project lacks come with them. */
  pasteLayer() {
    let held;
    try { held = JSON.parse(localStorage.getItem("velvet-layers")); } catch { held = null; }
    if (!held || !held.layers) {
      this.tell("No layer has been copied yet: choose one and press Ctrl C.");
      return;
    }
    const known = new Set(this.signals.map((signal) => signal.id));
    const brought = held.signals.filter((signal) => !known.has(signal.id) && !this.signalKind(signal).reads);
    for (const signal of brought) known.add(signal.id);
    const here = new Set([...this.document.layers, ...held.layers].map((layer) => layer.id));
    const layers = this.renewed(held.layers).map((layer) => ({ ...layer, locked: false, solo: false, patches: layer.patches.filter((patch) => known.has(patch.signal)) }));
    const lost = held.layers.some((layer, index) => layer.patches.length > layers[index].patches.length);
    const isGone = (id) => !here.has(id) && !layers.some((other) => other.id === id);
    const readers = layers.flatMap((layer) => this.readersOf(layer, isGone));
    const put = layers.map((layer) => this.withoutParts(layer, readers));
    const at = this.layerIndex + 1;
    this.edit(`Paste ${put.length > 1 ? `${put.length} layers` : put[0].name}`, [
      ...brought.map((signal) => ({ op: "add", path: "/signals/-", value: signal })),
      ...put.map((layer, index) => ({ op: "add", path: `/layers/${at + index}`, value: layer })),
    ]);
    const tops = put.filter((layer) => !put.some((other) => other.id === layer.group));
    this.also = tops.slice(0, -1).map((layer) => layer.id);
    this.setChosen(tops[tops.length - 1].id);
    if (lost || readers.length) this.tell("Pasted; what belongs to the other project, a mix or a mask, stayed there.");
    this.checkMissing();
  },
};
