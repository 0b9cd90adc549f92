// Patches: signals tied to settings, with the two values each moves between.

import { ask, refusalOf } from "../lib/api.js";
import { plain } from "../lib/json_patch.js";
import { readNumber } from "../lib/numbers.js";
import { typeOf } from "../lib/setting_type.js";
import { partWith } from "../lib/studio_part.js";

export class Patches extends partWith(
  "events",
  "given",
  "keyframes",
  "messages",
  "project",
  "quantities",
  "selection",
  "settings",
  "signals",
) {
  /** @type {string | null} */
  socket = null; // name of the setting whose menu of signals is open
  /** @param {Setting} setting */
  canPatch(setting) {
    return this.selection.room === "picture" && setting.moves;
  }

  /** @param {Setting} setting */
  patchesOf(setting) {
    if (this.selection.room !== "picture" || !this.selection.layer) return [];
    return (this.selection.layer.patches || [])
      .map((patch, index) => ({
        patch,
        index,
        setting,
        layer: this.selection.layer,
        layerIndex: this.selection.layerIndex,
        key: `${this.selection.layer.id}:${index}`,
      }))
      .filter(({ patch }) => patch.setting === this.settings.placeOf(setting));
  }

  /**
   * A patch that shows at once: numbers move by a quarter of their range, colours go to the signal's own.
   * @param {Setting} setting
   * @param {Signal} signal
   */
  patchFor(setting, signal) {
    const patch = {
      setting: this.settings.placeOf(setting),
      signal: signal.id,
      join: "replace",
      on: true,
      lag_ms: 0,
    };
    const now = plain(this.settings.current(setting));
    const type = typeOf(setting);
    const poses = type.numeric && this.keyframes.keysOf(setting).length > 1;
    return { ...patch, ...(poses ? { join: "poses", from: now, to: now } : type.ends(now, signal, setting)) };
  }

  /**
   * @param {Setting} setting
   * @param {Signal} signal
   */
  plug(setting, signal) {
    this.socket = null;
    this.project.edit(`${this.selection.layer.name}: ${setting.label} moves with ${signal.name}`, [
      {
        op: "add",
        path: `/layers/${this.selection.layerIndex}/patches/-`,
        value: this.patchFor(setting, signal),
      },
    ]);
  }

  /** What may be followed that no signal goes by yet. */
  get roles() {
    const names = new Set(this.signals.signals.map(({ name }) => name));
    return this.given.roles.filter((/** @type {any} */ role) => !names.has(role.text));
  }

  /**
   * Move a setting by what people call it: the signal is found in the sound and plugged in, in one step.
   * @param {Setting} setting
   * @param {{name: string, text: string}} role
   */
  async plugRole(setting, role) {
    this.socket = null;
    const { layer } = this.selection;
    try {
      const { signal } = await ask(`/projects/${this.project.state.id}/role-signals`, { json: { role: role.name } });
      if (this.selection.layer !== layer && this.selection.layer?.id !== layer.id) return;
      const made = { ...signal, colour: this.signals.nextColour() };
      this.project.edit(`${layer.name}: ${setting.label} moves with ${role.text}`, [
        { op: "add", path: "/signals/-", value: made },
        {
          op: "add",
          path: `/layers/${this.selection.layerIndex}/patches/-`,
          value: this.patchFor(setting, made),
        },
      ]);
      this.events.emit("signal-added");
    } catch (thrown) {
      this.messages.tell(refusalOf(thrown).message);
    }
  }

  /**
   * @param {any} item
   * @param {any} change
   * @param {string} [label]
   */
  putPatch(item, change, label = "patch") {
    const path = `/layers/${item.layerIndex}/patches/${item.index}`;
    const patch = Object.entries(change).map(([name, value]) => ({
      op: "replace",
      path: `${path}/${name}`,
      value,
    }));
    this.project.edit(`${item.layer.name}: ${item.setting.label} ${label}`, patch);
  }

  /** @param {any} item */
  unplug(item) {
    this.project.edit(`${item.layer.name}: ${item.setting.label} rests`, [
      { op: "remove", path: `/layers/${item.layerIndex}/patches/${item.index}` },
    ]);
  }

  /**
   * @param {any} item
   * @param {string} name
   */
  patchPath(item, name) {
    return `/layers/${item.layerIndex}/patches/${item.index}/${name}`;
  }

  /**
   * @param {any} item
   * @param {string} name
   * @param {FieldEvent} event
   */
  typePatch(item, name, event) {
    const path = this.patchPath(item, name);
    const { faults } = this.project;
    const now = Number(item.patch[name]);
    const { value: text } = event.target;
    const value = this.isQuantity(item, name) ? this.quantities.read(item.setting, text, now) : readNumber(text, now);
    if (!Number.isFinite(value)) {
      const what = `${item.setting.label}, ${name === "lag_ms" ? "delay" : name}`;
      faults[path] = `${what}: a number is needed, not “${event.target.value}”.`;
      return;
    }
    delete faults[path];
    event.target.value = this.endText(item, name, value);
    if (value !== item.patch[name]) this.putPatch(item, { [name]: value });
  }

  /**
   * @param {any} item
   * @param {string} name
   * @param {FieldEvent} event
   */
  colourPatch(item, name, event) {
    this.putPatch(item, { [name]: event.target.value });
  }

  /**
   * @param {any} item
   * @param {FieldEvent} event
   */
  joinPatch(item, event) {
    this.putPatch(item, { join: event.target.value });
  }

  /**
   * @param {any} item
   * @param {FieldEvent} event
   */
  signalPatch(item, event) {
    this.putPatch(item, { signal: event.target.value });
  }

  /** @param {any} item */
  switchPatch(item) {
    this.putPatch(item, { on: !item.patch.on }, item.patch.on ? "rests" : "moves");
  }

  /**
   * A gradient that the colour moves along, begun from its two ends; or none.
   * @param {any} item
   */
  toggleAlong(item) {
    const along = item.patch.along
      ? null
      : [
          { at: 0, colour: item.patch.from },
          { at: 0.5, colour: "#f4eadb" },
          { at: 1, colour: item.patch.to },
        ];
    this.project.edit(
      `${item.layer.name}: ${item.setting.label} ${along ? "along a gradient" : "between two colours"}`,
      [{ op: "add", path: this.patchPath(item, "along"), value: along }],
    );
  }

  /**
   * @param {any} item
   * @param {string} name
   */
  stopsIn(item, name) {
    return (item.patch[name] || []).map((/** @type {Stop} */ stop, /** @type {number} */ index) => ({
      ...stop,
      index,
    }));
  }

  /**
   * @param {any} item
   * @param {string} name
   * @param {number} index
   * @param {FieldEvent} event
   */
  stopPatch(item, name, index, event) {
    const stops = plain(item.patch[name]);
    stops[index].colour = event.target.value;
    this.putPatch(item, { [name]: stops });
  }

  /**
   * @param {any} item
   * @param {string} name
   */
  gradientPatch(item, name) {
    const stops = item.patch[name];
    if (stops.length === 1) return { background: stops[0].colour };
    const listed = stops.map((/** @type {Stop} */ stop) => `${stop.colour} ${stop.at * 100}%`).join(", ");
    return { background: `linear-gradient(to right in oklab, ${listed})` };
  }

  /**
   * The gradient as the layer has it now becomes an end of the patch.
   * @param {any} item
   * @param {string} name
   */
  takeGradient(item, name) {
    this.putPatch(item, { [name]: plain(this.settings.current(item.setting)) });
  }

  /** @param {any} item */
  signalOf(item) {
    return this.signals.signalById(item.patch.signal) || { name: "gone", colour: "#8a7388", id: "" };
  }

  /** @param {any} item */
  endUnit(item) {
    return item.patch.join === "multiply" ? "×" : this.quantities.unit(item.setting);
  }

  /**
   * True for an end that is in the setting's unit.
   * @param {any} item
   * @param {string} name
   */
  isQuantity(item, name) {
    return name !== "lag_ms" && item.patch.join !== "multiply" && item.setting.numeric;
  }

  /** @type {(item: any, name: string, value?: any) => string} */
  endText(item, name, value = item.patch[name]) {
    return this.isQuantity(item, name) && typeof value === "number"
      ? this.quantities.text(item.setting, value)
      : String(value);
  }

  /** @param {any} item */
  patchFault(item) {
    const base = `/layers/${item.layerIndex}/patches/${item.index}/`;
    const path = Object.keys(this.project.faults).find(
      (candidate) => candidate.startsWith(base) && this.project.faults[candidate],
    );
    return path ? this.project.faults[path] : "";
  }
}
