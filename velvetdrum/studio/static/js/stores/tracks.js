// The tracks of the project: which is chosen, and what is done to it before it is added to the others.

import { partWith } from "../lib/studio_part.js";

export class Tracks extends partWith("events", "given", "project", "spectrumPanel", "views") {
  /** @type {string | null} */
  chosenId = null;

  get listed() {
    return this.project.document.tracks;
  }

  /** The chosen track; the first where none is. */
  get chosen() {
    return /** @type {Track | null} */ (this.listed.find(({ id }) => id === this.chosenId) || this.listed[0] || null);
  }

  /** The first voice among several tracks. */
  get voice() {
    const { listed } = this;
    return (listed.length > 1 && listed.find((track) => this.setting(track, "role") === "voice")) || null;
  }

  get index() {
    return this.chosen ? this.listed.indexOf(this.chosen) : -1;
  }

  get kind() {
    return this.given.trackKind;
  }

  /** What the settings on show belong to, in the view of tracks. */
  get target() {
    const chosen = /** @type {Track} */ (this.chosen);
    return (
      chosen && {
        id: chosen.id,
        name: chosen.name,
        base: `/tracks/${this.index}/settings`,
        settings: chosen.settings || {},
        kind: this.kind,
        grouped: false,
      }
    );
  }

  /** What can be listened to: the sum and each track, whole and in parts. */
  get sounds() {
    const parts = Object.entries(this.given.soundParts);
    const of = (/** @type {string} */ id, /** @type {string} */ name) =>
      parts.map(([part, text]) => ({
        name: part === "all" ? id : `${id}/${part}`,
        text: part === "all" ? name : `${name}: ${text.toLowerCase()}`,
      }));
    const { listed } = this;
    return [...of("", "Sum"), ...(listed.length > 1 ? listed.flatMap(({ id, name }) => of(id, name)) : [])];
  }

  get shown() {
    return this.spectrumPanel.isView("tracks");
  }

  /** @param {Track} track */
  choose(track) {
    this.chosenId = track.id;
    this.events.emit("chosen");
    this.views.trackLanes.draw();
  }

  /** @param {Track} track */
  isChosen(track) {
    return Boolean(this.chosen && track.id === this.chosen.id);
  }

  /** @param {Track} track */
  colour(track) {
    const { trackColours } = this.given;
    return track.colour || trackColours[this.listed.indexOf(track) % trackColours.length];
  }

  /** @param {Track} track */
  dot(track) {
    return { "--dot": this.colour(track) };
  }

  /**
   * @param {Track} track
   * @param {string} name
   */
  setting(track, name) {
    const own = (track.settings || {})[name];
    if (own !== undefined) return own;
    const known = this.kind.settings.find((/** @type {Setting} */ setting) => setting.name === name);
    return /** @type {Setting} */ (known).default;
  }

  /**
   * @param {Track} track
   * @param {string} name
   */
  isOn(track, name) {
    return this.setting(track, name) === true;
  }

  /** @param {Track} track */
  gainText(track) {
    const gain = this.setting(track, "gain_db");
    return `${gain > 0 ? "+" : ""}${String(gain).replace("-", "−")} dB`;
  }

  /**
   * The steps that give a setting of a track its value.
   * @param {number} index
   * @param {Record<string, any>} values
   */
  stepsFor(index, values) {
    const path = `/tracks/${index}/settings`;
    const own = this.listed[index].settings;
    if (!own) return [{ op: "add", path, value: values }];
    return Object.entries(values).map(([name, value]) => ({ op: "add", path: `${path}/${name}`, value }));
  }

  /**
   * @param {Track} track
   * @param {Record<string, any>} values
   * @param {string} label
   */
  put(track, values, label) {
    this.project.edit(`${track.name}: ${label}`, this.stepsFor(this.listed.indexOf(track), values));
  }

  /**
   * @param {Track} track
   * @param {string} name
   * @param {string} label
   */
  toggle(track, name, label) {
    this.put(track, { [name]: !this.isOn(track, name) }, label);
  }

  /**
   * @param {Track} track
   * @param {FieldEvent} event
   */
  slideGain(track, event) {
    const value = Number(event.target.value);
    this.put(track, { gain_db: value }, "Gain");
  }
}
