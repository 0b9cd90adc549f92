// What is done to whole layers: marks, names, order, groups.

import { plain } from "../lib/json_patch.js";
import { newId } from "../lib/ids.js";
import { StudioPart } from "../lib/studio_part.js";

export class LayerEdits extends StudioPart {
  /** Says so and undoes what was tried when a layer that would change is locked. */
  refuseLocked(
    layers = this.studio.selection.room === "sound" || !this.studio.selection.layer
      ? []
      : [this.studio.selection.layer],
  ) {
    const held = layers.find((layer) => layer.locked);
    if (!held) return false;
    this.studio.project.draft = this.studio.settings.dragValue = null;
    this.studio.views.preview.still(this.studio.playback.frame);
    this.studio.messages.tell(`${held.name} is locked.`, "Unlock", () => {
      this.studio.selection.choose(held);
      this.markLayer("locked");
    });
    this.studio.project.document = plain(this.studio.project.document);
    return true;
  }
  markLayer(mark) {
    const layer = this.studio.selection.layer,
      layerIndex = this.studio.selection.layerIndex;
    const words = { solo: ["Solo", "End solo of"], locked: ["Lock", "Unlock"] }[mark];
    this.studio.project.edit(`${words[layer[mark] ? 1 : 0]} ${layer.name}`, [
      { op: "add", path: `/layers/${layerIndex}/${mark}`, value: !layer[mark] },
    ]);
  }
  get soloOn() {
    return Boolean(this.studio.selection.layer && this.studio.selection.layer.solo);
  }
  get lockOn() {
    return Boolean(this.studio.selection.layer && this.studio.selection.layer.locked);
  }
  soloLayer() {
    this.markLayer("solo");
  }
  lockLayer() {
    this.markLayer("locked");
  }
  toggleLayer(layer) {
    this.studio.project.edit(`${layer.visible ? "Hide" : "Show"} ${layer.name}`, [
      {
        op: "replace",
        path: `/layers/${this.studio.layers.indexOf(layer.id)}/visible`,
        value: !layer.visible,
      },
    ]);
  }
  renameLayer(event) {
    const name = event.target.value.trim();
    if (name && name !== this.studio.selection.layer.name)
      this.studio.project.edit(`Rename ${this.studio.selection.layer.name}`, [
        { op: "replace", path: `/layers/${this.studio.selection.layerIndex}/name`, value: name },
      ]);
    else event.target.value = this.studio.selection.layer.name;
  }
  /** The steps that take layers out and put them back before the layer that stands at `before` now, or at the end. */
  reorder(ids, before, group) {
    const moving = this.studio.project.document.layers.filter((layer) => ids.includes(layer.id));
    const rest = this.studio.project.document.layers.filter((layer) => !ids.includes(layer.id));
    const at = before ? rest.findIndex((layer) => layer.id === before) : rest.length;
    const put = moving.map((layer) => ({ ...plain(layer), group }));
    const layers = [...rest.slice(0, at), ...put, ...rest.slice(at)];
    return [{ op: "replace", path: "/layers", value: layers.map(plain) }];
  }
  moveLayer(by) {
    if (!this.studio.selection.layer) return;
    const siblings = this.studio.layers.membersOf(this.studio.layers.groupOf(this.studio.selection.layer));
    const place = siblings.indexOf(this.studio.selection.layer) + by;
    if (place < 0 || place >= siblings.length) return;
    const other = siblings[place];
    const before = by > 0 ? siblings[place + 1] : other;
    const after =
      by > 0 && !before ? this.studio.project.document.layers[this.studio.layers.indexOf(other.id) + 1] : before;
    this.studio.project.edit(
      `${by > 0 ? "Raise" : "Lower"} ${this.studio.selection.layer.name}`,
      this.reorder(
        [this.studio.selection.layer.id],
        after && after.id !== this.studio.selection.layer.id ? after.id : null,
        this.studio.layers.groupOf(this.studio.selection.layer),
      ),
    );
  }
  raiseLayer() {
    this.moveLayer(1);
  }
  lowerLayer() {
    this.moveLayer(-1);
  }
  get atFront() {
    return (
      !this.studio.selection.layer ||
      this.studio.layers.membersOf(this.studio.layers.groupOf(this.studio.selection.layer)).slice(-1)[0] ===
        this.studio.selection.layer
    );
  }
  get atBack() {
    return (
      !this.studio.selection.layer ||
      this.studio.layers.membersOf(this.studio.layers.groupOf(this.studio.selection.layer))[0] ===
        this.studio.selection.layer
    );
  }
  /** Into the group that stands next in front, or out of the one that it is in. */
  intoGroup() {
    const siblings = this.studio.selection.layer
      ? this.studio.layers.membersOf(this.studio.layers.groupOf(this.studio.selection.layer))
      : [];
    const place = siblings.indexOf(this.studio.selection.layer);
    const group =
      siblings.slice(place + 1).find((other) => this.studio.layers.isGroup(other)) ||
      siblings
        .slice(0, place)
        .reverse()
        .find((other) => this.studio.layers.isGroup(other));
    if (!group) {
      this.studio.messages.tell("There is no group beside this layer. Choose layers and press Ctrl G.");
      return;
    }
    this.studio.project.edit(
      `Move ${this.studio.selection.layer.name} into ${group.name}`,
      this.reorder([this.studio.selection.layer.id], null, group.id),
    );
  }
  outOfGroup() {
    const group =
      this.studio.selection.layer && this.studio.layers.byId(this.studio.layers.groupOf(this.studio.selection.layer));
    if (!group) return;
    const next = this.studio.project.document.layers[this.studio.layers.indexOf(group.id) + 1];
    this.studio.project.edit(
      `Move ${this.studio.selection.layer.name} out of ${group.name}`,
      this.reorder(
        [this.studio.selection.layer.id],
        next && next.id !== this.studio.selection.layer.id ? next.id : null,
        this.studio.layers.groupOf(group),
      ),
    );
  }
  groupLayers() {
    const ids = this.studio.selection.selected.filter(
      (id) =>
        !this.studio.selection.selected.some(
          (other) => other !== id && this.studio.layers.branch(other).some((member) => member.id === id),
        ),
    );
    if (!ids.length) {
      this.studio.messages.tell("Choose the layers first: click them with Ctrl held.");
      return;
    }
    if (this.refuseLocked(ids.map((id) => this.studio.layers.byId(id)))) return;
    const kind = this.studio.kinds.find((candidate) => candidate.members);
    const parent = this.studio.layers.groupOf(this.studio.layers.byId(ids[0]));
    const group = {
      id: newId(),
      kind: kind.kind,
      name: this.studio.layers.freshName(kind.title),
      visible: true,
      settings: {},
      patches: [],
      group: parent,
      ...this.studio.partReaders.emptyParts,
      keyframes: {},
      frames: {},
    };
    for (const setting of kind.settings) group.settings[setting.name] = plain(setting.default);
    const top = Math.max(...ids.map((id) => this.studio.layers.indexOf(id)));
    const layers = this.studio.project.document.layers.flatMap((layer, index) => {
      const own = ids.includes(layer.id) ? { ...plain(layer), group: group.id } : plain(layer);
      return index === top ? [own, group] : [own];
    });
    this.studio.project.edit(
      `Group ${ids.length > 1 ? `${ids.length} layers` : this.studio.layers.byId(ids[0]).name}`,
      [{ op: "replace", path: "/layers", value: layers }],
    );
    this.studio.selection.choose(group);
  }
  ungroup() {
    const layer = this.studio.selection.layer;
    if (!this.studio.layers.isGroup(layer)) {
      this.studio.messages.tell("This is no group.");
      return;
    }
    if (this.refuseLocked()) return;
    const members = this.studio.layers.membersOf(layer.id).map((member) => member.id);
    const layers = this.studio.project.document.layers
      .filter((other) => other.id !== layer.id)
      .map((other) =>
        members.includes(other.id) ? { ...plain(other), group: this.studio.layers.groupOf(layer) } : plain(other),
      );
    this.studio.project.edit(`Ungroup ${layer.name}`, [
      { op: "replace", path: "/layers", value: this.studio.partReaders.withoutReaders(layers, [layer.id]) },
    ]);
    this.studio.selection.also = members.slice(0, -1);
    this.studio.selection.setChosen(members[members.length - 1] || null);
  }
}
