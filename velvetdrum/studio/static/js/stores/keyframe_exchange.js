// Keyframes out of what moves a setting, and a signal out of keyframes.

import { EASINGS, eased } from "../lib/easing.js";
import { ask, refusalOf } from "../lib/api.js";
import { newId } from "../lib/ids.js";
import { plain } from "../lib/json_patch.js";
import { partWith } from "../lib/studio_part.js";

// Points in place of an easing that points do not have.
const PIECES = 16;

/**
 * Keyframes as points: those whose easing points do not have become a row of straight pieces.
 * @param {{time_s: number, value: any, ease: string}[]} frames
 * @returns {{time_s: number, value: any, ease: string}[]}
 */
function pointsOf(frames) {
  return frames.flatMap((frame, index) => {
    const next = frames[index + 1];
    if (EASINGS.includes(frame.ease) || !next) return [{ ...frame, ease: next ? frame.ease : "linear" }];
    return Array.from({ length: PIECES }, (_, piece) => {
      const part = piece / PIECES;
      const value = frame.value + (next.value - frame.value) * eased(frame.ease, part);
      return { time_s: frame.time_s + (next.time_s - frame.time_s) * part, value, ease: "linear" };
    });
  });
}

const KIND_OF_POINTS = (/** @type {any} */ { drawn }) => Boolean(drawn);

export class KeyframeExchange extends partWith(
  "curvePanel",
  "given",
  "layerEdits",
  "layers",
  "messages",
  "project",
  "selection",
  "settings",
) {
  /**
   * What signals and keyframes make of a number, as few keyframes; its patches are let go.
   * @param {Setting} setting
   */
  async toKeyframes(setting) {
    const { layer } = this.selection;
    if (!layer || this.layerEdits.refuseLocked()) return;
    const place = this.settings.placeOf(setting);
    const base = `/layers/${this.layers.indexOf(layer.id)}`;
    try {
      const path = `/projects/${this.project.state.id}/layers/${layer.id}/keyframes`;
      const { keyframes } = await ask(path, { json: { setting: place } });
      this.project.edit(`${layer.name}: ${setting.label} as keyframes`, [
        { op: "add", path: `${base}/keyframes/${place}`, value: keyframes },
        {
          op: "replace",
          path: `${base}/patches`,
          value: plain(layer.patches.filter((patch) => patch.setting !== place)),
        },
      ]);
      this.messages.tell(`${setting.label} has ${keyframes.length} keyframes in place of signals.`);
    } catch (thrown) {
      this.messages.tell(refusalOf(thrown).message);
    }
  }

  /** The curve on show as a signal of its own, which moves the setting in place of the keyframes. */
  toSignal() {
    const { curveLayer: layer, curveSetting: setting, curveFrames: frames } = this.curvePanel;
    const kind = this.given.signalKinds.find(KIND_OF_POINTS);
    if (!setting.numeric || !kind || this.layerEdits.refuseLocked([layer])) return;
    const values = frames.map((/** @type {any} */ frame) => frame.value);
    const [low, high] = [Math.min(...values), Math.max(...values)];
    const curve = pointsOf(frames).map((point) => ({
      ...point,
      value: high > low ? Math.max(0, Math.min(1, (point.value - low) / (high - low))) : 0,
    }));
    const colours = this.given.colours;
    const count = this.project.document.signals.length;
    const signal = {
      id: newId(),
      kind: kind.kind,
      name: `${layer.name}: ${setting.label}`.slice(0, 80),
      colour: colours[count % colours.length],
      settings: { [kind.drawn]: curve },
    };
    const place = this.curvePanel.curveOf.place;
    const base = `/layers/${this.layers.indexOf(layer.id)}`;
    const patch = { setting: place, signal: signal.id, from: low, to: high, join: "replace", on: true, lag_ms: 0 };
    this.curvePanel.closeCurve();
    this.project.edit(`${layer.name}: ${setting.label} as a signal`, [
      { op: "add", path: "/signals/-", value: signal },
      { op: "remove", path: `${base}/keyframes/${place}` },
      { op: "add", path: `${base}/patches/-`, value: patch },
    ]);
    this.messages.tell(`${signal.name} is a signal now: it can move other settings, too.`);
  }
}
