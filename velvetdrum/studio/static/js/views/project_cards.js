// Projects as cards: found, sorted, tagged, several at once; the bin, and what cleaning would free.

import { size } from "../lib/amounts.js";
import { ask, refusalOf } from "../lib/api.js";

/** @type {Record<string, (a: any, b: any) => number>} */
const ORDERS = {
  opened: (a, b) => b.dataset.opened - a.dataset.opened,
  changed: (a, b) => b.dataset.changed - a.dataset.changed,
  length: (a, b) => b.dataset.length - a.dataset.length,
  name: (a, b) => a.dataset.name.localeCompare(b.dataset.name),
};

/** @param {import("../stores/messages.js").Messages} messages */
export const projectCards = (messages) => ({
  projectList: () => ({
    search: "",
    by: "opened",
    none: false,
    /** @type {Record<string, string[]>} */
    tags: {},
    /** @type {string[]} */
    chosen: [],
    tag: "", // by which they are filtered
    newTag: "",
    /** @this {any} */
    init() {
      this.tags = JSON.parse(this.$el.dataset.tags);
    },
    /** @this {any} */
    get allTags() {
      return [...new Set(Object.values(this.tags).flat())].sort();
    },
    /**
     * @this {any}
     * @param {string} id
     */
    tagsOf(id) {
      return this.tags[id] || [];
    },
    /**
     * @this {any}
     * @param {string} tag
     */
    filterBy(tag) {
      this.tag = this.tag === tag ? "" : tag;
      this.apply();
    },
    /** @this {any} */
    apply() {
      const cards = [...this.$refs.cards.children];
      const words = this.search.toLowerCase().split(/\s+/).filter(Boolean);
      cards.sort(ORDERS[this.by]);
      this.$refs.cards.append(...cards);
      let shown = 0;
      for (const card of cards) {
        const tags = this.tagsOf(card.dataset.id);
        const text = [card.dataset.name, ...tags].join(" ").toLowerCase();
        const fits = words.every((/** @type {string} */ word) => text.includes(word));
        card.hidden = !fits || (this.tag !== "" && !tags.includes(this.tag));
        if (!card.hidden) shown += 1;
      }
      this.none = shown === 0;
    },
    /**
     * @this {any}
     * @param {string} id
     */
    isChosen(id) {
      return this.chosen.includes(id);
    },
    /**
     * @this {any}
     * @param {string} id
     */
    choose(id) {
      this.chosen = this.isChosen(id)
        ? this.chosen.filter((/** @type {string} */ other) => other !== id)
        : [...this.chosen, id];
    },
    /** @this {any} */
    get chosenText() {
      return `${this.chosen.length} chosen`;
    },
    /** @this {any} */
    leave() {
      this.chosen = [];
    },
    /**
     * @this {any}
     * @param {{add?: string[], remove?: string[]}} change
     */
    async changeTags(change) {
      try {
        this.tags = (await ask("/projects/tags", { json: { projects: this.chosen, ...change } })).tags;
        this.newTag = "";
        this.apply();
      } catch (thrown) {
        messages.tell(refusalOf(thrown).message);
      }
    },
    /** @this {any} */
    giveTag() {
      const tag = this.newTag.trim();
      if (tag) this.changeTags({ add: [tag] });
    },
    /** Tags that one of the chosen has.
     * @this {any}
     */
    get theirTags() {
      return [...new Set(this.chosen.flatMap((/** @type {string} */ id) => this.tagsOf(id)))].sort();
    },
    /**
     * @this {any}
     * @param {string} tag
     */
    takeTag(tag) {
      this.changeTags({ remove: [tag] });
    },
    /** @this {any} */
    async removeChosen() {
      const { chosen } = this;
      try {
        for (const id of chosen) await ask(`/projects/${id}/delete`, { method: "POST" });
      } catch (thrown) {
        messages.tell(refusalOf(thrown).message);
        return;
      }
      for (const id of chosen) document.getElementById(`card-${id}`)?.setAttribute("hidden", "");
      this.chosen = [];
      messages.tell(`${chosen.length} projects are deleted.`, "Undo", async () => {
        for (const id of chosen) await ask(`/projects/${id}/restore`, { method: "POST" });
        location.reload();
      });
    },
  }),

  binned: () => ({
    gone: false,
    asked: false,
    /** @this {any} */
    async restore() {
      try {
        await ask(`/projects/${this.$el.closest("li").dataset.id}/restore`, { method: "POST" });
        location.reload();
      } catch (thrown) {
        messages.tell(refusalOf(thrown).message);
      }
    },
    /** @this {any} */
    async purge() {
      const { id, name } = this.$el.closest("li").dataset;
      if (!this.asked) {
        this.asked = true;
        return;
      }
      try {
        await ask(`/projects/${id}/purge`, { method: "POST" });
        this.gone = true;
        messages.tell(`${name} is gone for good, with its exports.`);
      } catch (thrown) {
        messages.tell(refusalOf(thrown).message);
      }
    },
  }),

  diskSpace: () => ({
    /** @type {any} */
    state: null,
    asked: "",
    /** @this {any} */
    async look() {
      if (this.state) return;
      try {
        this.state = await ask("/disk-space");
      } catch (thrown) {
        messages.tell(refusalOf(thrown).message);
      }
    },
    /**
     * @this {any}
     * @param {string} what
     */
    text(what) {
      if (!this.state) return "looking …";
      const { count, bytes } = this.state[what];
      return count ? `${count}, ${size(bytes)}` : "none";
    },
    /**
     * @this {any}
     * @param {string} what
     */
    isEmpty(what) {
      return !this.state || this.state[what].count === 0;
    },
    /**
     * @this {any}
     * @param {string} what
     */
    verb(what) {
      return this.asked === what ? "really? for good" : "delete";
    },
    /**
     * @this {any}
     * @param {string} what
     */
    async clean(what) {
      if (this.asked !== what) {
        this.asked = what;
        return;
      }
      this.asked = "";
      try {
        this.state = await ask("/disk-space", { json: { what } });
        messages.tell(`${size(this.state.freed)} are free again.`);
      } catch (thrown) {
        messages.tell(refusalOf(thrown).message);
      }
    },
  }),

  card: () => ({
    gone: false,
    renaming: false,
    name: "",
    id: "",
    revision: 0,
    /** @this {any} */
    init() {
      this.id = this.$el.dataset.id;
      this.name = this.$el.dataset.name;
      this.revision = Number(this.$el.dataset.revision);
    },
    /** @this {any} */
    startRenaming() {
      this.renaming = true;
      this.$nextTick(() => {
        this.$refs.name.focus();
        this.$refs.name.select();
      });
    },
    /** @this {any} */
    stopRenaming() {
      this.renaming = false;
    },
    /** @this {any} */
    async rename() {
      const name = this.$refs.name.value.trim();
      if (!this.renaming) return;
      this.renaming = false;
      if (!name || name === this.name) return;
      try {
        const patch = [{ op: "replace", path: "/name", value: name }];
        const state = await ask(`/projects/${this.id}/edits`, {
          json: { revision: this.revision, label: "Rename", patch },
        });
        this.name = name;
        this.revision = state.revision;
      } catch (thrown) {
        messages.tell(refusalOf(thrown).message);
      }
    },
    /** @this {any} */
    async duplicate() {
      try {
        await ask(`/projects/${this.id}/duplicate`, { method: "POST" });
        location.reload();
      } catch (thrown) {
        messages.tell(refusalOf(thrown).message);
      }
    },
    /** @this {any} */
    async remove() {
      try {
        await ask(`/projects/${this.id}/delete`, { method: "POST" });
      } catch (thrown) {
        messages.tell(refusalOf(thrown).message);
        return;
      }
      this.gone = true;
      messages.tell(`${this.name} is deleted.`, "Undo", async () => {
        await ask(`/projects/${this.id}/restore`, { method: "POST" });
        this.gone = false;
      });
    },
  }),
});
