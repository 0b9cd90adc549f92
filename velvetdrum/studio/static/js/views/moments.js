// Small true frames: the moments under the transport, and the layers' thumbnails.

import { ask, unpack } from "../lib/api.js";
import { clock } from "../lib/time.js";
import { StudioPart } from "../lib/studio_part.js";

const THUMB_WIDTH = 92;
const MOMENT_WIDTH = 260;

export class Moments extends StudioPart {
  momentsTurn = null;
  marks = null;
  warmed = null;
  thumbs = {};
  moments = [];
  async loadMoments() {
    const turn = (this.momentsTurn = (this.momentsTurn || 0) + 1);
    try {
      const listed = await ask(`/projects/${this.studio.project.state.id}/moments`);
      const packed = await this.pictures(
        listed.map((moment) => moment.frame),
        MOMENT_WIDTH,
      );
      if (turn !== this.momentsTurn) return;
      for (const moment of this.moments) URL.revokeObjectURL(moment.picture);
      this.moments = listed.map((moment, index) => ({
        ...moment,
        picture: URL.createObjectURL(packed[index].blob),
      }));
      this.moments.splice(2, 0, {
        name: "now",
        label: "now",
        frame: this.studio.playback.frame,
        picture: "",
      });
      await this.loadNow();
      if (!this.warmed && !this.studio.playback.playing) {
        this.warmed = true;
        this.studio.views.preview.warm();
      }
    } catch {
      /* the stage says what is wrong */
    }
  }
  async loadNow() {
    const now = this.moments.find((moment) => moment.name === "now");
    if (!now || this.studio.playback.playing) return;
    const frame = this.studio.playback.frame;
    try {
      const [packed] = await this.pictures([frame], MOMENT_WIDTH);
      if (now.picture) URL.revokeObjectURL(now.picture);
      now.frame = frame;
      now.picture = URL.createObjectURL(packed.blob);
    } catch {
      /* the stage says what is wrong */
    }
  }
  async loadThumbs() {
    const loudest = this.moments.find((moment) => moment.name === "loudest");
    const frame = loudest ? loudest.frame : 0;
    for (const layer of this.studio.project.document.layers) {
      const inside = this.studio.layers
        .branch(layer.id)
        .map((member) => [
          member.settings,
          this.studio.given.partSorts.map((sort) => this.studio.parts.partsOf(member, sort)),
          member.keyframes,
          member.frames,
          member.patches,
          member.visible,
        ]);
      const mark = JSON.stringify([
        inside,
        layer.patches && layer.patches.length ? this.studio.signals.signals : 0,
        frame,
        this.studio.formats.frameSize,
      ]);
      if ((this.marks ||= {})[layer.id] === mark) continue;
      try {
        const [packed] = await this.pictures([frame], THUMB_WIDTH, layer.id);
        this.marks[layer.id] = mark;
        if (this.thumbs[layer.id]) URL.revokeObjectURL(this.thumbs[layer.id]);
        this.thumbs[layer.id] = URL.createObjectURL(packed.blob);
      } catch {
        /* shown without a picture */
      }
    }
  }
  async pictures(frames, width, only = undefined) {
    const json = {
      frames,
      width: Math.min(width, this.studio.formats.frameSize.width),
      form: "jpeg",
      only,
      ...this.studio.formats.sizeWanted,
    };
    return unpack(await ask(`/projects/${this.studio.project.state.id}/frames`, { json, bytes: true }), "jpeg");
  }
  momentTime(moment) {
    return clock((moment.name === "now" ? this.studio.playback.frame : moment.frame) / this.studio.project.rate, 2);
  }
  momentLabel(moment) {
    return `${moment.label} ${this.momentTime(moment)}`;
  }
  goToMoment(moment) {
    if (moment.name !== "now") this.studio.playback.seek(moment.frame);
  }
}
