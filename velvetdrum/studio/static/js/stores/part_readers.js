// Parts that read other layers: what becomes of them when those are copied or deleted.

import { StudioPart } from "../lib/studio_part.js";

export class PartReaders extends StudioPart {
  /** Ids of the layers that a part reads. */
  readBy(sort, part) {
    return this.studio.parts
      .partKind(sort, part)
      .settings.filter((setting) => setting.names_layer)
      .map((setting) => part.settings[setting.name])
      .filter(Boolean);
  }
  /** A layer without some of its parts, and without what moved them. */
  withoutParts(layer, gone) {
    const kept = (place) =>
      !this.studio.given.partSorts.some((sort) => gone.some((id) => place.startsWith(`${sort.name}:${id}:`)));
    const only = (values) => Object.fromEntries(Object.entries(values || {}).filter(([place]) => kept(place)));
    const rows = this.studio.given.partSorts.map((sort) => [
      sort.listed,
      this.studio.parts.partsOf(layer, sort).filter((part) => !gone.includes(part.id)),
    ]);
    return {
      ...layer,
      ...Object.fromEntries(rows),
      patches: layer.patches.filter((patch) => kept(patch.setting)),
      keyframes: only(layer.keyframes),
      frames: Object.fromEntries(Object.entries(layer.frames || {}).map(([shape, values]) => [shape, only(values)])),
    };
  }
  /** The parts of a layer that read one of some layers. */
  readersOf(layer, isRead) {
    return this.studio.given.partSorts.flatMap((sort) =>
      this.studio.parts
        .partsOf(layer, sort)
        .filter((part) => this.readBy(sort, part).some(isRead))
        .map((part) => part.id),
    );
  }
  withoutReaders(layers, ids) {
    return layers.map((layer) => {
      const gone = this.readersOf(layer, (id) => ids.includes(id));
      return gone.length ? this.withoutParts(layer, gone) : layer;
    });
  }
  /** A copy of a layer whose parts read the copies of what they read. */
  readingCopies(layer, ids) {
    const copy = { ...layer };
    for (const sort of this.studio.given.partSorts) {
      copy[sort.listed] = this.studio.parts.partsOf(layer, sort).map((part) => {
        const settings = { ...part.settings };
        for (const setting of this.studio.parts.partKind(sort, part).settings) {
          if (setting.names_layer && settings[setting.name])
            settings[setting.name] = ids.get(settings[setting.name]) ?? settings[setting.name];
        }
        return { ...part, settings };
      });
    }
    return copy;
  }
  /** An empty row for each sort of parts. */
  get emptyParts() {
    return Object.fromEntries(this.studio.given.partSorts.map((sort) => [sort.listed, []]));
  }
}
