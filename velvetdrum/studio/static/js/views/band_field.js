// Bands of frequency on the spectrum of the recording, dragged by their edges; their text stands above.

import { bandMoved, bandSplit, bandText, bandsJoined, bandsOf } from "../lib/band_text.js";
import { partWith } from "../lib/studio_part.js";
import { Spectrum } from "./spectrum.js";

/** @typedef {import("../lib/band_text.js").Band} Band */

const COLOURS = ["sea", "brass"];
// Levels that the boxes stand between: bands have none of their own.
const [QUIET_DB, LOUD_DB] = [-66, -6];

export class BandField extends partWith("events", "fields", "settings", "spectrumPanel") {
  /** @type {Map<string, number>} the chosen band, by the setting's field */
  chosen = new Map();
  /** @type {Set<Spectrum>} */
  views = new Set();
  listening = false;

  /** @param {Setting} setting */
  bands(setting) {
    return bandsOf(this.fields.valueShown(setting));
  }

  /** @param {Setting} setting */
  chosenBand(setting) {
    return Math.min(this.chosen.get(this.fields.fieldId(setting)) || 0, this.bands(setting).length - 1);
  }

  /**
   * @param {HTMLCanvasElement} canvas
   * @param {Setting} setting
   */
  mount(canvas, setting) {
    const source = () => {
      const pickups = this.bands(setting).map(({ low, high }, index) => ({
        id: index,
        name: "",
        colour: COLOURS[index % COLOURS.length],
        low_hz: low,
        high_hz: high,
        quiet_db: QUIET_DB,
        loud_db: LOUD_DB,
        heard: null,
      }));
      return {
        ...this.spectrumPanel.spectrumSource(),
        top: 0,
        pickups,
        chosen: this.chosenBand(setting),
        view: "now",
      };
    };
    const moved = (/** @type {number} */ index, /** @type {any} */ changes) =>
      bandText(
        bandMoved(bandsOf(this.settings.current(setting)), index, { low: changes.low_hz, high: changes.high_hz }),
      );
    const view = new Spectrum(canvas, source, {
      choose: (/** @type {number} */ index) => {
        this.chosen.set(this.fields.fieldId(setting), index);
        view.draw();
      },
      drag: (/** @type {number | null} */ index, /** @type {any} */ changes) => {
        if (index === null) this.settings.dragValue = null;
        else if (hasBand(changes)) this.settings.tryValue(setting, moved(index, changes));
      },
      placed: (/** @type {number} */ index, /** @type {any} */ changes) => {
        if (hasBand(changes)) this.settings.put(setting, moved(index, changes));
      },
    });
    this.views.add(view);
    this.listen();
    view.draw();
  }

  listen() {
    if (this.listening) return;
    this.listening = true;
    for (const event of ["saved", "rest", "stopped", "frame-told", "draft"])
      this.events.on(event, () => {
        for (const view of this.views) {
          if (view.canvas.isConnected) view.draw();
          else this.views.delete(view);
        }
      });
  }

  /** @param {Setting} setting */
  split(setting) {
    this.change(setting, bandSplit);
  }

  /** @param {Setting} setting */
  join(setting) {
    this.change(setting, bandsJoined);
  }

  /**
   * @param {Setting} setting
   * @param {(bands: Band[], index: number) => Band[]} change
   */
  change(setting, change) {
    const bands = bandsOf(this.settings.current(setting));
    if (bands.length) this.settings.put(setting, bandText(change(bands, this.chosenBand(setting))));
  }
}

/** @param {any} changes */
const hasBand = (changes) => changes.low_hz !== undefined || changes.high_hz !== undefined;
