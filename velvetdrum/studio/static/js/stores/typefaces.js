// Type families to choose from, each name in its own letters; files of the user's among them.

import { ask, send } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

export class Typefaces extends partWith("settings") {
  families = [];
  fault = "";
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

  opened(event) {
    if (event.target.open) this.load();
  }

  nameOf(setting) {
    const value = this.settings.current(setting);
    const known = setting.choices.find(([id]) => id === value);
    if (known) return known[1];
    const own = this.families.find(({ id }) => id === value);
    if (!own) this.load();
    return own ? own.name : "a typeface file";
  }

  box(family) {
    return `-40 -1000 ${family.width + 80} 1400`;
  }

  choose(setting, family, event) {
    this.settings.put(setting, family.id);
    event.target.closest("details").open = false;
  }

  isChosen(setting, family) {
    return this.settings.current(setting) === family.id;
  }

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
    } catch (problem) {
      this.fault = `${file.name}: ${problem.message}`;
    }
  }
}
