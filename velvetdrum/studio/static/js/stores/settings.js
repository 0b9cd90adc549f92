// Values of settings: where each is kept, what is in force now, and the steps that change it.

import { ask, refusalOf } from "../lib/api.js";
import { plain } from "../lib/json_patch.js";
import { keyedValue } from "../lib/keyed_value.js";
import { partWith } from "../lib/studio_part.js";

export class Settings extends partWith(
  "fields",
  "formats",
  "keyframes",
  "kinds",
  "layerEdits",
  "layers",
  "links",
  "manyLayers",
  "messages",
  "parts",
  "playback",
  "project",
  "selection",
  "tracks",
  "views",
) {
  /** @type {Record<string, string>} */
  typed = {}; // JSON Pointer -> text that was refused and still stands in its field
  /** @type {{ id: string; value: any } | null} */
  dragValue = null; // {id, value}: what a slider shows while it is being dragged
  onlyHere = false; // true: what is set is set for frames of this shape alone
  /**
   * The name under which a section of the panel is remembered as folded.
   * @param {string} name
   */
  section(name) {
    const { room, tab } = this.selection;
    return `${room === "sound" ? room : tab}-${name}`;
  }

  /**
   * Where a setting is: its name, or the address of a part's setting. A part's settings say where the part is.
   * @param {Partial<Setting> & { place?: string; name?: string }} setting
   */
  placeOf(setting) {
    return /** @type {string} */ (setting.place || setting.name);
  }

  /** @param {Setting} setting */
  ownerOf(setting) {
    if (!setting.part) return this.selection.target && this.selection.target.settings;
    return (
      ((this.selection.layer || {})[setting.part.listed] || [])[setting.part.number] || {
        settings: {},
      }
    ).settings;
  }

  /** @param {Setting} setting */
  pointer(setting) {
    if (!this.selection.target) return "";
    return setting.part
      ? `/layers/${this.selection.layerIndex}/${this.parts.settingsPath(setting)}/${setting.name}`
      : `${this.selection.target.base}/${setting.name}`;
  }

  /**
   * The value that is in force now, before signals move it: that of this shape of frame, of the keyframes, its own.
   * @param {any} setting
   */
  current(setting) {
    const owner = this.ownerOf(setting);
    const value = owner ? owner[setting.name] : undefined;
    const own = value === undefined ? setting.default : value;
    if (this.selection.room === "sound" || !this.selection.layer) return own;
    return this.valueNow(this.selection.layer, setting, own);
  }

  /** @type {(layer: Layer, setting: Setting, own?: any) => any} */
  valueNow(layer, setting, own = layer.settings[setting.name] ?? setting.default) {
    const place = this.placeOf(setting);
    const override = ((layer.frames || {})[this.formats.frameShape] || {})[place];
    if (override !== undefined) return override;
    const frames = (layer.keyframes || {})[place];
    return frames && frames.length ? keyedValue(setting, frames, this.playback.frame / this.project.rate) : own;
  }

  /** @param {Setting} setting */
  isOverridden(setting) {
    return (
      this.selection.room === "picture" &&
      Boolean(this.selection.layer) &&
      ((this.selection.layer.frames || {})[this.formats.frameShape] || {})[this.placeOf(setting)] !== undefined
    );
  }

  /**
   * The steps that give settings of a layer their values: each for frames of this shape alone, at this time, or
   * altogether.
   * @param {Layer} layer
   * @param {any} entries
   */
  stepsForMany(layer, entries) {
    const base = `/layers/${this.layers.indexOf(layer.id)}`;
    const shape = this.formats.frameShape;
    const frames = layer.frames || {};
    const here = { ...plain(frames[shape] || {}) };
    const steps = [];
    let overridden = false;
    for (const { setting, value } of entries) {
      const place = this.placeOf(setting);
      const keyed = (layer.keyframes || {})[place];
      if (here[place] !== undefined || (this.onlyHere && this.selection.room === "picture")) {
        here[place] = value;
        overridden = true;
      } else if (keyed)
        steps.push({
          op: "add",
          path: `${base}/keyframes/${place}`,
          value: this.keyframes.withKey(keyed, this.playback.frame / this.project.rate, value),
        });
      else
        steps.push({
          op: "add",
          path: `${base}/${this.parts.settingsPath(setting)}/${setting.name}`,
          value,
        });
    }
    if (overridden) steps.push({ op: "add", path: `${base}/frames`, value: { ...plain(frames), [shape]: here } });
    return steps;
  }

  /** @type {(setting: Setting, value: any) => any} */
  stepsHere(setting, value) {
    if (this.selection.room === "sound" && this.tracks.shown)
      return this.tracks.stepsFor(this.tracks.index, { [setting.name]: value });
    if (this.selection.room === "sound") return [{ op: "add", path: this.pointer(setting), value }];
    return this.stepsForMany(this.selection.layer, [{ setting, value }]);
  }

  /** @param {Setting} setting */
  dropOverride(setting) {
    const layer = this.selection.layer,
      shape = this.formats.frameShape;
    const rest = plain(layer.frames);
    delete rest[shape][this.placeOf(setting)];
    if (!Object.keys(rest[shape]).length) delete rest[shape];
    this.project.edit(`${layer.name}: ${setting.label} in all frames`, [
      { op: "add", path: `/layers/${this.selection.layerIndex}/frames`, value: rest },
    ]);
  }

  get overrideNote() {
    return `only in ${this.formats.frameShape} frames`;
  }

  toggleOnlyHere() {
    this.onlyHere = !this.onlyHere;
  }

  /**
   * Those of the chosen target's settings that have a part in it, as its other settings are now.
   * @param {any} listed
   */
  applicable(listed) {
    const { kind, settings } = this.selection.target;
    return listed.filter((/** @type {Setting} */ setting) =>
      setting.when.every((/** @type {any} */ [name, values]) => this.holds(kind.settings, settings, name, values)),
    );
  }

  /**
   * A condition of a setting: the values that another may have, or a number that it must be above.
   * @param {Setting[]} listed
   * @param {Values} settings
   * @param {string} name
   * @param {any} values
   */
  holds(listed, settings, name, values) {
    const other = listed.find((/** @type {Setting} */ setting) => setting.name === name);
    const value = settings[name] ?? (other && other.default);
    return values[0] === ">" ? value > values[1] : values.includes(value);
  }

  /**
   * Show a value without setting it.
   * @param {Setting} setting
   * @param {any} value
   */
  tryValue(setting, value) {
    this.dragValue = { id: this.fields.fieldId(setting), value };
    const { manyLayers } = this;
    const many = manyLayers.on && !setting.part;
    this.project.tryOut(many ? manyLayers.steps(setting, () => value) : this.stepsHere(setting, value));
  }

  /** @type {(setting: Setting, value: any) => any} */
  put(setting, value) {
    if (this.layerEdits.refuseLocked()) return;
    this.dragValue = null;
    if (this.manyLayers.on && !setting.part) {
      this.manyLayers.put(setting, value);
      return;
    }
    if (
      JSON.stringify(this.current(setting)) === JSON.stringify(value) &&
      !(this.onlyHere && !this.isOverridden(setting))
    ) {
      this.project.draft = null;
      this.views.preview.still(this.playback.frame);
      return;
    }
    const where =
      this.selection.room === "picture" && (this.onlyHere || this.isOverridden(setting))
        ? `, ${this.overrideNote}`
        : "";
    const steps = [...this.stepsHere(setting, value), ...this.links.stepsWith(setting, value)];
    this.project.edit(`${this.selection.target.name}: ${setting.label}${where}`, steps);
  }

  get canFit() {
    return Boolean(
      this.selection.layer && this.selection.kind.fits && this.selection.tab === "sound" && this.project.track,
    );
  }

  async fit() {
    const { name } = this.selection.layer;
    const path = `/layers/${this.selection.layerIndex}/settings`;
    try {
      const range = await ask(`/projects/${this.project.state.id}/fit`, {
        json: { kind: this.selection.layer.kind, settings: this.selection.layer.settings },
      });
      this.project.edit(
        `Fit ${name} to the sound`,
        Object.entries(range).map(([setting, value]) => ({
          op: "replace",
          path: `${path}/${setting}`,
          value,
        })),
      );
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.messages.tell(problem.message);
    }
  }

  /** @type {(layer: Layer, place: string) => any} */
  settingOf(layer, place) {
    const [first, ident, part] = place.split(":");
    const sort = part && this.parts.sortNamed(first);
    const number = sort ? this.parts.partsOf(layer, sort).findIndex((item) => item.id === ident) : -1;
    if (number >= 0) return this.parts.partSetting(layer, sort, number, part);
    const name = place;
    const kind = this.kinds.find((candidate) => candidate.kind === layer.kind);
    return /** @type {Setting} */ (
      (kind && kind.settings.find((setting) => setting.name === name)) ||
        /** @type {any} */ ({
          label: name,
          unit: "",
          type: "number",
          numeric: true,
          moves: true,
          lo: 0,
          hi: 0,
          step: 0.1,
        })
    );
  }
}
