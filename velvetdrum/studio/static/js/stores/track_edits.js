// Tracks brought in, named, placed, cut in two and taken away.

import { ask } from "../lib/api.js";
import { pointsMoved } from "../lib/gain_points.js";
import { newId } from "../lib/ids.js";
import { plain } from "../lib/json_patch.js";
import { clock, readClock } from "../lib/time.js";
import { cutPlaces, placeOf, spanOf } from "../lib/track_places.js";
import { partWith } from "../lib/studio_part.js";

export class TrackEdits extends partWith(
  "messages",
  "page",
  "playback",
  "project",
  "sound",
  "soundImport",
  "sum",
  "tracks",
  "trim",
) {
  adding = false; // what is brought in is a track beside the others
  fault = "";

  /** @param {FieldEvent} event */
  rename(event) {
    const name = event.target.value.trim().slice(0, 300);
    const { chosen } = this.tracks;
    if (!chosen || !name || name === chosen.name) return;
    this.project.edit("Rename the track", [
      { op: "replace", path: `/tracks/${this.tracks.index}/name`, value: name },
    ]);
  }

  /** @param {FieldEvent} event */
  recolour(event) {
    const { chosen } = this.tracks;
    if (!chosen) return;
    this.project.edit(`${chosen.name}: colour`, [
      { op: "add", path: `/tracks/${this.tracks.index}/colour`, value: event.target.value },
    ]);
  }

  // Where a track lies

  /**
   * The steps that give tracks their places; the used part stays what it was.
   * @param {number} index
   * @param {Record<string, number>} place
   */
  placeSteps(index, place) {
    return [
      ...this.trim.usedSteps(),
      ...Object.entries(place).map(([name, value]) => ({
        op: "add",
        path: `/tracks/${index}/${name}`,
        value: Math.round(value * 1e6) / 1e6,
      })),
    ];
  }

  /**
   * @param {Track} track
   * @param {any} place
   * @param {string} label
   */
  place(track, place, label) {
    const index = this.tracks.listed.indexOf(track);
    const { settings, gain, ...where } = place;
    const steps = settings ? this.tracks.stepsFor(index, settings) : this.placeSteps(index, where);
    const by = (where.at_s ?? placeOf(track).at_s) - placeOf(track).at_s;
    const moves = by !== 0 && (where.in_s ?? track.in_s) === track.in_s;
    // A track that is moved as a whole takes the points of its gain along.
    const points = gain || (moves && track.gain ? pointsMoved(plain(track.gain), by) : null);
    const put = points ? [{ op: "add", path: `/tracks/${index}/gain`, value: points }] : [];
    this.project.edit(`${track.name}: ${label}`, [...(gain ? [] : steps), ...put]);
  }

  /** The places of the chosen track as numbers to type. */
  get placeFields() {
    const { chosen } = this.tracks;
    if (!chosen) return [];
    const place = placeOf(chosen);
    return [
      { name: "at_s", label: "Begins at", value: clock(place.at_s, 3) },
      { name: "in_s", label: "In", value: clock(place.in_s, 3) },
      { name: "out_s", label: "Out", value: clock(place.out_s, 3) },
      { name: "length_s", label: "Length, with loops", value: clock(place.length_s, 3) },
    ];
  }

  /**
   * @param {string} name
   * @param {FieldEvent} event
   */
  typePlace(name, event) {
    const { chosen } = this.tracks;
    if (!chosen) return;
    const value = readClock(event.target.value);
    if (value === null || value < 0) {
      this.fault = `“${event.target.value.slice(0, 20)}” is no time; write minutes:seconds.`;
      return;
    }
    this.fault = "";
    const before = placeOf(chosen);
    const next = { ...before, [name]: value };
    // A trim takes the length along where nothing is looped.
    if (name !== "length_s" && name !== "at_s" && before.length_s <= before.out_s - before.in_s + 1e-6)
      next.length_s = Math.max(0.05, next.out_s - next.in_s);
    if (next.out_s - next.in_s < 0.05) {
      this.fault = "The out point must lie after the in point.";
      return;
    }
    this.place(chosen, next, "place");
  }

  /** The chosen track in two at the playhead. */
  cutHere() {
    const { chosen } = this.tracks;
    if (!chosen) return;
    const at = this.trim.inS + this.playback.frame / this.project.rate;
    const [from, to] = spanOf(chosen);
    if (at < from + 0.05 || at > to - 0.05) {
      this.messages.tell(`The playhead does not stand on ${chosen.name}.`);
      return;
    }
    const [first, ...rest] = cutPlaces(placeOf(chosen), at);
    const { index } = this.tracks;
    const faded = (/** @type {number} */ number) => ({
      ...chosen.settings,
      ...(number ? { fade_in_s: 0 } : {}),
      ...(number < rest.length ? { fade_out_s: 0 } : {}),
    });
    const parts = rest.map((place, number) => ({
      ...plain(chosen),
      ...place,
      id: newId(),
      settings: faded(number + 1),
    }));
    this.project.edit(`${chosen.name}: cut in two`, [
      ...this.placeSteps(index, first),
      { op: "add", path: `/tracks/${index}/settings`, value: faded(0) },
      ...parts.map((value, number) => ({ op: "add", path: `/tracks/${index + 1 + number}`, value })),
    ]);
    this.tracks.chosenId = parts[0].id;
  }

  drop() {
    const { chosen } = this.tracks;
    if (!chosen) return;
    this.project.edit(`Delete the track ${chosen.name}`, [
      ...(this.tracks.listed.length > 1 ? this.trim.usedSteps() : this.trim.usedGone()),
      { op: "remove", path: `/tracks/${this.tracks.index}` },
      ...this.unheard(chosen.id),
    ]);
    this.messages.tell(`${chosen.name} is deleted.`, "Undo", () => this.project.undo());
  }

  /**
   * The steps after which nothing listens to a track.
   * @param {string} id
   */
  unheard(id) {
    const { signals, layers } = this.project.document;
    const of = (/** @type {any[]} */ items, /** @type {string} */ listed) =>
      items.flatMap(({ settings }, index) => {
        const [track, part] = String(settings.listens || "").split("/");
        const path = `/${listed}/${index}/settings/listens`;
        return track === id ? [{ op: "replace", path, value: part ? `/${part}` : "" }] : [];
      });
    return [...of(signals, "signals"), ...of(layers, "layers")];
  }

  /** All tracks that are no voices go down under those that are, in one step. */
  get canDuck() {
    return this.tracks.listed.length > 1;
  }

  duckAll() {
    if (!this.tracks.listed.some((track) => this.tracks.setting(track, "role") === "voice")) {
      this.messages.tell("None of the tracks is a voice yet: choose the one that is, and give it the role Voice.");
      return;
    }
    const steps = this.tracks.listed.flatMap((track, index) =>
      this.tracks.setting(track, "role") === "voice" ? [] : this.tracks.stepsFor(index, { ducked: true }),
    );
    this.project.edit("Down under voices", steps);
  }

  // The loudness of the sum

  targets = [-14, -16, -23];

  get loudnessText() {
    return this.sound.facts ? `all of it ${this.sound.loudnessText}, ${this.sound.peakText}` : "";
  }

  /** @param {number} lufs */
  targetText(lufs) {
    return `to ${String(lufs).replace("-", "−")} LUFS`;
  }

  /**
   * All gains change alike, so that the sum has a loudness.
   * @param {number} lufs
   */
  bringTo(lufs) {
    const { facts } = this.sound;
    if (!facts || facts.loudness_lufs === null) {
      this.messages.tell("The sum is too short, or silent: it has no loudness.");
      return;
    }
    const by = Math.round((lufs - facts.loudness_lufs) * 10) / 10;
    const gains = this.tracks.listed.map((track) => this.tracks.setting(track, "gain_db") + by);
    if (gains.some((gain) => gain < -60 || gain > 24)) {
      this.messages.tell(`A gain would have to go beyond its range by ${Math.abs(by)} dB: level the tracks first.`);
      return;
    }
    const steps = this.tracks.listed.flatMap((_, index) =>
      this.tracks.stepsFor(index, { gain_db: Math.round(gains[index] * 10) / 10 }),
    );
    this.project.edit(this.targetText(lufs), steps);
    const peak = facts.true_peak_dbtp + by;
    if (peak > -1) {
      const words = `Peaks come to ${peak.toFixed(1)} dBTP: an export to a loudness holds them under its ceiling.`;
      this.messages.tell(words.replace("-", "−"));
    }
  }

  // New ones

  /** @param {FieldEvent} event */
  filesChosen(event) {
    const files = [...event.target.files];
    event.target.value = "";
    this.addFiles(files);
  }

  /**
   * Sounds that were dropped while tracks are shown, or several at once, become tracks.
   * @param {File[]} files
   */
  takeDropped(files) {
    const sounds = files.filter(
      ({ name, type }) => /^(audio|video)\//.test(type) || /\.(opus|flac|aiff?)$/i.test(name),
    );
    if (!sounds.length || !this.tracks.listed.length || !(sounds.length > 1 || this.tracks.shown)) return false;
    this.addFiles(sounds);
    return true;
  }

  /** @param {File[]} files */
  async addFiles(files) {
    if (this.adding) return;
    this.adding = true;
    const before = this.tracks.listed.length;
    try {
      for (const file of files) {
        await this.soundImport.bring(file);
        if (this.soundImport.bringingFault) break;
      }
    } finally {
      this.adding = false;
    }
    const count = this.tracks.listed.length - before;
    if (count > 0) {
      this.tracks.chosenId = this.tracks.listed[this.tracks.listed.length - 1].id;
      this.messages.tell(count > 1 ? `${count} tracks are in.` : `${this.tracks.listed[before].name} is in.`);
    }
  }

  /** A track was added by the server. */
  async brought() {
    this.soundImport.dismissBringing();
    this.project.accept(await ask(`/projects/${this.project.state.id}/state`));
    await this.sum.follow();
    this.page.changed();
  }
}
