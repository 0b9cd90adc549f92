// What is done to whole layers: marks, names, order, groups.

import { plain } from "../lib/json_patch.js";
import { newId } from "../lib/ids.js";
import { partWith } from "../lib/studio_part.js";

export class LayerEdits extends partWith(
  "kinds",
  "layers",
  "messages",
  "partReaders",
  "playback",
  "project",
  "selection",
  "settings",
  "views",
) {
  /**
   * Says so and undoes what was tried when a layer that would change is locked.
   * @param {Layer[]} [layers]
   */
  refuseLocked(layers = this.selection.room === "sound" || !this.selection.layer ? [] : [this.selection.layer]) {
    const held = layers.find((layer) => layer.locked);
    if (!held) return false;
    this.project.draft = this.settings.dragValue = null;
    this.views.preview.still(this.playback.frame);
    this.messages.tell(`${held.name} is locked.`, "Unlock", () => {
      this.selection.choose(held);
      this.markLayer("locked");
    });
    this.project.document = plain(this.project.document);
    return true;
  }

  /** @param {"visible" | "solo" | "locked"} mark */
  markLayer(mark) {
    const layer = this.selection.layer,
      layerIndex = this.selection.layerIndex;
    const words = { visible: ["Show", "Hide"], solo: ["Solo", "End solo of"], locked: ["Lock", "Unlock"] }[mark];
    this.project.edit(`${words[layer[mark] ? 1 : 0]} ${layer.name}`, [
      { op: "add", path: `/layers/${layerIndex}/${mark}`, value: !layer[mark] },
    ]);
  }

  get soloOn() {
    return Boolean(this.selection.layer && this.selection.layer.solo);
  }

  get lockOn() {
    return Boolean(this.selection.layer && this.selection.layer.locked);
  }

  soloLayer() {
    this.markLayer("solo");
  }

  lockLayer() {
    this.markLayer("locked");
  }

  /** @param {Layer} layer */
  toggleLayer(layer) {
    this.project.edit(`${layer.visible ? "Hide" : "Show"} ${layer.name}`, [
      {
        op: "replace",
        path: `/layers/${this.layers.indexOf(layer.id)}/visible`,
        value: !layer.visible,
      },
    ]);
  }

  /** @param {FieldEvent} event */
  renameLayer(event) {
    const name = event.target.value.trim();
    if (name && name !== this.selection.layer.name)
      this.project.edit(`Rename ${this.selection.layer.name}`, [
        { op: "replace", path: `/layers/${this.selection.layerIndex}/name`, value: name },
      ]);
    else event.target.value = this.selection.layer.name;
  }

  /**
   * The steps that take layers out and put them back before the layer that stands at `before` now, or at the end.
   * @param {string[]} ids
   * @param {any} before
   * @param {string} group
   */
  reorder(ids, before, group) {
    const moving = this.project.document.layers.filter((layer) => ids.includes(layer.id));
    const rest = this.project.document.layers.filter((layer) => !ids.includes(layer.id));
    const at = before ? rest.findIndex((layer) => layer.id === before) : rest.length;
    const put = moving.map((layer) => ({ ...plain(layer), group }));
    const layers = [...rest.slice(0, at), ...put, ...rest.slice(at)];
    return [{ op: "replace", path: "/layers", value: layers.map(plain) }];
  }

  /** @param {number} by */
  moveLayer(by) {
    if (!this.selection.layer) return;
    const siblings = this.layers.membersOf(this.layers.groupOf(this.selection.layer));
    const place = siblings.indexOf(this.selection.layer) + by;
    if (place < 0 || place >= siblings.length) return;
    const other = siblings[place];
    const before = by > 0 ? siblings[place + 1] : other;
    const after = by > 0 && !before ? this.project.document.layers[this.layers.indexOf(other.id) + 1] : before;
    this.project.edit(
      `${by > 0 ? "Raise" : "Lower"} ${this.selection.layer.name}`,
      this.reorder(
        [this.selection.layer.id],
        after && after.id !== this.selection.layer.id ? after.id : null,
        this.layers.groupOf(this.selection.layer),
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
      !this.selection.layer ||
      this.layers.membersOf(this.layers.groupOf(this.selection.layer)).slice(-1)[0] === this.selection.layer
    );
  }

  get atBack() {
    return (
      !this.selection.layer ||
      this.layers.membersOf(this.layers.groupOf(this.selection.layer))[0] === this.selection.layer
    );
  }

  /** Into the group that stands next in front, or out of the one that it is in. */
  intoGroup() {
    const siblings = this.selection.layer ? this.layers.membersOf(this.layers.groupOf(this.selection.layer)) : [];
    const place = siblings.indexOf(this.selection.layer);
    const group =
      siblings.slice(place + 1).find((other) => this.layers.isGroup(other)) ||
      siblings
        .slice(0, place)
        .reverse()
        .find((other) => this.layers.isGroup(other));
    if (!group) {
      this.messages.tell("There is no group beside this layer. Choose layers and press Ctrl G.");
      return;
    }
    this.project.edit(
      `Move ${this.selection.layer.name} into ${group.name}`,
      this.reorder([this.selection.layer.id], null, group.id),
    );
  }

  outOfGroup() {
    const group = this.selection.layer && this.layers.byId(this.layers.groupOf(this.selection.layer));
    if (!group) return;
    const next = this.project.document.layers[this.layers.indexOf(group.id) + 1];
    this.project.edit(
      `Move ${this.selection.layer.name} out of ${group.name}`,
      this.reorder(
        [this.selection.layer.id],
        next && next.id !== this.selection.layer.id ? next.id : null,
        this.layers.groupOf(group),
      ),
    );
  }

  groupLayers() {
    const ids = this.selection.selected.filter(
      (id) =>
        !this.selection.selected.some(
          (other) => other !== id && this.layers.branch(other).some((member) => member.id === id),
        ),
    );
    if (!ids.length) {
      this.messages.tell("Choose the layers first: click them with Ctrl held.");
      return;
    }
    if (this.refuseLocked(ids.map((id) => this.layers.byId(id)))) return;
    const kind = /** @type {LayerKind} */ (this.kinds.find((candidate) => candidate.members));
    const parent = this.layers.groupOf(this.layers.byId(ids[0]));
    const group = {
      id: newId(),
      kind: kind.kind,
      name: this.layers.freshName(kind.title),
      visible: true,
      settings: /** @type {Values} */ ({}),
      patches: [],
      group: parent,
      ...this.partReaders.emptyParts,
      keyframes: {},
      frames: {},
    };
    for (const setting of kind.settings) group.settings[setting.name] = plain(setting.default);
    const top = Math.max(...ids.map((id) => this.layers.indexOf(id)));
    const layers = this.project.document.layers.flatMap((layer, index) => {
      const own = ids.includes(layer.id) ? { ...plain(layer), group: group.id } : plain(layer);
      return index === top ? [own, group] : [own];
    });
    this.project.edit(`Group ${ids.length > 1 ? `${ids.length} layers` : this.layers.byId(ids[0]).name}`, [
      { op: "replace", path: "/layers", value: layers },
    ]);
    this.selection.choose(group);
  }

  ungroup() {
    const layer = this.selection.layer;
    if (!this.layers.isGroup(layer)) {
      this.messages.tell("This is no group.");
      return;
    }
    if (this.refuseLocked()) return;
    const members = this.layers.membersOf(layer.id).map((member) => member.id);
    const layers = this.project.document.layers
      .filter((other) => other.id !== layer.id)
      .map((other) =>
        members.includes(other.id) ? { ...plain(other), group: this.layers.groupOf(layer) } : plain(other),
      );
    this.project.edit(`Ungroup ${layer.name}`, [
      { op: "replace", path: "/layers", value: this.partReaders.withoutReaders(layers, [layer.id]) },
    ]);
    this.selection.also = members.slice(0, -1);
    this.selection.setChosen(members[members.length - 1] || null);
  }
}
