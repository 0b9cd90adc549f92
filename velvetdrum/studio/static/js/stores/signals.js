// The signals: which there are, which is chosen, and what each does now.

import { ask } from "../lib/api.js";
import { plain } from "../lib/json_patch.js";
import { partWith } from "../lib/studio_part.js";

const BLOCK = 512; // frames of values that are asked for at once

export class Signals extends partWith(
  "drawnCurve",
  "given",
  "parts",
  "playback",
  "project",
  "settings",
  "signalCurve",
  "views",
) {
  /** @type {any} */
  liveBlocks = null;
  /** @type {string | null} */
  chosenSignal = null;
  /** @type {Record<string, number>} */
  live = {}; // id -> value now, 0 to 1
  /** @type {string | null} */
  hearing = null;
  get signals() {
    return this.project.document.signals;
  }

  /** The chosen signal; null where none is, which only what asks for it first has to know. */
  get signal() {
    return /** @type {Signal} */ (this.signals.find((signal) => signal.id === this.chosenSignal) || null);
  }

  get signalIndex() {
    return this.signals.findIndex((signal) => signal.id === this.chosenSignal);
  }

  /** @param {string} id */
  signalById(id) {
    return /** @type {Signal} */ (this.signals.find((signal) => signal.id === id) || null);
  }

  /** @param {Signal} signal */
  signalKind(signal) {
    return /** @type {SignalKind} */ (this.given.signalKinds.find((kind) => kind.kind === signal.kind));
  }

  /** @param {Signal} signal */
  isSignal(signal) {
    return signal.id === this.chosenSignal;
  }

  /** The kind that a band of the spectrum becomes. */
  get bandKind() {
    return /** @type {SignalKind} */ (this.given.signalKinds.find((kind) => kind.band)).kind;
  }

  /**
   * True when the chosen signal's kind says so of itself: that it has a band, is drawn, reads others, keeps beats.
   * @param {any} trait
   */
  isOfKind(trait) {
    return Boolean(this.signal && /** @type {any} */ (this.signalKind(this.signal))[trait]);
  }

  /** @param {Signal} signal */
  hasBand(signal) {
    return Boolean(signal && this.signalKind(signal).band);
  }

  get isPickup() {
    return this.hasBand(this.signal);
  }

  get isDrawn() {
    return this.isOfKind("drawn");
  }

  /** Where the points of the chosen signal are kept, if it is drawn. */
  get pointsPath() {
    return `/signals/${this.signalIndex}/settings/${this.signalKind(this.signal).drawn}`;
  }

  /** The points of the chosen signal, which is drawn. */
  get points() {
    return this.signal.settings[this.signalKind(this.signal).drawn];
  }

  /**
   * The ids of the signals that one of them reads.
   * @param {Signal} signal
   * @returns {string[]}
   */
  inputsOf(signal) {
    return signal.settings[this.signalKind(signal).reads];
  }

  /**
   * How many it may read.
   * @param {Signal} signal
   */
  mostInputs(signal) {
    const kind = this.signalKind(signal);
    return /** @type {Setting} */ (kind.settings.find(({ name }) => name === kind.reads)).hi;
  }

  /**
   * Where those ids are kept.
   * @param {Signal} signal
   */
  inputsPath(signal) {
    const index = this.signals.findIndex((other) => other.id === signal.id);
    return `/signals/${index}/settings/${this.signalKind(signal).reads}`;
  }

  get isMix() {
    return this.isOfKind("reads");
  }

  get isClock() {
    return this.isOfKind("beats");
  }

  get anyPickup() {
    return this.signals.some((signal) => this.hasBand(signal));
  }

  /** @param {Signal} signal */
  dot(signal) {
    return signal ? { "--dot": signal.colour } : {};
  }

  /** @param {Signal} signal */
  signalNote(signal) {
    return this.parts.summaryOf(this.signalKind(signal), signal.settings).join(" · ");
  }

  /** @param {Signal} signal */
  countText(signal) {
    const count = this.hangsOn(signal).length;
    return count ? String(count) : "";
  }

  /** @param {Signal} signal */
  liveBar(signal) {
    return {
      width: `${Math.round(Math.max(0, Math.min(1, this.live[signal.id] || 0)) * 100)}%`,
      background: signal.colour,
    };
  }

  /** @param {any} signal */
  chooseSignal(signal) {
    this.chosenSignal = signal.id;
    this.drawnCurve.point = -1;
    if (this.hearing) this.hear(signal);
    this.signalCurve.readCurve();
  }

  nextColour() {
    const used = this.signals.map((signal) => signal.colour);
    const { colours } = this.given;
    const least = Math.min(...colours.map((colour) => used.filter((other) => other === colour).length));
    return colours.find((colour) => used.filter((other) => other === colour).length === least);
  }

  /** @param {string} name */
  freeName(name) {
    const names = this.signals.map((signal) => signal.name);
    if (!names.includes(name)) return name;
    let number = 2;
    while (names.includes(`${name} ${number}`)) number += 1;
    return `${name} ${number}`;
  }

  /**
   * Everything that a signal drives: patches of layers, and mixes that read it.
   * @param {Signal} signal
   */
  hangsOn(signal) {
    /** @type {any[]} */
    const found = [];
    this.project.document.layers.forEach((layer, layerIndex) =>
      (layer.patches || []).forEach((patch, patchIndex) => {
        if (patch.signal === signal.id)
          found.push({
            layer,
            layerIndex,
            patch,
            patchIndex,
            text: `${layer.name}: ${this.settings.settingOf(layer, patch.setting).label}`,
          });
      }),
    );
    this.signals.forEach((other, index) => {
      if (this.signalKind(other).reads && other.settings[this.signalKind(other).reads].includes(signal.id))
        found.push({
          mix: other,
          index,
          text: `${other.name} (${this.signalKind(other).title.toLowerCase()})`,
        });
    });
    return found;
  }

  async updateLive() {
    if (!this.signals.length) {
      this.live = {};
      return;
    }
    const { project, playback } = this;
    const mark = `${project.state.revision}:${project.rate}:${Math.floor(playback.frame / BLOCK)}`;
    this.liveBlocks ||= new Map();
    let block = this.liveBlocks.get(mark);
    if (!block) {
      block = {};
      this.liveBlocks.set(mark, block);
      if (this.liveBlocks.size > 24) this.liveBlocks.delete(this.liveBlocks.keys().next().value);
      const start = Math.floor(this.playback.frame / BLOCK) * BLOCK;
      try {
        block.values = (
          await ask(`/projects/${this.project.state.id}/curves`, { json: { start, count: BLOCK } })
        ).values;
      } catch {
        this.liveBlocks.delete(mark);
        return;
      }
    }
    if (!block.values) return;
    /** @type {Record<string, number>} */
    const next = {};
    for (const [id, values] of Object.entries(block.values))
      next[id] = (values[this.playback.frame % BLOCK] || 0) / 1000;
    this.live = next;
  }

  /** @param {any} signal */
  hear(signal) {
    this.hearing = this.hasBand(signal) ? signal.id : null;
    const heard = this.hearing ? this.signalById(this.hearing) : null;
    this.views.player.hear(heard ? plain(heard.settings) : null);
  }

  async toggleHear() {
    this.hear(this.hearing ? null : this.signal);
    if (this.hearing && !this.playback.playing) await this.playback.toggle();
  }

  get hearText() {
    return this.hearing ? "hear everything" : "hear what it hears";
  }
}
