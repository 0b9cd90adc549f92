// Where one left a project: room, moment, choice, zoom; kept, and taken up when it is opened again.

import { partWith } from "../lib/studio_part.js";

const NAME = "velvet-visits";
const MOST = 40;

export class Visit extends partWith(
  "given",
  "layers",
  "playback",
  "project",
  "selection",
  "signals",
  "spectrumPanel",
  "views",
) {
  /**
   * Read all visits, the newest last.
   * @param {any} storage
   */
  listed(storage) {
    try {
      const found = JSON.parse(storage.getItem(NAME));
      return Array.isArray(found) ? found.filter((visit) => visit && typeof visit.id === "string") : [];
    } catch {
      return [];
    }
  }

  /**
   * Go where one left, or to the loudest moment of a project that is new here.
   * @param {Pick<Storage, "getItem" | "setItem">} [storage]
   */
  restore(storage = localStorage) {
    this.storage = storage;
    const { selection, layers, playback, signals, project, given, spectrumPanel } = this;
    const visit = this.listed(storage).find(({ id }) => id === project.state.id);
    const frame = visit ? visit.frame : given.loudest;
    playback.frame = Math.max(0, Math.min(Math.round(Number(frame)) || 0, project.frames - 1));
    if (!visit) return;
    if (["sound", "picture", "words", "export"].includes(visit.room)) selection.room = visit.room;
    if (["signals", "recording"].includes(visit.view)) spectrumPanel.soundView = visit.view;
    if (layers.byId(visit.chosen)) selection.choose(layers.byId(visit.chosen));
    if (selection.tabs.some((tab) => tab.name === visit.tab)) selection.tab = visit.tab;
    if (signals.signalById(visit.signal)) signals.chosenSignal = visit.signal;
    const { strip } = this.views;
    if (Number.isFinite(visit.start) && visit.span > 0)
      Object.assign(strip, { start: visit.start, span: visit.span });
  }

  keep() {
    const { selection, playback, signals, project, spectrumPanel, views } = this;
    if (!this.storage || !project.state) return;
    const visit = {
      id: project.state.id,
      room: selection.room,
      view: spectrumPanel.soundView,
      frame: playback.frame,
      chosen: selection.chosen,
      tab: selection.tab,
      signal: signals.chosenSignal,
      start: views.strip.start,
      span: views.strip.span,
    };
    const others = this.listed(this.storage).filter(({ id }) => id !== visit.id);
    try {
      this.storage.setItem(NAME, JSON.stringify([...others, visit].slice(-MOST)));
    } catch {
      /* a browser that keeps nothing: next time the project opens at its loudest moment */
    }
  }
}
