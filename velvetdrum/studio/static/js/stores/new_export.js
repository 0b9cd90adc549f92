// What is asked for in the Export room: which files, of which part, with which sound and names; and what it will cost.

import { ask, refusalOf } from "../lib/api.js";
import { estimated, refusals } from "../lib/export_answers.js";
import { plain } from "../lib/json_patch.js";
import { length, loudnessChange, size } from "../lib/amounts.js";
import { bodiesOf, sized } from "../lib/export_body.js";
import { clock } from "../lib/time.js";
import { partWith } from "../lib/studio_part.js";

const KEPT = "velvet-export";
const LATER = 600;
const REMEMBERED = [
  "speed",
  "short",
  "rate",
  "loudness",
  "truePeak",
  "captions",
  "name",
  "channel",
  "fadeIn",
  "fadeOut",
];
// Short sides to choose from, in pixels.
const SHORTS = ["480", "720", "1080", "1440", "2160"];

export class NewExport extends partWith(
  "exports",
  "formats",
  "messages",
  "playback",
  "project",
  "selection",
  "sound",
  "wantedFormats",
) {
  /** @type {string[] | null} */
  shapes = null; // the shapes that are asked for; null: the one on show
  part = "all"; // all, or the loop
  seamless = false;
  speed = "balanced";
  short = ""; // pixels of the short side; empty for the frame's own
  rate = ""; // frames per second; empty for the project's
  shorts = SHORTS;
  loudness = "";
  truePeak = "-1";
  captions = "none";
  fadeIn = 0;
  fadeOut = 0;
  megabytes = "";
  moments = 9;
  name = "{project} {size}";
  channel = "";
  fault = "";
  /** @type {{seconds: number, bytes: number, free: number}|null} */
  estimate = null;
  estimateNote = "";
  /** @type {any[]} */
  fitting = []; // what the channel would refuse
  asked = 0;
  /** @type {any} */
  timer = null;
  known = new Map();

  /** @param {any} [storage] */
  restore(storage = localStorage) {
    try {
      this.put(JSON.parse(storage.getItem(KEPT)) || {});
    } catch {
      /* as if nothing was kept */
    }
  }

  /** @param {any} kept what was kept: taken as far as it is of this version and of formats that are there */
  put(kept) {
    const own = /** @type {Record<string, any>} */ (this);
    for (const key of REMEMBERED) if (typeof kept[key] === typeof own[key]) own[key] = kept[key];
    if (Array.isArray(kept.wanted)) this.wantedFormats.put(kept.wanted);
  }

  get remembered() {
    const own = /** @type {Record<string, any>} */ (this);
    return { wanted: this.wantedFormats.wanted, ...Object.fromEntries(REMEMBERED.map((key) => [key, own[key]])) };
  }

  /** All that is asked for but the part, for keeping under a name. */
  get asking() {
    return plain({ ...this.remembered, shapes: this.shapes || [], megabytes: String(this.megabytes) });
  }

  /** @param {any} asked what was kept under a name */
  take(asked) {
    this.put(asked);
    this.shapes = asked.shapes.length ? [...asked.shapes] : null;
    this.megabytes = asked.megabytes;
    this.changed();
  }

  /** What the files become: their sizes, and their rate. */
  get sizeText() {
    const sizes = this.frames.map(({ size }) => sized(size, this.short).join(" × "));
    return `${sizes.join(", ")} px`;
  }

  get rateText() {
    const { rate } = this.project;
    return `as the project, ${Math.round(rate * 1000) / 1000}`;
  }

  keep() {
    try {
      localStorage.setItem(KEPT, JSON.stringify(this.remembered));
    } catch {
      /* a browser that keeps nothing */
    }
  }

  /** @param {string} shape */
  isShape(shape) {
    return this.shapes ? this.shapes.includes(shape) : this.formats.frameShape === shape;
  }

  /**
   * Into what is asked for, or out of it; one shape at the least stays.
   * @param {string} shape
   */
  toggleShape(shape) {
    const asked = this.shapes || [this.formats.frameShape];
    const next = asked.includes(shape) ? asked.filter((other) => other !== shape) : [...asked, shape];
    if (next.length) this.shapes = next;
    this.changed();
  }

  get frames() {
    return this.formats.shapes.filter((item) => this.isShape(item.shape));
  }

  /** @type {(key: string, value: any) => any} */
  set(key, value) {
    /** @type {Record<string, any>} */ (this)[key] = value;
    this.changed();
  }

  get sized() {
    return this.wantedFormats.chosen.some((item) => item.form.sized);
  }

  get many() {
    return this.wantedFormats.chosen.some((item) => item.form.many);
  }

  get sounds() {
    return this.wantedFormats.chosen.some((item) => item.form.sound);
  }

  get stretch() {
    const { playback, project } = this;
    if (this.part === "loop" && playback.loop)
      return [playback.loop.first / project.rate, playback.loop.last / project.rate];
    return null;
  }

  get seconds() {
    const { stretch } = this;
    return stretch ? stretch[1] - stretch[0] : this.project.length;
  }

  get partText() {
    const { loop } = this.playback;
    if (!loop) return "loop";
    const rate = this.project.rate;
    return `${clock(loop.first / rate, 0)} – ${clock(loop.last / rate, 0)}`;
  }

  get soundText() {
    const { facts } = this.sound;
    if (!facts || facts.loudness_lufs === null) return "";
    return loudnessChange(facts, this.loudness, this.truePeak);
  }

  /** One body for each file that is asked for. */
  get bodies() {
    const { frames, playback, project, stretch } = this;
    const of = { stretch, frames, now_s: playback.frame / project.rate };
    return this.wantedFormats.chosen.flatMap((chosen) => bodiesOf(this, chosen, of));
  }

  get button() {
    const count = this.bodies.length;
    const plain = this.wantedFormats.chosen.every((item) => item.form.group === "video");
    return `Make ${count} ${plain ? "video" : "file"}${count === 1 ? "" : "s"}`;
  }

  get cost() {
    if (!this.estimate) return this.estimateNote;
    const { seconds, bytes, free } = this.estimate;
    return `about ${length(seconds)} · ${size(bytes)} of ${size(free)} free`;
  }

  get tooLarge() {
    return Boolean(this.estimate && this.estimate.bytes * 2 > this.estimate.free);
  }

  /** After any change: what it costs and whether the channel takes it, once it rests. */
  changed() {
    this.keep();
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.reckon(), LATER);
  }

  async reckon() {
    if (this.selection.room !== "export" || !this.project.track) return;
    const turn = (this.asked += 1);
    await this.askFitting(turn);
    if (this.exports.running) {
      this.estimate = null;
      this.estimateNote = "reckoned once the queue rests";
      return;
    }
    try {
      const sum = await estimated(this.project.state, this.bodies, this.known, {
        isAsked: () => turn === this.asked,
        asking: () => {
          this.estimateNote = "reckoning…";
          this.estimate = null;
        },
      });
      if (sum) this.estimate = sum;
    } catch (thrown) {
      const problem = refusalOf(thrown);
      if (turn === this.asked) this.estimateNote = problem.status === 422 ? problem.message : "";
    }
  }

  /** @param {number} turn */
  async askFitting(turn) {
    try {
      const found = this.channel ? await refusals(this.project.state.id, this.bodies, this.channel) : [];
      if (turn === this.asked) this.fitting = found;
    } catch {
      /* said when it is made */
    }
  }

  async begin() {
    this.fault = "";
    this.exports.mayTell();
    try {
      for (const json of this.bodies) await ask(`/projects/${this.project.state.id}/exports`, { json });
    } catch (thrown) {
      this.fault = refusalOf(thrown).message;
    }
    await this.exports.loadExports();
  }

  /** A cover of the frame that is on show. */
  async makeCover() {
    const { project, playback, formats } = this;
    const shown = /** @type {any} */ (formats.shapes.find((item) => item.shape === formats.frameShape));
    const frame = shown.size.join("x");
    const from_s = playback.frame / project.rate;
    const json = { format: "still-jpeg", frame, from_s, name: "{project} cover {size}" };
    try {
      await ask(`/projects/${project.state.id}/exports`, { json });
      this.messages.tell(`A cover of ${clock(from_s)} is being made.`);
    } catch (thrown) {
      this.messages.tell(refusalOf(thrown).message);
    }
    await this.exports.loadExports();
  }
}
