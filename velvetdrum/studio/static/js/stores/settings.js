// Values of settings: where each is kept, what is in force now, and the steps that change it.

import { ask } from "../lib/api.js";
import { plain } from "../lib/json_patch.js";
import { keyedValue } from "../lib/keyed_value.js";
import { StudioPart } from "../lib/studio_part.js";

export class Settings extends StudioPart {
  typed = {}; // JSON Pointer -> text that was refused and still stands in its field
  dragValue = null; // {id, value}: what a slider shows while it is being dragged
  onlyHere = false; // true: what is set is set for frames of this shape alone
  /** The name under which a section of the panel is remembered as folded. */
  section(name) {
    const { room, tab } = this.studio.selection;
    return `${room === "sound" ? room : tab}-${name}`;
  }
  get often() {
    return this.fieldsOf(true);
  }
  get seldom() {
    return this.fieldsOf(false);
  }
  /** Where a setting is: its name, or the address of a part's setting. A part's settings say where the part is. */
  placeOf(setting) {
    return setting.place || setting.name;
  }
  ownerOf(setting) {
    if (!setting.part) return this.studio.selection.target && this.studio.selection.target.settings;
    return (
      ((this.studio.selection.layer || {})[setting.part.listed] || [])[setting.part.number] || {
        settings: {},
      }
    ).settings;
  }
  pointer(setting) {
    if (!this.studio.selection.target) return "";
    return setting.part
      ? `/layers/${this.studio.selection.layerIndex}/${this.studio.parts.settingsPath(setting)}/${setting.name}`
      : `${this.studio.selection.target.base}/${setting.name}`;
  }
  /** The value that is in force now, before signals move it: that of this shape of frame, of the keyframes, its own. */
  current(setting) {
    const owner = this.ownerOf(setting);
    const value = owner ? owner[setting.name] : undefined;
    const own = value === undefined ? setting.default : value;
    if (this.studio.selection.room === "sound" || !this.studio.selection.layer) return own;
    return this.valueNow(this.studio.selection.layer, setting, own);
  }
  valueNow(layer, setting, own = layer.settings[setting.name] ?? setting.default) {
    const place = this.placeOf(setting);
    const override = ((layer.frames || {})[this.studio.formats.frameShape] || {})[place];
    if (override !== undefined) return override;
    const frames = (layer.keyframes || {})[place];
    return frames && frames.length
      ? keyedValue(setting, frames, this.studio.playback.frame / this.studio.project.rate)
      : own;
  }
  isOverridden(setting) {
    return (
      this.studio.selection.room === "picture" &&
      Boolean(this.studio.selection.layer) &&
      ((this.studio.selection.layer.frames || {})[this.studio.formats.frameShape] || {})[this.placeOf(setting)] !==
        undefined
    );
  }
  /** The steps that give settings of a layer their values: each for frames of this shape alone, at this time, or
   * altogether. */
  stepsForMany(layer, entries) {
    const base = `/layers/${this.studio.layers.indexOf(layer.id)}`;
    const shape = this.studio.formats.frameShape;
    const frames = layer.frames || {};
    const here = { ...plain(frames[shape] || {}) };
    const steps = [];
    let overridden = false;
    for (const { setting, value } of entries) {
      const place = this.placeOf(setting);
      const keyed = (layer.keyframes || {})[place];
      if (here[place] !== undefined || (this.onlyHere && this.studio.selection.room === "picture")) {
        here[place] = value;
        overridden = true;
      } else if (keyed)
        steps.push({
          op: "add",
          path: `${base}/keyframes/${place}`,
          value: this.studio.keyframes.withKey(keyed, this.studio.playback.frame / this.studio.project.rate, value),
        });
      else
        steps.push({
          op: "add",
          path: `${base}/${this.studio.parts.settingsPath(setting)}/${setting.name}`,
          value,
        });
    }
    if (overridden) steps.push({ op: "add", path: `${base}/frames`, value: { ...plain(frames), [shape]: here } });
    return steps;
  }
  stepsHere(setting, value) {
    if (this.studio.selection.room === "sound") return [{ op: "add", path: this.pointer(setting), value }];
    return this.stepsForMany(this.studio.selection.layer, [{ setting, value }]);
  }
  dropOverride(setting) {
    const layer = this.studio.selection.layer,
      shape = this.studio.formats.frameShape;
    const rest = plain(layer.frames);
    delete rest[shape][this.placeOf(setting)];
    if (!Object.keys(rest[shape]).length) delete rest[shape];
    this.studio.project.edit(`${layer.name}: ${setting.label} in all frames`, [
      { op: "add", path: `/layers/${this.studio.selection.layerIndex}/frames`, value: rest },
    ]);
  }
  get overrideNote() {
    return `only in ${this.studio.formats.frameShape} frames`;
  }
  toggleOnlyHere() {
    this.onlyHere = !this.onlyHere;
  }
  fieldsOf(often) {
    const target = this.studio.selection.target;
    if (!target) return [];
    return target.kind.settings
      .filter(
        (setting) => (!target.grouped || setting.group === this.studio.selection.tab) && !setting.advanced === often,
      )
      .filter((setting) =>
        setting.when.every(([name, values]) => this.holds(target.kind.settings, target.settings, name, values)),
      );
  }
  /** A condition of a setting: the values that another may have, or a number that it must be above. */
  holds(listed, settings, name, values) {
    const other = listed.find((setting) => setting.name === name);
    const value = settings[name] ?? (other && other.default);
    return values[0] === ">" ? value > values[1] : values.includes(value);
  }
  /** Show a value without setting it. */
  tryValue(setting, value) {
    this.dragValue = { id: this.studio.fields.fieldId(setting), value };
    this.studio.project.tryOut(this.stepsHere(setting, value));
  }
  put(setting, value) {
    if (this.studio.layerEdits.refuseLocked()) return;
    this.dragValue = null;
    if (
      JSON.stringify(this.current(setting)) === JSON.stringify(value) &&
      !(this.onlyHere && !this.isOverridden(setting))
    ) {
      this.studio.project.draft = null;
      this.studio.views.preview.still(this.studio.playback.frame);
      return;
    }
    const where =
      this.studio.selection.room === "picture" && (this.onlyHere || this.isOverridden(setting))
        ? `, ${this.overrideNote}`
        : "";
    this.studio.project.edit(
      `${this.studio.selection.target.name}: ${setting.label}${where}`,
      this.stepsHere(setting, value),
    );
  }
  get canFit() {
    return Boolean(
      this.studio.selection.layer &&
      this.studio.selection.kind.fits &&
      this.studio.selection.tab === "sound" &&
      this.studio.project.track,
    );
  }
  async fit() {
    const { name } = this.studio.selection.layer;
    const path = `/layers/${this.studio.selection.layerIndex}/settings`;
    try {
      const range = await ask(`/projects/${this.studio.project.state.id}/fit`, {
        json: { kind: this.studio.selection.layer.kind, settings: this.studio.selection.layer.settings },
      });
      this.studio.project.edit(
        `Fit ${name} to the sound`,
        Object.entries(range).map(([setting, value]) => ({
          op: "replace",
          path: `${path}/${setting}`,
          value,
        })),
      );
    } catch (problem) {
      this.studio.messages.tell(problem.message);
    }
  }
  settingOf(layer, place) {
    const [first, ident, part] = place.split(":");
    const sort = part && this.studio.parts.sortNamed(first);
    const number = sort ? this.studio.parts.partsOf(layer, sort).findIndex((item) => item.id === ident) : -1;
    if (number >= 0) return this.studio.parts.partSetting(layer, sort, number, part);
    const name = place;
    const kind = this.studio.kinds.find((candidate) => candidate.kind === layer.kind);
    return (
      (kind && kind.settings.find((setting) => setting.name === name)) || {
        label: name,
        unit: "",
        type: "number",
        numeric: true,
        moves: true,
        lo: 0,
        hi: 0,
        step: 0.1,
      }
    );
  }
  unitText(setting) {
    return setting.unit === "dB/octave" ? "dB/o" : setting.unit;
  }
}
