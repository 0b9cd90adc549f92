// The formats that an export is asked for in, by what they are for: those of last time stand there, the others behind a
// press.

import { partWith } from "../lib/studio_part.js";

const GROUPS = [
  { name: "video", title: "Video" },
  { name: "transparent", title: "Transparent" },
  { name: "still", title: "Still" },
  { name: "sound", title: "Sound" },
];

export class WantedFormats extends partWith("given", "newExport") {
  groups = GROUPS;
  group = "video";
  wanted = ["mp4"]; // formats by name, with a + behind those that are to be transparent
  open = false; // all formats, not only those that are asked for

  /** @param {string[]} wanted as kept: those that are there no more are left out */
  put(wanted) {
    const names = this.given.videoFormats.map((form) => form.name);
    const known = wanted.filter((key) => names.includes(String(key).replace("+", "")));
    this.wanted = known.length ? known : ["mp4"];
    this.group = (this.chosen[0].alpha && "transparent") || this.chosen[0].form.group;
  }

  toggleOpen() {
    this.open = !this.open;
  }

  /** What is asked for, as one line. */
  get text() {
    return this.chosen.map(({ form, alpha }) => `${form.label}${alpha ? ", transparent" : ""}`).join(" · ");
  }

  /** What they are for, where it is one. */
  get helpText() {
    return this.chosen.length === 1 ? this.chosen[0].form.help : "";
  }

  get forms() {
    const { videoFormats } = this.given;
    if (this.group !== "transparent") return videoFormats.filter((form) => form.group === this.group);
    return videoFormats.filter((form) => form.alpha);
  }

  /** @param {any} form */
  keyOf(form) {
    return this.group === "transparent" ? `${form.name}+` : form.name;
  }

  /** @param {any} form */
  isWanted(form) {
    return this.wanted.includes(this.keyOf(form));
  }

  /**
   * Into what is asked for, or out of it; one at the least stays.
   * @param {any} form
   */
  toggle(form) {
    const key = this.keyOf(form);
    const next = this.isWanted(form) ? this.wanted.filter((other) => other !== key) : [...this.wanted, key];
    if (next.length) this.wanted = next;
    this.newExport.changed();
  }

  /** @param {string} group */
  hasWanted(group) {
    const forms = this.chosen;
    return group === "transparent"
      ? forms.some((item) => item.alpha)
      : forms.some((item) => !item.alpha && item.form.group === group);
  }

  /** What is asked for: {form, alpha}. */
  get chosen() {
    return this.wanted.flatMap((key) => {
      const form = this.given.videoFormats.find((item) => item.name === key.replace("+", ""));
      return form ? [{ form, alpha: key.endsWith("+") }] : [];
    });
  }
}
