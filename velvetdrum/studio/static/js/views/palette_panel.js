// Palettes: kept under names across projects, pasted as CSS, taken from a picture or from the frame on show.

import { ask, send, refusalOf } from "../lib/api.js";
import { plain } from "../lib/json_patch.js";
import { partWith } from "../lib/studio_part.js";

export class PalettePanel extends partWith("messages", "playback", "project", "settings") {
  paletteFor = ""; // JSON Pointer of the gradient whose palettes are open
  /** @type {any[]} */
  paletteList = [];
  paletteText = "";
  paletteName = "";
  paletteFault = "";
  /** @param {Setting} setting */
  hasPalettes(setting) {
    return this.paletteFor === this.settings.pointer(setting) && this.paletteFor !== "";
  }

  /** @param {Setting} setting */
  async togglePalettes(setting) {
    const path = this.settings.pointer(setting);
    this.paletteFor = this.paletteFor === path ? "" : path;
    this.paletteFault = "";
    if (this.paletteFor) await this.loadPalettes();
  }

  async loadPalettes() {
    try {
      this.paletteList = (await ask("/palettes")).palettes.map((/** @type {any} */ palette) => ({
        ...palette,
        key: palette.id || palette.name,
      }));
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.paletteFault = problem.message;
    }
  }

  /** @param {any} palette */
  paletteStyle(palette) {
    const stops = palette.stops.map((/** @type {Stop} */ stop) => `${stop.colour} ${stop.at * 100}%`);
    return {
      background:
        stops.length > 1 ? `linear-gradient(to right in oklab, ${stops.join(", ")})` : palette.stops[0].colour,
    };
  }

  /**
   * @param {Setting} setting
   * @param {any} palette
   */
  usePalette(setting, palette) {
    this.settings.put(setting, plain(palette.stops));
  }

  /** @param {Setting} setting */
  async savePalette(setting) {
    await this.tryPalette(async () => {
      await ask("/palettes", {
        json: { name: this.paletteName, stops: plain(this.settings.current(setting)) },
      });
      this.messages.tell(`The palette ${this.paletteName.trim()} is saved for all projects.`);
      this.paletteName = "";
      await this.loadPalettes();
    });
  }

  /** @param {any} palette */
  async dropPalette(palette) {
    await this.tryPalette(async () => {
      await ask(`/palettes/${palette.id}`, { method: "DELETE" });
      await this.loadPalettes();
      this.messages.tell(`The palette ${palette.name} is deleted.`, "Undo", async () => {
        await ask("/palettes", { json: { name: palette.name, stops: plain(palette.stops) } });
        await this.loadPalettes();
      });
    });
  }

  /** @param {Setting} setting */
  async pastePalette(setting) {
    await this.tryPalette(async () => {
      this.settings.put(setting, (await ask("/palettes/read", { json: { text: this.paletteText } })).stops);
      this.paletteText = "";
    });
  }

  /**
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  async pictureToPalette(setting, event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (file)
      await this.tryPalette(async () =>
        this.settings.put(setting, (await send("/palettes/picture", file, () => {}, {})).stops),
      );
  }

  /** @param {Setting} setting */
  async previewToPalette(setting) {
    await this.tryPalette(async () =>
      this.settings.put(
        setting,
        (
          await ask(`/projects/${this.project.state.id}/palette`, {
            json: { frame: this.playback.frame },
          })
        ).stops,
      ),
    );
  }

  /** @param {any} work */
  async tryPalette(work) {
    this.paletteFault = "";
    try {
      await work();
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.paletteFault = problem.message;
    }
  }
}
