// Spectra of the recording: asked for as they are needed, kept while they may be needed again.

import { ask } from "../lib/api.js";

const BLOCK = 240; // readings: four seconds

/** @param {Record<string, any>} values */
const queryOf = (values) => new URLSearchParams(Object.entries(values).map(([name, value]) => [name, String(value)]));

export class SpectrumData {
  /** @param {() => void} redraw is called when something came */
  constructor(redraw) {
    this.redraw = redraw;
    this.blocks = new Map();
    this.pictures = new Map();
  }

  /**
   * A piece of the spectrogram; null until it came. `floor` is the level in dB that is drawn black.
   * @param {any} source
   * @param {number} from
   * @param {number} to
   * @param {number} width
   * @param {number} height
   * @param {any} floor
   */
  picture(source, from, to, width, height, floor) {
    const name = [source.key, source.channel, from, to, width, height, floor].join(":");
    const found = this.pictures.get(name);
    if (found) return found === true ? null : found;
    this.pictures.set(name, true);
    if (this.pictures.size > 40) this.pictures.delete(this.pictures.keys().next().value);
    const query = queryOf({ from, to, width, height, floor, channel: source.channel });
    ask(`/sounds/${source.key}/spectrogram?${query}`, { bytes: true })
      .then((bytes) => createImageBitmap(new Blob([bytes], { type: "image/png" })))
      .then((bitmap) => {
        this.pictures.set(name, bitmap);
        this.redraw();
      })
      .catch(() => this.pictures.delete(name));
    return null;
  }

  /**
   * The average and the loudest of the used part; what was there before until it came.
   * @param {any} source
   */
  range(source) {
    const name = [source.key, source.channel, source.from, source.to].join(":");
    if (!this.ranged || this.ranged.name !== name) {
      this.ranged = { name, before: this.ranged && this.ranged.data };
      const asked = this.ranged;
      const query = queryOf({ from: source.from, to: source.to, channel: source.channel });
      ask(`/sounds/${source.key}/spectrum?${query}`)
        .then((data) => {
          asked.data = data;
          this.redraw();
        })
        .catch(() => {});
    }
    return this.ranged.data || this.ranged.before;
  }

  /**
   * What sounds at the playhead: the reading nearest to it.
   * @param {any} source
   */
  now(source) {
    const reading = Math.max(0, Math.round(source.now * 60));
    const number = Math.floor(reading / BLOCK);
    const get = (/** @type {any} */ block) => {
      const name = [source.key, source.channel, block].join(":");
      if (!this.blocks.has(name)) {
        this.blocks.set(name, null);
        if (this.blocks.size > 30) this.blocks.delete(this.blocks.keys().next().value);
        const query = queryOf({ start: block * BLOCK, count: BLOCK, channel: source.channel });
        ask(`/sounds/${source.key}/spectra?${query}`, { bytes: true })
          .then((bytes) => {
            this.blocks.set(name, new Int16Array(bytes));
            this.redraw();
          })
          .catch(() => this.blocks.delete(name));
      }
      return this.blocks.get(name);
    };
    const values = get(number);
    if (reading % BLOCK > BLOCK / 2) get(number + 1);
    if (!values) return this.last || null;
    const size = source.axis.length;
    this.last = values.subarray((reading % BLOCK) * size, ((reading % BLOCK) + 1) * size);
    return this.last;
  }

  /**
   * The levels at a frequency: at the playhead, on average, at the loudest.
   * @param {any} source
   * @param {number} hz
   */
  levelsText(source, hz) {
    const far = source.axis.map((/** @type {number} */ place) => Math.abs(Math.log(place / hz)));
    const index = far.indexOf(Math.min(...far));
    const [now, range] = [this.now(source), this.range(source)];
    const said = [
      now && `now ${(now[index] / 100).toFixed(0)}`,
      range && `average ${range.average[index].toFixed(0)}`,
      range && `loudest ${range.loudest[index].toFixed(0)}`,
    ].filter(Boolean);
    return said.length ? `  |  ${said.join(", ")} dB` : "";
  }
}
