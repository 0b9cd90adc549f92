// Where the lanes of tracks read from, and what follows a drag on them.

import { ask } from "../lib/api.js";
import { placeOf } from "../lib/track_places.js";
import { partWith } from "../lib/studio_part.js";
import { LANE } from "./track_lanes.js";

const COLUMNS = 600;

export class TrackLanesPanel extends partWith(
  "cueLanes",
  "markers",
  "playback",
  "project",
  "raw",
  "tempo",
  "tracks",
  "trim",
  "views",
) {
  /** @type {Record<string, number>} lengths of recordings in seconds, by content hash */
  lengths = {};
  /** @type {any} how far tracks go down, over a stretch */
  gains = null;
  gainsOf = "";

  source() {
    const { tracks, project, playback, trim, views } = this;
    const solo = tracks.listed.some((track) => tracks.isOn(track, "solo"));
    const seen = views.strip.seen;
    this.readGains(seen);
    this.cueLanes.load();
    return {
      seen,
      now: playback.frame / project.rate,
      inS: trim.inS,
      length: project.length,
      chosen: tracks.chosen && tracks.chosen.id,
      gains: this.raw(this.gains),
      marks: [
        0,
        project.length,
        ...this.beats,
        ...this.pauses,
        ...this.markers.markers.map((marker) => marker.time_s),
        ...this.ends,
      ],
      tracks: tracks.listed.map((track) => ({
        id: track.id,
        name: track.name,
        media: track.media,
        colour: tracks.colour(track),
        place: placeOf(track),
        whole: this.lengthOf(track.media, track.out_s),
        heard: !tracks.isOn(track, "muted") && (!solo || tracks.isOn(track, "solo")),
        gain: 10 ** (tracks.setting(track, "gain_db") / 20),
        fadeIn: tracks.setting(track, "fade_in_s"),
        fadeOut: tracks.setting(track, "fade_out_s"),
        points: this.raw(track.gain || []),
      })),
    };
  }

  get beats() {
    return this.tempo.snapping ? this.raw(this.tempo.beatGrid.beats).map((/** @type {any} */ [time]) => time) : [];
  }

  /** Where pauses of the voice begin and end, in seconds of the project. */
  get pauses() {
    return this.raw(this.cueLanes.pauses)
      .flat()
      .map((/** @type {number} */ second) => second - this.trim.inS);
  }

  /** Ends of other tracks, in seconds of the project. */
  get ends() {
    return this.tracks.listed
      .filter((track) => !this.tracks.isChosen(track))
      .flatMap((track) => {
        const { at_s, length_s } = placeOf(track);
        return [at_s - this.trim.inS, at_s + length_s - this.trim.inS];
      });
  }

  /**
   * How long a recording is; until that is known, as long as it is used.
   * @param {string} media
   * @param {number} used
   */
  lengthOf(media, used) {
    if (this.lengths[media] === undefined) {
      this.lengths[media] = used;
      ask(`/sounds/${media}`)
        .then((facts) => {
          this.lengths[media] = facts.duration_s;
        })
        .catch(() => {});
    }
    return this.lengths[media];
  }

  /** @param {{ start: number, span: number }} seen */
  readGains(seen) {
    const [from, to] = [seen.start + this.trim.inS, seen.start + seen.span + this.trim.inS];
    const { id, revision } = this.project.state;
    const mark = [revision, from.toFixed(3), to.toFixed(3)].join();
    if (mark === this.gainsOf || !this.tracks.shown) return;
    this.gainsOf = mark;
    ask(`/projects/${id}/track-gains?from=${from}&to=${to}&columns=${COLUMNS}`)
      .then((answer) => {
        this.gains = { from, to, tracks: answer.gains };
        this.views.trackLanes.draw();
      })
      .catch(() => {});
  }

  get style() {
    return { height: `${Math.max(1, this.tracks.listed.length) * LANE + 2}px` };
  }

  get metersStyle() {
    return { height: `${(this.tracks.listed.length + 3) * 22 + 88}px` };
  }

  metersSource() {
    const { tracks, project, trim } = this;
    return {
      id: project.state.id,
      mark: tracks.shown && project.heardKey ? `${project.heardKey}:${project.state.revision}` : "",
      inS: trim.inS,
      length: project.length,
      tracks: tracks.listed.map((track) => ({ id: track.id, name: track.name, colour: tracks.colour(track) })),
    };
  }

  get text() {
    return `${this.tracks.listed.length} tracks: ${this.tracks.listed.map(({ name }) => name).join(", ")}`;
  }
}
