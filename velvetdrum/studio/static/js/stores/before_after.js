// Before and after: while the key or the button is held, the picture is shown without effects; in the Sound room
// voices are heard as they were recorded.

import { partWith } from "../lib/studio_part.js";

export class BeforeAfter extends partWith("playback", "project", "sound", "stage", "tracks", "views") {
  held = false;
  voices = false;

  /** Whether any track's voice is made even. */
  get anyVoice() {
    return this.tracks.listed.some((track) =>
      ["high_pass_hz", "level", "gate", "deess"].some((name) => this.tracks.setting(track, name) > 0),
    );
  }

  /**
   * The sound goes on from where it is, from another source.
   * @param {any} track
   */
  async swap(track) {
    const { player } = this.views;
    player.track = track;
    if (player.playing) await player.seek(player.now);
  }

  holdVoices() {
    const { track } = this.views.player;
    if (this.voices || !track || !this.anyVoice) return;
    this.voices = true;
    const address = `/projects/${this.project.state.id}`;
    const mark = `recorded:${this.project.heardKey}:${this.project.state.revision}`;
    this.swap({ ...track, address, mark, query: "&sum=recorded", channels: 2 });
    if (!this.playback.playing) this.playback.toggle();
  }

  get steps() {
    return this.project.document.layers.flatMap((layer, index) =>
      (layer.effects || []).flatMap((effect, number) =>
        effect.on === false ? [] : [{ op: "add", path: `/layers/${index}/effects/${number}/on`, value: false }],
      ),
    );
  }

  hold() {
    const { steps } = this;
    if (this.held || !steps.length) return;
    this.held = true;
    this.project.tryOut(steps);
  }

  release() {
    if (this.voices) {
      this.voices = false;
      this.sound.setTrack();
      this.swap(this.views.player.track);
    }
    if (!this.held) return;
    this.held = false;
    this.project.draft = null;
    this.stage.showStill();
  }
}
