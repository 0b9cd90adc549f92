// Videos that are asked for: watched while they are made, played, taken home.

import { ask } from "../lib/api.js";
import { wait } from "../lib/time.js";
import { StudioPart } from "../lib/studio_part.js";

export class Exports extends StudioPart {
  watching = null;
  exports = [];
  exportPart = "all";
  exportSpeed = "balanced";
  exportFault = "";
  exportShapes = null; // the shapes that are asked for; null: the one on show
  exportFormats = ["mp4"]; // names of the formats that are asked for
  exportTransparent = false;
  exportLoudness = "";
  exportCaptions = "none";
  rates = {}; // export id -> {at, done, fps}
  get exportSeconds() {
    if (this.exportPart === "loop" && this.studio.playback.loop)
      return (this.studio.playback.loop.last - this.studio.playback.loop.first) / this.studio.project.rate;
    return this.studio.project.length;
  }
  get exportNote() {
    return `${this.studio.playback.time(this.exportSeconds)} at ${this.studio.formats.rateName}/s`;
  }
  get speedNote() {
    return this.studio.given.speeds.find((item) => item.name === this.exportSpeed).help;
  }
  isExportShape(shape) {
    return this.exportShapes ? this.exportShapes.includes(shape) : this.studio.formats.frameShape === shape;
  }
  /** Into what is asked for, or out of it; one shape at the least stays. */
  toggleExportShape(shape) {
    const asked = this.exportShapes || [this.studio.formats.frameShape];
    const next = asked.includes(shape) ? asked.filter((other) => other !== shape) : [...asked, shape];
    if (next.length) this.exportShapes = next;
  }
  isFormat(item) {
    return this.exportFormats.includes(item.name);
  }
  /** Into what is asked for, or out of it; one format at the least stays. */
  toggleFormat(item) {
    const { name } = item;
    const next = this.isFormat(item)
      ? this.exportFormats.filter((other) => other !== name)
      : [...this.exportFormats, name];
    this.exportFormats = next.length ? next : [name];
    if (!this.canBeTransparent) this.exportTransparent = false;
  }
  /** Levels that channels, podcasts and broadcasters ask for, in LUFS. */
  get loudnessLevels() {
    return ["-14", "-16", "-19", "-23"];
  }
  loudnessText(level) {
    return `${level.replace("-", "−")} LUFS`;
  }
  get chosenFormats() {
    return this.studio.given.videoFormats.filter((item) => this.isFormat(item));
  }
  get canBeTransparent() {
    return this.chosenFormats.some((item) => item.alpha);
  }
  /** How many files one press makes. */
  get exportCount() {
    return this.chosenFormats.length * (this.exportShapes ? this.exportShapes.length : 1);
  }
  get exportButton() {
    return this.exportCount > 1 ? `Export ${this.exportCount} files` : "Export video";
  }
  get exportSizesText() {
    return this.studio.formats.threeFrames
      .filter((item) => this.isExportShape(item.shape))
      .map((item) => item.size.join(" × "))
      .join(", ");
  }
  async loadExports() {
    try {
      const listed = await ask(`/projects/${this.studio.project.state.id}/exports`);
      for (const item of listed) this.clockExport(item);
      this.exports = listed;
    } catch {
      /* the next turn asks again */
    }
    if (this.exports.some((item) => item.state === "waiting" || item.state === "running")) this.watchExports();
  }
  async watchExports() {
    if (this.watching) return;
    this.watching = true;
    while (this.watching) {
      await wait(500);
      try {
        const listed = await ask(`/projects/${this.studio.project.state.id}/exports`);
        for (const item of listed) {
          const before = this.exports.find((other) => other.id === item.id);
          if (before && before.state !== "done" && item.state === "done")
            this.studio.messages.tell(`${item.name} is finished.`);
          this.clockExport(item);
        }
        // Finished rows stay the same objects, so that a playing video is not drawn anew.
        this.exports = listed.map((item) => {
          const before = this.exports.find((other) => other.id === item.id);
          return before && before.state === item.state && before.done === item.done ? before : item;
        });
        this.watching = listed.some((item) => item.state === "waiting" || item.state === "running");
      } catch {
        /* the server is away: it goes on when it is back */
      }
    }
  }
  clockExport(item) {
    const now = performance.now();
    const watch = this.rates[item.id];
    if (!watch) this.rates[item.id] = { at: now, done: item.done, fps: 0 };
    else if (now - watch.at > 2000) {
      const fps = ((item.done - watch.done) / (now - watch.at)) * 1000;
      this.rates[item.id] = { at: now, done: item.done, fps: watch.fps ? watch.fps * 0.6 + fps * 0.4 : fps };
    }
  }
  async beginExport() {
    this.exportFault = "";
    const json = {};
    const frames = this.studio.formats.threeFrames.filter((item) => this.isExportShape(item.shape));
    if (this.exportPart === "loop" && this.studio.playback.loop) {
      json.from_s = this.studio.playback.loop.first / this.studio.project.rate;
      json.to_s = this.studio.playback.loop.last / this.studio.project.rate;
    }
    try {
      if (this.exportLoudness) json.loudness = Number(this.exportLoudness);
      for (const { size } of frames)
        for (const { name, alpha, sound } of this.chosenFormats) {
          const own = {
            format: name,
            transparent: this.exportTransparent && alpha ? "yes" : "no",
            captions: sound ? this.exportCaptions : "none",
          };
          await ask(`/projects/${this.studio.project.state.id}/exports`, {
            json: { ...json, ...own, speed: this.exportSpeed, frame: size.join("x") },
          });
        }
      await this.loadExports();
    } catch (problem) {
      this.exportFault = problem.message;
    }
  }
  isRunning(item) {
    return item.state === "running" || item.state === "waiting";
  }
  isDone(item) {
    return item.state === "done";
  }
  isStopped(item) {
    return item.state === "failed" || item.state === "cancelled";
  }
  exportBar(item) {
    return { width: `${(item.done / item.frames) * 100}%` };
  }
  exportLine(item) {
    if (item.state === "waiting") return "waiting for its turn";
    if (item.state === "running") {
      const fps = this.rates[item.id] ? this.rates[item.id].fps : 0;
      const left = fps > 0 ? `${Math.ceil((item.frames - item.done) / fps)} s left` : "reckoning";
      return `${Math.floor((item.done / item.frames) * 100)} % · ${fps.toFixed(1)} frames/s · ${left}`;
    }
    if (item.state === "done")
      return [
        `${(item.bytes / 1e6).toFixed(1)} MB`,
        this.studio.playback.time(item.seconds),
        item.format,
        `${item.speed.toLowerCase()}, took ${Math.round(item.took_s)} s`,
      ].join(" · ");
    if (item.state === "cancelled") return `cancelled at ${Math.floor((item.done / item.frames) * 100)} %`;
    return item.error;
  }
  videoAddress(item) {
    return `/exports/${item.id}/video`;
  }
  downloadAddress(item) {
    return `/exports/${item.id}/video?download=1`;
  }
  async cancelExport(item) {
    await ask(`/exports/${item.id}/cancel`, { method: "POST" });
  }
  async againExport(item) {
    await ask(`/exports/${item.id}/again`, { method: "POST" });
    await this.loadExports();
  }
}
