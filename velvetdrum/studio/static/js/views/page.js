// The page: rooms, dialogs, and what is drawn anew after something happened.

import { ask } from "../lib/api.js";
import { both, concernsOf, EVERYTHING } from "../lib/concerns.js";
import { StudioPart } from "../lib/studio_part.js";

// Milliseconds that the playhead rests before the small picture of now is drawn, and until small pictures follow an
// edit.
const REST_MS = 250;
const REFRESH_MS = 60;
// Milliseconds of quiet after an edit until all small pictures are drawn anew: they must not stand before the next one.
const SMALL_MS = 350;
// Milliseconds within which a second seek is of a playhead that is on its way.
const AGAIN_MS = 200;

export class Page extends StudioPart {
  /** @type {Record<string, any>} elements by their x-ref */
  refs = {};
  /** @type {(run: () => void) => void} */
  nextTick = (run) => run();
  refreshTimer = null;
  nowTimer = null;
  smallTimer = null;
  rested = -Infinity;
  filesSeen = null;
  // What a change concerns that was not asked for anew yet.
  due = concernsOf([]);

  /** What follows what happened in the stores. */
  listen() {
    const { studio } = this;
    const { events, views } = studio;
    events.on("changed", (concerns) => this.changed(concerns));
    events.on("saved", (concerns) => this.refresh(concerns));
    events.on("draft", () => {
      studio.stage.showStill();
      studio.signalCurve.readCurve();
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
      if (studio.selection.chosen) studio.lanes.showLane(studio.selection.chosen);
      studio.effectChoices.layerChosen();
    });
    events.on("handles", () => views.handlesView.draw());
    events.on("cue-chosen", () => {
      studio.cueList.follow();
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
    const { studio } = this;
    const { events, views } = studio;
    events.on("play", () => {
      studio.formats.threeUp = false;
      views.handlesView.draw();
    });
    events.on("frame", () => studio.timeStrip.followFrame());
    events.on("frame-told", () => {
      studio.signals.updateLive();
      studio.lanes.readLanes();
    });
    events.on("seek", () => studio.timeStrip.followWaves());
    events.on("rest", () => {
      const at = performance.now();
      if (at - this.rested < AGAIN_MS) studio.stage.passBy();
      else studio.stage.showStill();
      this.rested = at;
      clearTimeout(this.nowTimer);
      this.nowTimer = setTimeout(() => studio.moments.loadNow(), REST_MS);
    });
    events.on("stopped", () => {
      studio.placement.askHandles();
      studio.stage.picture.rate = null;
      studio.stage.showStill();
      studio.timeStrip.followWaves();
      studio.moments.loadNow();
    });
  }

  get studioClass() {
    const { soundImport, curvePanel } = this.studio;
    return `${soundImport.dragging ? "dropping" : ""} ${curvePanel.curveShown ? "with-curve" : ""}`;
  }

  /** A new sound is in. */
  async brought() {
    const { studio } = this;
    studio.soundImport.dismissBringing();
    studio.project.accept(await ask(`/projects/${studio.project.state.id}/state`));
    studio.playback.loop = null;
    await studio.sound.loadFacts();
    this.changed();
    this.refresh();
    if (studio.signals.anyPickup) {
      const told = "The sound is in; the signals listen to it now.";
      studio.messages.tell(told, "Fit all pickups", () => studio.signalEdits.fitAll());
    } else studio.messages.tell("The sound is in. Undo brings the old one back.");
  }

  /**
   * After any change of the document: what it concerns is drawn anew.
   * @param {import("../lib/concerns.js").Concerns} [concerns]
   */
  changed(concerns = EVERYTHING) {
    const { studio } = this;
    const { project, playback, views } = studio;
    if (project.track && project.track.media !== studio.sound.factsOf) {
      studio.sound.loadFacts().then(() => this.changed());
    }
    views.player.rate = project.rate;
    views.player.frames = project.frames;
    studio.sound.setTrack();
    if (playback.frame > project.frames - 1) views.player.frame = playback.frame = project.frames - 1;
    if (playback.loop && playback.loop.last > project.frames) playback.loop = null;
    this.mendChoice();
    playback.applyLoop();
    studio.stage.fitStage();
    if (concerns.picture) studio.stage.showStill();
    if (concerns.sound) studio.timeStrip.drawWaves();
    if (concerns.curves) studio.signalCurve.readCurve();
    if (concerns.beats) studio.tempo.loadBeats();
    // Whether a text can be read depends on what is behind it, too.
    if (concerns.cues || (concerns.picture && studio.selection.room === "words")) studio.cueChecks.later();
    if (concerns.cues) {
      studio.cues.refresh();
      studio.cueLanes.load();
    }
    views.cueLanes.draw();
    views.lanesView.draw();
    views.keyCurve.draw();
  }

  /** What was chosen and is gone is chosen no more. */
  mendChoice() {
    const { selection, layers, signals, keyPicks, keyframes, project, curvePanel } = this.studio;
    if (!selection.layer && project.document.layers.length) selection.choose(layers.layersFrontFirst[0]);
    if (signals.signals.length && !signals.signal) signals.chosenSignal = signals.signals[0].id;
    if (signals.hearing) signals.hear(signals.signalById(signals.hearing));
    const isThere = (key) => {
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
    const { studio } = this;
    this.due = both(this.due, concerns);
    clearTimeout(this.refreshTimer);
    studio.sound.setTrack();
    this.refreshTimer = setTimeout(() => {
      const { due } = this;
      this.due = concernsOf([]);
      if (due.picture) studio.stage.showStill();
      if (due.curves) {
        studio.signals.updateLive();
        studio.lanes.readLanes();
        studio.signalCurve.readCurve();
      }
      if (studio.selection.room === "sound" && (due.curves || due.sound)) studio.signalEdits.loadSuggestions();
      const files = due.media ? studio.media.heldKeys(studio.project.document.layers).join() : this.filesSeen;
      if (files !== this.filesSeen) {
        this.filesSeen = files;
        studio.media.checkMissing();
      }
    }, REFRESH_MS);
    if (!concerns.picture) return;
    clearTimeout(this.smallTimer);
    this.smallTimer = setTimeout(() => {
      studio.moments.load();
    }, SMALL_MS);
  }

  shut(menu) {
    menu.open = false;
  }
  go(name) {
    this.studio.selection.room = name;
    this.roomChanged();
  }
  exportNow() {
    this.go("export");
  }
  roomChanged() {
    const { studio } = this;
    studio.patches.socket = null;
    if (studio.selection.room === "export") {
      studio.exports.loadExports();
      studio.reviews.load();
      studio.posts.load();
      studio.excerpts.load();
      studio.newExport.changed();
      studio.exportSettings.load();
    }
    if (studio.selection.room === "words") {
      studio.cueChecks.load();
      studio.cueLanes.load();
      if (!studio.alignment.work) studio.alignment.resume();
    }
    if (studio.selection.room === "sound") studio.signalEdits.loadSuggestions();
    this.nextTick(() => {
      studio.stage.fitStage();
      studio.stage.showStill();
      studio.timeStrip.drawWaves();
      studio.signalCurve.readCurve();
    });
  }
  showKeys() {
    this.refs.keys.showModal();
  }
  closeKeys() {
    this.refs.keys.close();
  }
}
