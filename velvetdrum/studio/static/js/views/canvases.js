// What is drawn on canvases: each view made once, with where it reads from and what it tells.

import { CueLanes } from "./cue_lanes.js";
import { CurveView } from "./curve_view.js";
import { Handles } from "./handles.js";
import { Instruments } from "./instruments.js";
import { KeyCurve } from "./key_curve.js";
import { Lanes } from "./lanes.js";
import { Preview } from "./preview.js";
import { Rulers } from "./rulers.js";
import { LevelMeters } from "./level_meters.js";
import { TrackLanes } from "./track_lanes.js";
import { Spectrum } from "./spectrum.js";
import { Wave } from "./wave.js";

/**
 * @typedef {object} Views
 * @property {import("../lib/player.js").Player} player
 * @property {Preview} preview
 * @property {Wave} strip
 * @property {Wave} whole
 * @property {Spectrum} spectrum
 * @property {CurveView} curveView
 * @property {Lanes} lanesView
 * @property {CueLanes} cueLanes
 * @property {TrackLanes} trackLanes
 * @property {LevelMeters} levelMeters
 * @property {Instruments} instruments
 * @property {Handles} handlesView
 * @property {KeyCurve} keyCurve
 * @property {Rulers} rulers
 */

/**
 * @param {import("../studio.js").Studio} studio
 * @param {Record<string, any>} refs elements by their x-ref
 * @returns {Omit<Views, "player">}
 */
export function makeViews(studio, refs) {
  const { playback, project, timing, keyPicks, formats } = studio;
  const seek = (/** @type {number} */ second) => playback.seek(second * project.rate);
  const shown = () => ({
    id: project.state.id,
    ...formats.frameSize,
    frames: project.frames,
    rate: project.rate,
    more: formats.sizeWanted,
  });
  const views = {
    preview: new Preview(
      refs.picture,
      shown,
      (/** @type {string} */ what) => studio.stage.pictureShown(what),
      () => !document.hidden && !studio.exports.running && !playback.playing,
    ),
    strip: new Wave(refs.strip, () => studio.timeStrip.stripSource(), {
      seek,
      loop: (from, to) => playback.setLoop(from, to),
      seen: () => studio.lanes.readLanes(),
    }),
    whole: new Wave(refs.whole, () => studio.timeStrip.wholeSource(), {
      seek: (second) => seek(second - studio.trim.inS),
      handle: (kind, second) => studio.trim.dragPoint(kind, second),
      handleEnd: () => studio.trim.placePoints(),
      gripAt: (second, reach) => studio.beatMoves.at(second, reach),
      grip: (index, second) => studio.beatMoves.drag(index, second),
      gripEnd: () => studio.beatMoves.place(),
      gripBack: (index) => studio.beatMoves.back(index),
    }),
    spectrum: new Spectrum(refs.spectrum, () => studio.spectrumPanel.spectrumSource(), {
      choose: (/** @type {string} */ id) => studio.signals.chooseSignal(studio.signals.signalById(id)),
      drag: (/** @type {string} */ id, /** @type {any} */ changes) => studio.spectrumPanel.dragPickup(id, changes),
      placed: (/** @type {string} */ id, /** @type {any} */ changes) => studio.spectrumPanel.placePickup(id, changes),
    }),
    curveView: new CurveView(refs.curve, () => studio.signalCurve.curveSource(), {
      seek,
      points: (/** @type {number[][]} */ points) => studio.drawnCurve.tryPoints(points),
      placedPoints: (/** @type {number[][]} */ points, /** @type {string} */ label) =>
        studio.drawnCurve.placeCurve(points, label),
      choosePoint: (/** @type {number} */ index) => studio.drawnCurve.choosePoint(index),
    }),
    lanesView: new Lanes(refs.lanes, () => studio.lanes.lanesSource(), {
      pick: (/** @type {string} */ id, /** @type {PressEvent} */ event) => studio.lanes.pickLane(id, event),
      drag: (/** @type {string} */ id, /** @type {number} */ change) => timing.dragSpan(id, change),
      placed: (/** @type {string} */ id, /** @type {number} */ change, /** @type {string} */ label) =>
        timing.placeSpan(id, change, label),
      pickKey: (/** @type {string} */ id, /** @type {number} */ time, /** @type {any} */ add) =>
        keyPicks.pickKey(id, time, add),
      dragKeys: (/** @type {number} */ by) => timing.dragKeys(by),
      placeKeys: (/** @type {number} */ by) => timing.placeKeyDrag(by),
      seek,
      snap: (/** @type {number} */ second, /** @type {string} */ id) => timing.snapTime(second, id),
      scroll: (/** @type {number} */ by) => studio.lanes.scrollLanes(by),
    }),
    cueLanes: new CueLanes(refs.cueLanes, () => studio.cueLanes.source(), {
      choose: (/** @type {ListedCue} */ cue, /** @type {string} */ word) => studio.cues.choose(cue, word),
      drag: (/** @type {any} */ cue) => {
        studio.cueEdits.draft = cue;
      },
      placed: (/** @type {ListedCue} */ cue, /** @type {string} */ label) => studio.cueEdits.put(label, [cue]),
      seek,
    }),
    trackLanes: new TrackLanes(refs.trackLanes, () => studio.trackLanes.source(), {
      choose: (/** @type {string} */ id) => studio.tracks.choose(/** @type {any} */ ({ id })),
      placed: (/** @type {string} */ id, /** @type {any} */ place, /** @type {string} */ label) =>
        studio.trackEdits.place(
          /** @type {any} */ (studio.tracks.listed.find((track) => track.id === id)),
          place,
          label,
        ),
      seek,
    }),
    levelMeters: new LevelMeters(refs.levelMeters, () => studio.trackLanes.metersSource(), {}),
    instruments: new Instruments(refs.waveform, refs.histogram),
    handlesView: new Handles(refs.handles, () => studio.placement.handlesSource(), {
      down: (what, point, event) =>
        studio.pen.down(point, event) ||
        studio.ballGrips.down(what) ||
        studio.colourGrips.down(what) ||
        // A chosen camera is dragged wherever there is nothing else to take hold of.
        studio.cameraGrips.down(what, point, event) ||
        studio.grips.gripDown(what, point, event),
      move: (point, event) => gripsOf(studio).gripMove(point, event),
      up: () => gripsOf(studio).gripUp(),
      cancel: () => gripsOf(studio).gripCancel(),
      wheel: (event) => studio.cameraGrips.wheel(event),
    }),
    rulers: new Rulers(refs.rulers, () => studio.workspace.rulersSource(), {
      added: (/** @type {"x" | "y"} */ axis, /** @type {number} */ at) => studio.workspace.addGuide(axis, at),
      moved: (/** @type {number} */ index, /** @type {number} */ at) => studio.workspace.moveGuide(index, at),
    }),
    keyCurve: new KeyCurve(refs.keycurve, () => studio.curvePanel.keyCurveSource(), {
      choose: (/** @type {number} */ index) => {
        studio.curvePanel.curveKey = index;
      },
      drag: (/** @type {Keyframe[]} */ frames) => studio.curvePanel.tryKeys(frames),
      placed: (/** @type {Keyframe[]} */ frames, /** @type {string} */ label) =>
        studio.curvePanel.placeKeys(frames, label),
      seek,
      snap: (/** @type {number} */ second) => timing.snapTime(second),
    }),
  };
  new ResizeObserver(() => {
    studio.stage.fitStage();
    studio.stage.showStill();
  }).observe(refs.stage);
  return views;
}

/**
 * Whoever holds what is dragged on the picture.
 * @param {import("../studio.js").Studio} studio
 */
function gripsOf(studio) {
  return (
    [studio.pen, studio.ballGrips, studio.colourGrips, studio.cameraGrips].find(({ held }) => held) || studio.grips
  );
}
