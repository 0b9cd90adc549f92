// What moves a setting, beside it: how much, the band that is heard, and the value of the last seconds.

import { ask } from "../lib/api.js";
import { rounded } from "../lib/numbers.js";
import { typeOf } from "../lib/setting_type.js";
import { partWith } from "../lib/studio_part.js";
import { Spectrum } from "./spectrum.js";

const SECONDS = 4;
const LATER_MS = 120;
const [WIDE, TALL] = [200, 40];

export class PatchScope extends partWith(
  "events",
  "patches",
  "playback",
  "project",
  "settings",
  "signals",
  "sockets",
  "spectrumPanel",
) {
  /** @type {string | null} */
  open = null; // address of the setting whose patches are shown at work
  path = "";
  ends = "";
  /** @type {Spectrum | null} */
  spectrum = null;
  /** @type {any} */
  item = null;
  /** @type {any} */
  timer = null;
  turn = 0;

  /** @param {Setting} setting */
  isOpen(setting) {
    return this.open === this.settings.placeOf(setting) && this.patches.patchesOf(setting).length > 0;
  }

  /** @param {Setting} setting */
  toggle(setting) {
    this.open = this.isOpen(setting) ? null : this.settings.placeOf(setting);
    this.listen();
    this.draw();
  }

  listening = false;

  listen() {
    if (this.listening) return;
    this.listening = true;
    for (const event of ["saved", "rest", "stopped", "frame-told"]) this.events.on(event, () => this.later());
    this.events.on("draft", () => this.spectrum && this.spectrum.draw());
  }

  later() {
    if (!this.open || this.timer) return;
    this.timer = setTimeout(() => {
      this.timer = null;
      this.draw();
    }, LATER_MS);
  }

  /** @param {Setting} setting */
  hasAmount(setting) {
    return typeOf(setting).numeric && this.patches.patchesOf(setting).some(({ patch }) => patch.join !== "poses");
  }

  // How much

  /** @param {any} item */
  range(item) {
    return item.patch.join === "multiply" ? 2 : item.setting.hi - item.setting.lo;
  }

  /** @param {any} item */
  amount(item) {
    const { from, to } = item.patch;
    return rounded((Math.abs(to - from) / this.range(item)) * 100, 0.1);
  }

  /**
   * The two ends that an amount gives: the first stays, the second lies on its side of it.
   * @param {any} item
   * @param {FieldEvent} event
   */
  endFor(item, event) {
    const { from, to } = item.patch;
    const { lo, hi, step } = item.setting;
    const far = (Number(event.target.value) / 100) * this.range(item);
    const wanted = from + (to < from ? -far : far);
    const end = item.patch.join === "replace" ? Math.max(lo, Math.min(hi, wanted)) : wanted;
    return rounded(end, (step || 0.01) / 10);
  }

  /**
   * @param {any} item
   * @param {FieldEvent} event
   */
  tryAmount(item, event) {
    const path = this.patches.patchPath(item, "to");
    this.project.tryOut([{ op: "replace", path, value: this.endFor(item, event) }]);
  }

  /**
   * @param {any} item
   * @param {FieldEvent} event
   */
  putAmount(item, event) {
    this.patches.putPatch(item, { to: this.endFor(item, event) }, "how much");
  }

  /** @param {any} item */
  amountText(item) {
    const { from, to } = item.patch;
    return `${from} to ${to} ${this.patches.endUnit(item)}`;
  }

  // The band that is heard

  /** @param {Setting} setting */
  heardItem(setting) {
    return this.patches.patchesOf(setting).find((item) => this.signals.hasBand(this.patches.signalOf(item))) || null;
  }

  /**
   * @param {HTMLCanvasElement} canvas
   * @param {Setting} setting
   */
  mount(canvas, setting) {
    const heard = () => {
      const item = this.heardItem(setting);
      return item ? this.patches.signalOf(item).id : "";
    };
    const source = () => {
      const all = this.spectrumPanel.spectrumSource();
      const pickups = all.pickups.filter((/** @type {any} */ { id }) => id === heard());
      return { ...all, pickups, chosen: heard(), view: "now" };
    };
    this.spectrum = new Spectrum(canvas, source, {
      choose: () => {},
      drag: (/** @type {string} */ id, /** @type {any} */ changes) => this.spectrumPanel.dragPickup(id, changes),
      placed: (/** @type {string} */ id, /** @type {any} */ changes) => this.spectrumPanel.placePickup(id, changes),
    });
    this.spectrum.draw();
  }

  // The value of the last seconds: what all patches of the setting make of it together

  async draw() {
    if (!this.open) return;
    if (this.spectrum) this.spectrum.draw();
    const setting = this.sockets.settingAt(this.open);
    if (!setting || !typeOf(setting).numeric) {
      this.path = "";
      return;
    }
    const turn = (this.turn += 1);
    const last = this.playback.frame;
    const start = Math.max(0, last - Math.round(SECONDS * this.project.rate));
    const json = { start, count: Math.max(2, last - start + 1) };
    const answer = await ask(`/projects/${this.project.state.id}/curves`, { json }).catch(() => null);
    if (!answer || turn !== this.turn) return;
    const values = Array.from({ length: json.count }, (_, n) =>
      this.sockets.valueBy(setting, (id) => ((answer.values[id] || [])[n] || 0) / 1000),
    );
    const [low, high] = [Math.min(...values), Math.max(...values)];
    const span = Math.max(high - low, (setting.hi - setting.lo) / 1000);
    const at = (/** @type {number} */ value, /** @type {number} */ n) =>
      `${((n / (values.length - 1)) * WIDE).toFixed(1)} ${(TALL - 2 - ((value - low) / span) * (TALL - 4)).toFixed(1)}`;
    this.path = `M${values.map(at).join("L")}`;
    const told = (/** @type {number} */ value) => String(rounded(value, setting.step || 0.1));
    this.ends = `${told(low)} to ${told(high)} ${setting.unit}`.trim();
  }

  get box() {
    return `0 0 ${WIDE} ${TALL}`;
  }

  get curveText() {
    return `The last ${SECONDS} s: ${this.ends}`;
  }
}
