// Parts that read other layers: what becomes of them when those are copied or deleted.

import { partWith } from "../lib/studio_part.js";

export class PartReaders extends partWith("given", "kinds", "parts") {
  /**
   * Ids of the layers that a part reads.
   * @param {PartSort} sort
   * @param {Part} part
   */
  readBy(sort, part) {
    return this.parts
      .partKind(sort, part)
      .settings.filter((setting) => setting.names_layer)
      .map((setting) => part.settings[setting.name])
      .filter(Boolean);
  }

  /**
   * A layer without some of its parts, and without what moved them.
   * @param {Layer} layer
   * @param {any} gone
   */
  withoutParts(layer, gone) {
    const kept = (/** @type {string} */ place) =>
      !this.given.partSorts.some((sort) =>
        gone.some((/** @type {string} */ id) => place.startsWith(`${sort.name}:${id}:`)),
      );
    const only = (/** @type {Values} */ values) =>
      Object.fromEntries(Object.entries(values || {}).filter(([place]) => kept(place)));
    const rows = this.given.partSorts.map((sort) => [
      sort.listed,
      this.parts.partsOf(layer, sort).filter((part) => !gone.includes(part.id)),
    ]);
    return {
      ...layer,
      ...Object.fromEntries(rows),
      patches: layer.patches.filter((patch) => kept(patch.setting)),
      keyframes: only(layer.keyframes),
      frames: Object.fromEntries(Object.entries(layer.frames || {}).map(([shape, values]) => [shape, only(values)])),
    };
  }

  /**
   * The parts of a layer that are nothing without one of some layers: masks.
   * @param {Layer} layer
   * @param {any} isRead
   */
  readersOf(layer, isRead) {
    return this.given.partSorts
      .filter((sort) => !sort.optional)
      .flatMap((sort) =>
        this.parts
          .partsOf(layer, sort)
          .filter((part) => this.readBy(sort, part).some(isRead))
          .map((part) => part.id),
      );
  }

  /**
   * @param {Layer[]} layers
   * @param {string[]} ids
   */
  withoutReaders(layers, ids) {
    return layers.map((layer) => {
      const gone = this.readersOf(layer, (/** @type {string} */ id) => ids.includes(id));
      const rest = gone.length ? this.withoutParts(layer, gone) : layer;
      return this.reading(rest, (/** @type {string} */ id) => (ids.includes(id) ? "" : id));
    });
  }

  /**
   * A layer that reads other layers by other ids: itself, and its parts. The same layer where nothing changes.
   * @param {Layer} layer
   * @param {any} idOf
   */
  reading(layer, idOf) {
    const changed = (/** @type {any} */ settings, /** @type {any} */ kind) => {
      const names = kind.settings
        .filter((/** @type {Setting} */ setting) => setting.names_layer)
        .map((/** @type {any} */ { name }) => name);
      const news = names.filter(
        (/** @type {string} */ name) => settings[name] && idOf(settings[name]) !== settings[name],
      );
      return news.length
        ? {
            ...settings,
            ...Object.fromEntries(news.map((/** @type {string} */ name) => [name, idOf(settings[name])])),
          }
        : settings;
    };
    const kind = this.kinds.find((candidate) => candidate.kind === layer.kind);
    const copy = { ...layer, settings: kind ? changed(layer.settings, kind) : layer.settings };
    for (const sort of this.given.partSorts)
      copy[sort.listed] = this.parts.partsOf(layer, sort).map((part) => ({
        ...part,
        settings: changed(part.settings, this.parts.partKind(sort, part)),
      }));
    return copy;
  }

  /**
   * A copy of a layer whose parts read the copies of what they read.
   * @param {Layer} layer
   * @param {any} ids
   */
  readingCopies(layer, ids) {
    return this.reading(layer, (/** @type {string} */ id) => ids.get(id) ?? id);
  }

  /** An empty row for each sort of parts. */
  get emptyParts() {
    return Object.fromEntries(this.given.partSorts.map((sort) => [sort.listed, []]));
  }
}
