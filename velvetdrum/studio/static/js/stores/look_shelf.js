// The looks that there are, and which of them are shown.

/** @typedef {{id: string, name: string, about: string, uses: string[], pace: string, family: string, frame: string,
 *   tags: string[], places: {kind: string, title: string, optional: boolean}[], colours: Record<string, string>,
 *   own: boolean, notes: string[]}} Look */

export class LookShelf {
  /** @param {any} given what the page was given */
  constructor(given) {
    this.given = given;
  }

  /** @type {Look[]} */
  looks = [];
  search = "";
  /** @type {string[]} */
  on = [];

  /**
   * @param {Look[]} looks
   * @param {boolean} voice true where the sound is a voice
   */
  put(looks, voice) {
    this.looks = looks;
    this.on = [`uses:${voice ? "voice" : "song"}`];
  }

  /**
   * Show what suits the sound, where nobody has said otherwise; true where that is something else.
   * @param {boolean} voice
   */
  suit(voice) {
    if (!voice || this.on.join() !== "uses:song") return false;
    this.on = ["uses:voice"];
    return true;
  }

  get choices() {
    const { uses, paces, shapes } = this.given;
    const row = (/** @type {string} */ sort, /** @type {[string, string][]} */ names) =>
      names.map(([name, label], index) => ({ key: `${sort}:${name}`, label, first: index === 0 && sort !== "uses" }));
    return [
      ...row("uses", uses),
      ...row("frame", shapes),
      ...row("pace", paces),
      ...(this.looks.some((look) => look.own) ? [{ key: "own:true", label: "Mine", first: true }] : []),
    ];
  }

  /** @param {string} key */
  isOn(key) {
    return this.on.includes(key);
  }

  /** @param {string} key one of a sort at a time; pressed again, none of it */
  toggle(key) {
    const [sort] = key.split(":");
    const others = this.on.filter((other) => !other.startsWith(`${sort}:`));
    this.on = this.isOn(key) ? others : [...others, key];
  }

  get shown() {
    const words = this.search.toLowerCase().split(/\s+/).filter(Boolean);
    return this.looks.filter(
      (look) =>
        this.on.every((key) => {
          const [sort, name] = key.split(":");
          if (sort === "uses") return look.uses.includes(name);
          if (sort === "own") return look.own;
          return (sort === "frame" ? look.frame : look.pace) === name;
        }) &&
        words.every((word) =>
          `${look.name} ${look.about} ${look.family} ${look.tags.join(" ")}`.toLowerCase().includes(word),
        ),
    );
  }

  get empty() {
    return this.looks.length > 0 && this.shown.length === 0;
  }

  /** @param {string} id */
  byId(id) {
    return /** @type {Look} */ (this.looks.find((look) => look.id === id));
  }
}
