// Type families to choose from, each name in its own letters; files of the user's among them.

import { ask, send, refusalOf } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

export class Typefaces extends partWith("settings") {
  /** @type {any[]} */
  families = [];
  fault = "";
  /** @type {Promise<any> | null} */
  loading = null;

  load() {
    this.loading ||= ask("/typefaces").then(
      ({ families }) => {
        this.families = families;
      },
      (problem) => {
        this.fault = problem.message;
        this.loading = null;
      },
    );
    return this.loading;
  }

  /** @param {PressEvent} event */
  opened(event) {
    if (event.target.open) this.load();
  }

  /** @param {Setting} setting */
  nameOf(setting) {
    const value = this.settings.current(setting);
    const known = setting.choices.find(([id]) => id === value);
    if (known) return known[1];
    const own = this.families.find(({ id }) => id === value);
    if (!own) this.load();
    return own ? own.name : "a typeface file";
  }

  /** @param {any} family */
  box(family) {
    return `-40 -1000 ${family.width + 80} 1400`;
  }

  /**
   * @param {Setting} setting
   * @param {any} family
   * @param {PressEvent} event
   */
  choose(setting, family, event) {
    this.settings.put(setting, family.id);
    event.target.closest("details").open = false;
  }

  /**
   * @param {Setting} setting
   * @param {any} family
   */
  isChosen(setting, family) {
    return this.settings.current(setting) === family.id;
  }

  /**
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  async bring(setting, event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    this.fault = "";
    try {
      const { key } = await send("/typefaces", file, () => {}, {});
      this.loading = null;
      await this.load();
      this.settings.put(setting, key);
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = `${file.name}: ${problem.message}`;
    }
  }
}
