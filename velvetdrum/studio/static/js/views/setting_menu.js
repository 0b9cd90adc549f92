// What a right press on a setting opens: what it is called in files, its default and range, what moves it; and copying.

import { partWith } from "../lib/studio_part.js";
import { typeOf } from "../lib/setting_type.js";

const WIDTH = 268;
const HEIGHT = 330;

export class SettingMenu extends partWith("page", "partClipboard", "patches", "selection", "settings") {
  /** @type {Setting | null} */
  setting = null;
  style = {};

  /**
   * The setting whose row an event comes from.
   * @param {any} event
   * @returns {Setting | null}
   */
  settingAt(event) {
    const row = event.target.closest("[data-row]");
    const { layer, room, target } = this.selection;
    if (!row || !target) return null;
    const place = row.dataset.row;
    if (room === "picture" && layer) return this.settings.settingOf(layer, place);
    return target.kind.settings.find((/** @type {Setting} */ { name }) => name === place) || null;
  }

  /** @param {any} event */
  open(event) {
    const setting = this.settingAt(event);
    if (!setting) return;
    event.preventDefault();
    this.setting = setting;
    this.from = event.target;
    const left = Math.max(8, Math.min(event.clientX, window.innerWidth - WIDTH - 8));
    const top = Math.max(8, Math.min(event.clientY, window.innerHeight - HEIGHT - 8));
    this.style = { left: `${left}px`, top: `${top}px` };
    this.page.nextTick(() => this.page.refs.settingMenu.querySelector("button")?.focus());
  }

  /** @type {any} */
  from = null;

  close() {
    if (!this.setting) return;
    this.setting = null;
    this.from?.focus?.();
  }

  /**
   * Keys while it is open, wherever the focus is: it may not have come here yet.
   * @param {TypeEvent} event
   */
  key(event) {
    if (!this.setting) return;
    const way = { ArrowDown: 1, ArrowUp: -1 }[event.key] || 0;
    if (!way && event.key !== "Escape") return;
    event.preventDefault();
    event.stopPropagation();
    if (!way) return void this.close();
    const buttons = [...(this.page.refs.settingMenu?.querySelectorAll("button:not([hidden])") || [])];
    const at = buttons.indexOf(/** @type {any} */ (document.activeElement));
    buttons[(at + way + buttons.length) % buttons.length]?.focus();
  }

  get shown() {
    return Boolean(this.setting);
  }

  get title() {
    return this.setting ? this.setting.label : "";
  }

  /** @type {{term: string, text: string}[]} */
  get facts() {
    const { setting } = this;
    if (!setting) return [];
    const unit = setting.unit ? ` ${setting.unit}` : "";
    const said = (/** @type {any} */ value) => (typeof value === "object" ? "see the panel" : `${value}${unit}`);
    const movers = this.patches.patchesOf(setting).map((item) => this.patches.signalOf(item).name);
    const keys = (this.selection.layer?.keyframes || {})[this.settings.placeOf(setting)] || [];
    if (keys.length) movers.push(`${keys.length} keyframes`);
    return [
      { term: "In files", text: setting.name },
      { term: "Default", text: said(setting.default) || "empty" },
      ...(setting.numeric ? [{ term: "Range", text: `${setting.lo} to ${setting.hi}${unit}` }] : []),
      { term: "Moved by", text: movers.join(", ") || "nothing" },
    ];
  }

  get inPicture() {
    return this.selection.room === "picture" && !(this.setting && this.setting.part);
  }

  /** @param {(setting: Setting) => any} run */
  does(run) {
    const { setting } = this;
    this.close();
    if (setting) run(setting);
  }

  reset() {
    this.does((setting) => this.settings.put(setting, setting.default));
  }

  copy() {
    this.does((setting) => this.partClipboard.copySetting(setting));
  }

  copySection() {
    this.does(() => this.partClipboard.copySection());
  }

  copyPatches() {
    this.does(() => this.partClipboard.copyPatches());
  }

  copyKeyframes() {
    this.does(() => this.partClipboard.copyKeyframes());
  }

  paste() {
    this.does(() => this.partClipboard.paste());
  }

  /**
   * Double press on the name of a number: the middle of its range.
   * @param {any} event
   */
  middle(event) {
    const setting = event.target.closest("label") && this.settingAt(event);
    if (!setting || !setting.numeric || setting.hi <= setting.lo) return;
    const byRatio = setting.curve === "log" && setting.lo > 0;
    const middle = byRatio ? Math.sqrt(setting.lo * setting.hi) : (setting.lo + setting.hi) / 2;
    this.settings.put(setting, typeOf(setting).allowed(Math.round(middle * 1e6) / 1e6));
  }
}
