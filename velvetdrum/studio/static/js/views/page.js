// The page: rooms, dialogs, and what is drawn anew after something happened.

import { ask } from "../lib/api.js";
import { both, concernsOf, EVERYTHING } from "../lib/concerns.js";
import { partWith } from "../lib/studio_part.js";

// Milliseconds that the playhead rests before the small picture of now is drawn, and until small pictures follow an
// edit.
const REST_MS = 250;
const REFRESH_MS = 60;
// Milliseconds of quiet after an edit until all small pictures are drawn anew: they must not stand before the next one.
const SMALL_MS = 350;
// Milliseconds within which a second seek is of a playhead that is on its way.
const AGAIN_MS = 200;

export class Page extends partWith(
  "alignment",
  "cueChecks",
  "cueLanes",
  "cueList",
  "cues",
  "curvePanel",
  "effectChoices",
  "events",
  "excerpts",
  "exportSettings",
  "exports",
  "formats",
  "keyPicks",
  "keyframes",
  "lanes",
  "layers",
  "media",
  "messages",
  "moments",
  "newExport",
  "patches",
  "placement",
  "playback",
  "posts",
  "project",
  "reviews",
  "selection",
  "signalCurve",
  "signalEdits",
  "signals",
  "sound",
  "soundImport",
  "stage",
  "tempo",
  "timeStrip",
  "views",
) {
  /** @type {Record<string, any>} elements by their x-ref */
  refs = {};
  /** @type {(run: () => void) => void} */
  nextTick = (run) => run();
  /** @type {any} */
  refreshTimer = null;
  /** @type {any} */
  nowTimer = null;
  /** @type {any} */
  smallTimer = null;
  rested = -Infinity;
  /** @type {any} */
  filesSeen = null;
  // What a change concerns that was not asked for anew yet.
  due = concernsOf([]);

  /** What follows what happened in the stores. */
  listen() {
    const { events, views } = this;
    this.project.ahead = async () => views.preview?.arrived();
    events.on("changed", (concerns) => {
      this.changed(concerns);
      views.rulers?.draw();
    });
    events.on("saved", (concerns) => this.refresh(concerns));
    events.on("draft", () => {
      this.stage.showStill();
      this.signalCurve.readCurve();
      views.spectrum.draw();
    });
    events.on("conflict", (open) => (open ? this.refs.conflict.showModal() : this.refs.conflict.close()));
    events.on("leaving", (open) => (open ? this.refs.leaving.showModal() : this.refs.leaving.close()));
    events.on("signal-added", () => {
      this.refs.addingSignal.open = false;
    });
    events.on("chosen", () => {
      if (!views.handlesView) return;
      views.handlesView.draw();
      views.lanesView.draw();
      if (this.selection.chosen) this.lanes.showLane(this.selection.chosen);
      this.effectChoices.layerChosen();
    });
    events.on("handles", () => views.handlesView.draw());
    events.on("cue-chosen", () => {
      this.cueList.follow();
      if (views.cueLanes) views.cueLanes.draw();
    });
    events.on("markers", () => views.lanesView.draw());
    events.on("loop", () => views.strip.draw());
    events.on("beats", () => {
      views.strip.draw();
      views.curveView.draw();
    });
    this.listenToPlayback();
  }

  listenToPlayback() {
    const { events, views } = this;
    events.on("play", () => {
      this.messages.announce("Playing");
      this.formats.threeUp = false;
      views.handlesView.draw();
    });
    events.on("frame", () => this.timeStrip.followFrame());
    events.on("frame-told", () => {
      this.signals.updateLive();
      this.lanes.readLanes();
    });
    events.on("seek", () => this.timeStrip.followWaves());
    events.on("rest", () => {
      const at = performance.now();
      if (at - this.rested < AGAIN_MS) this.stage.passBy();
      else this.stage.showStill();
      this.rested = at;
      clearTimeout(this.nowTimer);
      this.nowTimer = setTimeout(() => this.moments.loadNow(), REST_MS);
    });
    events.on("stopped", () => {
      this.messages.announce(`Paused at ${this.playback.clockText}`);
      this.placement.askHandles();
      this.stage.picture.rate = null;
      this.stage.showStill();
      this.timeStrip.followWaves();
      this.moments.loadNow();
    });
  }

  get studioClass() {
    const { soundImport, curvePanel } = this;
    return `${soundImport.dragging ? "dropping" : ""} ${curvePanel.curveShown ? "with-curve" : ""}`;
  }

  /**
   * A new sound is in.
   * @param {string} note what no longer lies within it
   */
  async brought(note) {
    this.soundImport.dismissBringing();
    this.project.accept(await ask(`/projects/${this.project.state.id}/state`));
    this.playback.loop = null;
    await this.sound.loadFacts();
    this.changed();
    this.refresh();
    this.messages.tell(`The sound is in, and all that hears it is fitted to it. ${note}`.trim(), "Undo", () =>
      this.project.undo(),
    );
  }

  /**
   * After any change of the document: what it concerns is drawn anew.
   * @param {import("../lib/concerns.js").Concerns} [concerns]
   */
  changed(concerns = EVERYTHING) {
    const { project, playback, views } = this;
    if (project.track && project.track.media !== this.sound.factsOf) {
      this.sound.loadFacts().then(() => this.changed());
    }
    views.player.rate = project.rate;
    views.player.frames = project.frames;
    this.sound.setTrack();
    if (playback.frame > project.frames - 1) views.player.frame = playback.frame = project.frames - 1;
    if (playback.loop && playback.loop.last > project.frames) playback.loop = null;
    this.mendChoice();
    playback.applyLoop();
    this.stage.fitStage();
    if (concerns.picture) this.stage.showStill();
    if (concerns.sound) this.timeStrip.drawWaves();
    if (concerns.curves) this.signalCurve.readCurve();
    if (concerns.beats) this.tempo.loadBeats();
    // Whether a text can be read depends on what is behind it, too.
    if (concerns.cues || (concerns.picture && this.selection.room === "words")) this.cueChecks.later();
    if (concerns.cues) {
      this.cues.refresh();
      this.cueLanes.load();
    }
    views.cueLanes.draw();
    views.trackLanes.draw();
    views.levelMeters.draw();
    views.lanesView.draw();
    views.keyCurve.draw();
  }

  /** What was chosen and is gone is chosen no more. */
  mendChoice() {
    const { selection, layers, signals, keyPicks, keyframes, project, curvePanel } = this;
    if (!selection.layer && project.document.layers.length) selection.choose(layers.layersFrontFirst[0]);
    if (signals.signals.length && !signals.signal) signals.chosenSignal = signals.signals[0].id;
    if (signals.hearing) signals.hear(signals.signalById(signals.hearing));
    const isThere = (/** @type {any} */ key) => {
      const layer = layers.byId(key.layer);
      return layer && keyframes.keyTimes(layer).some((time) => Math.abs(time - key.time) < 1e-6);
    };
    if (keyPicks.pickedKeys.length) keyPicks.pickedKeys = keyPicks.pickedKeys.filter(isThere);
    if (selection.also.length) selection.also = selection.also.filter((id) => layers.byId(id));
    if (curvePanel.curveOf && !curvePanel.curveShown) curvePanel.closeCurve();
  }

  /**
   * After the server has the change: small pictures, which need not be instant.
   * @param {import("../lib/concerns.js").Concerns} [concerns]
   */
  refresh(concerns = EVERYTHING) {
    this.due = both(this.due, concerns);
    clearTimeout(this.refreshTimer);
    this.sound.setTrack();
    this.refreshTimer = setTimeout(() => {
      const { due } = this;
      this.due = concernsOf([]);
      if (due.picture) this.stage.showStill();
      if (due.curves) {
        this.signals.updateLive();
        this.lanes.readLanes();
        this.signalCurve.readCurve();
      }
      if (this.selection.room === "sound" && (due.curves || due.sound)) this.signalEdits.loadSuggestions();
      const files = due.media ? this.media.heldKeys(this.project.document.layers).join() : this.filesSeen;
      if (files !== this.filesSeen) {
        this.filesSeen = files;
        this.media.checkMissing();
      }
    }, REFRESH_MS);
    if (!concerns.picture) return;
    clearTimeout(this.smallTimer);
    this.smallTimer = setTimeout(() => {
      this.moments.load();
    }, SMALL_MS);
  }

  /** @param {any} menu */
  shut(menu) {
    menu.open = false;
  }

  /** @param {string} name */
  go(name) {
    this.selection.room = name;
    this.roomChanged();
  }

  exportNow() {
    this.go("export");
  }

  roomChanged() {
    this.events.emit("room");
    this.patches.socket = null;
    if (this.selection.room === "export") {
      this.exports.loadExports();
      this.reviews.load();
      this.posts.load();
      this.excerpts.load();
      this.newExport.changed();
      this.exportSettings.load();
    }
    if (this.selection.room === "words") {
      this.cueChecks.load();
      this.cueLanes.load();
      if (!this.alignment.work) this.alignment.resume();
    }
    if (this.selection.room === "sound") this.signalEdits.loadSuggestions();
    this.nextTick(() => {
      this.stage.fitStage();
      this.stage.showStill();
      this.timeStrip.drawWaves();
      this.signalCurve.readCurve();
    });
  }

  showKeys() {
    this.refs.keys.showModal();
  }

  closeKeys() {
    this.refs.keys.close();
  }
}
