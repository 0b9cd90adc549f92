// The layers as a tree: who is in which group, in what order they are shown, and new ones.

import { partWith } from "../lib/studio_part.js";

export class LayerTree extends partWith("kinds", "partReaders", "project", "selection") {
  /** @type {Record<string, boolean>} */
  folded = {}; // ids of groups whose members are not shown in the list
  /** @param {string} id */
  indexOf(id) {
    return this.project.document.layers.findIndex((layer) => layer.id === id);
  }

  /** @param {string} id */
  byId(id) {
    return /** @type {Layer} */ (this.project.document.layers.find((layer) => layer.id === id) || null);
  }

  /** @param {Layer} layer */
  groupOf(layer) {
    return layer.group || "";
  }

  /** @param {string} id */
  membersOf(id) {
    return this.project.document.layers.filter((layer) => this.groupOf(layer) === id);
  }

  /** @param {Layer} layer */
  isGroup(layer) {
    return Boolean(layer) && Boolean((this.kinds.find((kind) => kind.kind === layer.kind) || {}).members);
  }

  /**
   * True for a member of a layer with a camera.
   * @param {Layer} layer
   */
  isInSpace(layer) {
    const group = this.byId(this.groupOf(layer));
    return Boolean(group) && Boolean(this.cameraOf(group));
  }

  /**
   * The settings by which a layer's camera is handled on the picture; null for layers without one.
   * @param {any} layer
   */
  cameraOf(layer) {
    const kind = this.kinds.find((candidate) => candidate.kind === layer.kind);
    return kind && kind.camera.across ? /** @type {Required<LayerKind["camera"]>} */ (kind.camera) : null;
  }

  /** @param {Layer} layer */
  isFolded(layer) {
    return Boolean(this.folded[layer.id]);
  }

  /** @param {Layer} layer */
  fold(layer) {
    this.folded = { ...this.folded, [layer.id]: !this.folded[layer.id] };
  }

  /**
   * A layer and all that is in it, in the order of the document.
   * @param {string} id
   */
  branch(id) {
    const inside = new Set([id]);
    for (let more = true; more;) {
      more = false;
      for (const layer of this.project.document.layers) {
        if (!inside.has(layer.id) && inside.has(this.groupOf(layer))) {
          inside.add(layer.id);
          more = true;
        }
      }
    }
    return this.project.document.layers.filter((layer) => inside.has(layer.id));
  }

  /** @param {Layer} layer */
  depthOf(layer) {
    let depth = 0;
    for (let group = this.groupOf(layer); group && depth < 30; group = this.groupOf(this.byId(group) || {}))
      depth += 1;
    return depth;
  }

  /** Front first, members under their group: what the list shows. */
  get layersFrontFirst() {
    /** @type {any[]} */
    const listed = [];
    const add = (/** @type {string} */ group) => {
      for (const layer of this.membersOf(group).reverse()) {
        listed.push(layer);
        if (this.isGroup(layer) && !this.folded[layer.id]) add(layer.id);
      }
    };
    add("");
    return listed;
  }

  /** @param {Layer} layer */
  kindTitle(layer) {
    const kind = this.kinds.find((candidate) => candidate.kind === layer.kind);
    return kind ? kind.title.toLowerCase() : layer.kind;
  }

  /** @param {any} base */
  freshName(base) {
    const names = new Set(this.project.document.layers.map((layer) => layer.name));
    if (!names.has(base)) return base;
    for (let n = 2; ; n += 1) if (!names.has(`${base} ${n}`)) return `${base} ${n}`;
  }

  /** What can be chosen where another layer is asked for: all but this one and those that would lead back to it. */
  get otherLayers() {
    if (!this.selection.layer) return [];
    const own = new Set(this.branch(this.selection.layer.id).map((layer) => layer.id));
    const above = new Set();
    for (let group = this.groupOf(this.selection.layer); group; group = this.groupOf(this.byId(group) || {}))
      above.add(group);
    return this.project.document.layers.filter((layer) => !own.has(layer.id) && !above.has(layer.id));
  }

  /** @param {Layer} layer */
  hasOwnPlace(layer) {
    const kind = /** @type {LayerKind} */ (this.kinds.find((item) => item.kind === layer.kind));
    return ["x", "y"].every((name) => kind.settings.some((setting) => setting.name === name));
  }

  /**
   * @param {Layer} layer
   * @param {string} name
   */
  hasSetting(layer, name) {
    return /** @type {LayerKind} */ (this.kinds.find((item) => item.kind === layer.kind)).settings.some(
      (setting) => setting.name === name,
    );
  }

  /**
   * @param {string} kind
   * @param {string} name
   * @param {Values} values
   */
  newLayer(kind, name, values) {
    const declared = /** @type {LayerKind} */ (this.kinds.find((candidate) => candidate.kind === kind));
    const settings = Object.fromEntries(
      declared.settings.map((setting) => [setting.name, JSON.parse(JSON.stringify(setting.default))]),
    );
    const id = Math.random().toString(16).slice(2, 10).padEnd(8, "0");
    const own = { ...settings, ...values };
    return {
      id,
      kind,
      name,
      visible: true,
      settings: own,
      patches: [],
      group: "",
      ...this.partReaders.emptyParts,
      keyframes: {},
      frames: {},
    };
  }

  /**
   * Where in the order a new layer of a kind is put: as far back as its kind asks, else in front of all.
   * @param {string} kind
   */
  placeFor(kind) {
    const depth = (/** @type {string} */ name) =>
      (this.kinds.find((candidate) => candidate.kind === name) || { depth: 2 }).depth;
    const { layers } = this.project.document;
    return depth(kind) < 2 ? layers.filter((other) => depth(other.kind) < depth(kind)).length : layers.length;
  }
}
