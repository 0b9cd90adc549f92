// Everything by name: actions with their keys, layers, settings, signals, markers, cues, looks and pages of the manual.

import { ask } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";
import { clock } from "../lib/time.js";
import { ACTIONS } from "../views/actions.js";
import { GROUPS } from "./selection.js";

const MOST = 40;
const MOST_SETTINGS = 4000;

/** @typedef {{sort: string, text: string, more: string, key?: string, low: string, run: () => any}} Thing */

export class Finder extends partWith(
  "cues",
  "keyMap",
  "kinds",
  "layers",
  "manual",
  "page",
  "performer",
  "playback",
  "project",
  "selection",
  "shownSettings",
  "signals",
) {
  query = "";
  at = 0;
  /** @type {Thing[]} */
  results = [];
  /** @type {any[]} */
  looks = [];

  /** The key that opens it. */
  get keyHere() {
    const action = ACTIONS.find(({ id }) => id === "find");
    return action ? this.keyMap.textOf(action) : "";
  }

  open() {
    this.query = "";
    this._things = this.things();
    this.seek("");
    this.page.refs.finder.showModal();
    this.loadMore().catch(() => {});
  }

  /** What the page does not know from its start: the manual's sections, and looks. */
  async loadMore() {
    const known = this.manual.sections.length + this.looks.length;
    await this.manual.load();
    if (!this.looks.length && this.project.track) this.looks = (await ask("/looks")).looks;
    if (this.manual.sections.length + this.looks.length === known) return;
    this._things = this.things();
    this.seek(this.query);
  }

  keys() {
    this.close();
    this.page.showKeys();
  }

  close() {
    this.page.refs.finder.close();
  }

  /** @param {FieldEvent} event */
  type(event) {
    this.seek(event.target.value);
  }

  /** All that has a name. Made once each time it is opened; it does not change meanwhile. */
  things() {
    const thing = (
      /** @type {string} */ sort,
      /** @type {string} */ text,
      /** @type {string} */ more,
      /** @type {() => any} */ run,
      key = "",
      also = "",
    ) => ({ sort, text, more, key, run, low: `${text} ${more} ${sort} ${also}`.toLowerCase() });
    const { document, rate } = this.project;
    const actions = ACTIONS.filter(({ quiet }) => !quiet).map((action) =>
      thing("action", action.text, action.group, () => this.performer.perform(action), this.keyMap.textOf(action)),
    );
    const layers = [...document.layers].reverse();
    const seek = (/** @type {number} */ second) => this.playback.seek(Math.round(second * rate));
    return [
      ...actions,
      ...layers.map((layer) => thing("layer", layer.name, layer.kind, () => this.showLayer(layer.id))),
      ...document.signals.map((/** @type {any} */ signal) =>
        thing("signal", signal.name, signal.kind, () => {
          this.page.go("sound");
          this.signals.chooseSignal(signal);
        }),
      ),
      ...document.markers.map((/** @type {any} */ marker) =>
        thing("marker", marker.text || "Marker", clock(marker.time_s), () => seek(marker.time_s)),
      ),
      ...this.cues.row.map((/** @type {any} */ cue) =>
        thing("cue", cue.text, clock(cue.start_s), () => {
          this.page.go("words");
          this.cues.choose(cue);
        }),
      ),
      ...layers.flatMap((layer) => this.settingsOf(layer, thing)).slice(0, MOST_SETTINGS),
      ...this.looks.map((look) =>
        thing("look", look.name, look.about, () => (location.href = `/projects/${this.project.state.id}/looks`)),
      ),
      ...this.manual.sections.map(({ title, address }) =>
        thing("manual", title, "", () => this.manual.open(address)),
      ),
    ];
  }

  /**
   * @param {Layer} layer
   * @param {any} thing
   */
  settingsOf(layer, thing) {
    const kind = this.kinds.find((known) => known.kind === layer.kind);
    return (kind ? kind.settings : []).map((setting) =>
      thing(
        "setting",
        setting.label,
        layer.name,
        () => this.showSetting(layer.id, setting),
        "",
        setting.synonyms.join(" "),
      ),
    );
  }

  /** @param {string} id */
  showLayer(id) {
    this.page.go("picture");
    this.selection.choose(this.layers.byId(id));
  }

  /**
   * @param {string} id
   * @param {Setting} setting
   */
  showSetting(id, setting) {
    this.showLayer(id);
    const tab = GROUPS.find(({ name }) => name === setting.group);
    if (tab) this.selection.openTab(tab.name);
    this.shownSettings.sought = setting.label;
    // Typing goes on in the setting itself, once its row is there.
    requestAnimationFrame(() => {
      const row = document.querySelector(`[data-matches] [data-row="${setting.name}"]`);
      const field = row?.querySelector("input[type=text]") || row?.querySelector("select, textarea, input, button");
      /** @type {any} */ (field)?.focus();
    });
  }

  /**
   * What has all the words: what begins with them first, then where a word of it does, then anywhere; things before
   * settings.
   * @param {string} query
   */
  seek(query) {
    this.query = query;
    const words = query.toLowerCase().split(/\s+/).filter(Boolean);
    const rank = (/** @type {Thing} */ { text, low, sort }) => {
      if (!words.every((word) => low.includes(word))) return -1;
      const title = text.toLowerCase();
      const begins = (/** @type {string} */ word) => title.startsWith(word) || title.includes(` ${word}`);
      const place = title.startsWith(words[0] || "") ? 0 : words.every(begins) ? 1 : 2;
      return place * 2 + Number(sort === "setting");
    };
    this.results = this._things
      .map((thing, index) => ({ thing, index, rank: rank(thing) }))
      .filter((result) => result.rank >= 0)
      .sort((one, other) => one.rank - other.rank || one.index - other.index)
      .slice(0, MOST)
      .map(({ thing }) => thing);
    this.at = 0;
  }

  /** @type {Thing[]} */
  _things = [];

  /** @param {TypeEvent} event */
  key(event) {
    const way = { ArrowDown: 1, ArrowUp: -1 }[event.key] || 0;
    if (way && this.results.length) {
      event.preventDefault();
      this.at = (this.at + way + this.results.length) % this.results.length;
      this.page.nextTick(() => this.page.refs.found.children[this.at + 1]?.scrollIntoView({ block: "nearest" }));
    } else if (event.key === "Enter") {
      event.preventDefault();
      if (this.results[this.at]) this.take(this.results[this.at]);
    }
  }

  /** @param {Thing} thing */
  take(thing) {
    this.close();
    thing.run();
  }

  /** @param {number} index */
  isAt(index) {
    return index === this.at;
  }

  /** @param {number} index */
  rowId(index) {
    return `found-${index}`;
  }

  get here() {
    return this.rowId(this.at);
  }

  get empty() {
    return this.results.length === 0;
  }
}
