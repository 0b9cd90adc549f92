// A text or a logo becomes a shape of its outlines, which is drawn, bent and followed as any path.

import { ask, refusalOf } from "../lib/api.js";
import { newId } from "../lib/ids.js";
import { plain } from "../lib/json_patch.js";
import { partWith } from "../lib/studio_part.js";

/** @typedef {{ name: string, settings: Record<string, any>, stroke: Record<string, any> | null }} LayerPart */

// How long a stroke is drawn, how long after it the next begins, and how long a part takes to come in its place.
const STROKE_S = 1.2;
const STAGGER_S = 0.3;
const FILL_S = 0.4;

export class LayerPaths extends partWith(
  "kinds",
  "layerEdits",
  "layers",
  "messages",
  "playback",
  "project",
  "selection",
) {
  /** The kind that the chosen layer's outlines become. */
  get kind() {
    const { layer, kind } = this.selection;
    return layer && kind.outlined ? this.kinds.find((known) => known.kind === kind.outlined) : null;
  }

  get able() {
    return Boolean(this.kind);
  }

  /** True for a layer whose kind can be taken apart. */
  get hasParts() {
    const { layer, kind } = this.selection;
    return Boolean(layer && kind.parted && !layer.settings[kind.parted]);
  }

  /** Each part of the chosen layer as a layer over it, where it stood, in one step; the layer itself is hidden. */
  takeApart() {
    return this.apart("taken apart", (parts) => parts.map((part) => this.partLayer(part)));
  }

  /**
   * The parts of the chosen layer drawn on from the playhead, one after the other: the stroke of each runs from its
   * start to its end, then the part itself comes in its place.
   */
  drawOn() {
    const begin = this.playback.frame / this.project.rate;
    return this.apart("drawn on", (parts) =>
      parts.flatMap((part, place) => {
        const from = begin + place * STAGGER_S;
        const to = from + STROKE_S;
        const whole = keyed(this.partLayer(part), "layer_opacity", way(to - FILL_S, to, 0, 100));
        const drawn = this.kind && part.stroke && this.strokeLayer(part, this.kind, part.stroke, from, to);
        return drawn ? [whole, drawn] : [whole];
      }),
    );
  }

  /**
   * @param {string} what
   * @param {(parts: LayerPart[]) => Layer[]} make
   */
  async apart(what, make) {
    const { layer } = this.selection;
    if (!this.hasParts) {
      this.messages.tell("Choose an SVG logo that is whole: its parts can become layers.");
      return;
    }
    if (this.layerEdits.refuseLocked()) return;
    try {
      const { parts } = await ask(`/projects/${this.project.state.id}/layers/${layer.id}/parts`, { json: {} });
      const index = this.layers.indexOf(layer.id);
      const made = make(parts);
      this.project.edit(`${layer.name}: ${what}`, [
        { op: "replace", path: `/layers/${index}/visible`, value: false },
        ...made.map((value, place) => ({ op: "add", path: `/layers/${index + 1 + place}`, value })),
      ]);
      this.selection.also = made.slice(0, -1).map(({ id }) => id);
      this.selection.setChosen(made[made.length - 1].id);
      this.messages.tell(`${layer.name} is ${made.length} layers now; the whole is hidden.`);
    } catch (thrown) {
      this.messages.tell(refusalOf(thrown).message);
    }
  }

  /** @param {LayerPart} part */
  partLayer({ name, settings }) {
    const layer = plain(this.selection.layer);
    return {
      ...layer,
      id: newId(),
      name: `${layer.name}: ${name}`.slice(0, 80),
      settings: { ...layer.settings, ...settings },
    };
  }

  /**
   * @param {LayerPart} part
   * @param {LayerKind} kind
   * @param {Record<string, any>} stroke
   * @param {number} from
   * @param {number} to
   */
  strokeLayer({ name }, kind, stroke, from, to) {
    const { layer } = this.selection;
    const shared = Object.entries(layer.settings).filter(([setting]) => this.isPlacing(setting, kind));
    const made = {
      ...plain(layer),
      id: newId(),
      kind: kind.kind,
      name: `${layer.name}: ${name}, stroke`.slice(0, 80),
      settings: { ...plain(Object.fromEntries(shared)), ...stroke },
      patches: plain(layer.patches.filter(({ setting }) => this.isPlacing(setting, kind))),
      keyframes: {},
      frames: {},
    };
    return keyed(keyed(made, kind.drawnOn, way(from, to, 0, 100)), "layer_opacity", way(to - FILL_S, to, 100, 0));
  }

  /** The chosen layer's outlines as a shape over it, in one step; the layer itself is hidden. */
  async make() {
    const { layer } = this.selection;
    const { kind } = this;
    if (!layer || !kind) {
      this.messages.tell("Choose a text or an SVG logo: their outlines can become a path.");
      return;
    }
    if (this.layerEdits.refuseLocked()) return;
    try {
      const address = `/projects/${this.project.state.id}/layers/${layer.id}/path`;
      const { path, x, y, size } = await ask(address, { json: { frame: this.playback.frame } });
      const index = this.layers.indexOf(layer.id);
      const shared = Object.entries(layer.settings).filter(([name]) =>
        kind.settings.some((setting) => setting.name === name && setting.group !== "shape"),
      );
      // What must be set for its path to be drawn.
      const setting = kind.settings.find(({ name }) => name === kind.drawnPath);
      const drawn = Object.fromEntries((setting ? setting.when : []).map(([name, values]) => [name, values[0]]));
      const made = {
        ...plain(layer),
        id: newId(),
        kind: kind.kind,
        name: `${layer.name.slice(0, 70)}, path`,
        settings: { ...plain(Object.fromEntries(shared)), ...drawn, [kind.drawnPath]: path, x, y, size },
        patches: plain(layer.patches.filter(({ setting }) => this.isPlacing(setting, kind))),
        keyframes: Object.fromEntries(
          Object.entries(plain(layer.keyframes || {})).filter(([place]) => this.isPlacing(place, kind)),
        ),
        frames: {},
      };
      this.project.edit(`${layer.name} as a path`, [
        { op: "replace", path: `/layers/${index}/visible`, value: false },
        { op: "add", path: `/layers/${index + 1}`, value: made },
      ]);
      this.selection.setChosen(made.id);
      this.messages.tell(`${layer.name} is a path now; the layer itself is hidden.`);
    } catch (thrown) {
      this.messages.tell(refusalOf(thrown).message);
    }
  }

  /**
   * True for what moves the layer as a whole, or a part of it, which the shape has, too.
   * @param {string} place
   * @param {LayerKind} kind
   */
  isPlacing(place, kind) {
    return place.includes(":") || kind.settings.some(({ name, group }) => name === place && group !== "shape");
  }
}

/**
 * @param {number} from
 * @param {number} to
 * @param {number} first
 * @param {number} last
 */
const way = (from, to, first, last) => [
  { time_s: Math.max(0, from), value: first, ease: "ease-in-out" },
  { time_s: Math.max(0, to), value: last, ease: "linear" },
];

/**
 * @param {Layer} layer
 * @param {string} setting
 * @param {any[]} keyframes
 */
const keyed = (layer, setting, keyframes) => ({
  ...layer,
  keyframes: { ...(layer.keyframes || {}), [setting]: keyframes },
});
