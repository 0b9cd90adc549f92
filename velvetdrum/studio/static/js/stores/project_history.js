// The states that the project was in: listed, seen by pointing, compared, taken again, and given a name.

import { ask, refusalOf } from "../lib/api.js";
import { EVERYTHING } from "../lib/concerns.js";
import { partWith } from "../lib/studio_part.js";

// Until the state that is pointed at is shown on the picture.
const POINT_MS = 90;
const LABEL = 110;

/** @typedef {{ branch: number, position: number, label: string, made_at: number, version?: string }} PastState */

export class ProjectHistory extends partWith(
  "comparison",
  "events",
  "messages",
  "page",
  "playback",
  "project",
  "stage",
) {
  shown = false;
  /** @type {PastState[]} */
  states = [];
  /** @type {PastState[]} */
  versions = [];
  more = false;
  position = 0;
  name = "";
  fault = "";
  /** @type {PastState | null} */
  seen = null;
  /** @type {{ owner: string, text: string }[]} */
  differences = [];
  /** @type {any} */
  timer = null;
  // The frame of the small pictures: that of the playhead when the list was made.
  frame = 0;

  get root() {
    return `/projects/${this.project.state.id}`;
  }

  async toggle() {
    this.shown = !this.shown;
    if (!this.shown) {
      this.leave();
      return;
    }
    if (!this.listening) this.listening = this.events.on("saved", () => this.shown && this.load());
    await this.load();
    this.page.nextTick(() => this.page.refs.history?.querySelector("[aria-current]")?.focus());
  }

  /** @type {(() => void) | null} */
  listening = null;

  async load() {
    try {
      this.frame = this.playback.frame;
      const answer = await ask(`${this.root}/history`);
      this.accepted(answer);
      this.states = answer.states;
      this.fault = "";
    } catch (thrown) {
      this.fault = refusalOf(thrown).message;
    }
  }

  async loadMore() {
    const answer = await ask(`${this.root}/history?first=${this.states.length}`);
    this.accepted(answer);
    this.states = [...this.states, ...answer.states];
  }

  /** @param {any} answer */
  accepted({ more, position, versions }) {
    this.more = more;
    this.position = position;
    this.versions = versions.map((/** @type {any} */ { id, name, made_at }) => ({
      branch: 0,
      position: 0,
      label: name,
      made_at,
      version: id,
    }));
  }

  /** @param {PastState} state */
  keyOf({ branch, position, version }) {
    return version || `${branch}:${position}`;
  }

  /** @param {PastState} state */
  isHere({ branch, position, version }) {
    return !version && branch === 0 && position === this.position;
  }

  /**
   * Whether an undo left it: it is in force no more, but can be taken again.
   * @param {PastState} state
   */
  isAside({ branch, position, version }) {
    return !version && (branch > 0 || position > this.position);
  }

  /** @param {PastState} state */
  rowClass(state) {
    const list = [this.isHere(state) && "here", this.isAside(state) && "aside"];
    return list.filter(Boolean).join(" ");
  }

  /** @param {PastState} state */
  timeOf({ made_at }) {
    const date = new Date(made_at * 1000);
    const time = date.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
    const today = date.toDateString() === new Date().toDateString();
    return today ? time : `${date.toLocaleDateString([], { day: "numeric", month: "short" })}, ${time}`;
  }

  /** @param {PastState} state */
  note(state) {
    if (this.isHere(state)) return `${this.timeOf(state)} · now`;
    return this.isAside(state) ? `${this.timeOf(state)} · undone` : this.timeOf(state);
  }

  /** @param {PastState} state */
  placeQuery({ branch, position, version }) {
    return version ? `version=${version}` : `branch=${branch}&position=${position}`;
  }

  /**
   * The time at which it was made tells one state from another that took its place.
   * @param {PastState} state
   */
  pictureOf(state, width = 120) {
    const { made_at } = state;
    return `${this.root}/history/picture?${this.placeQuery(state)}&frame=${this.frame}&width=${width}&made=${made_at}`;
  }

  /** @param {PastState} state */
  async ask(state) {
    return ask(`${this.root}/history/state?${this.placeQuery(state)}`);
  }

  /**
   * Show a state on the picture while it is pointed at.
   * @param {PastState} state
   */
  see(state) {
    clearTimeout(this.timer);
    if (this.isHere(state)) {
      this.leave();
      return;
    }
    this.timer = setTimeout(async () => {
      this.seen = state;
      const key = this.keyOf(state);
      const answer = await this.ask(state).catch(() => null);
      if (answer && this.seen && this.keyOf(this.seen) === key && !this.project.waiting.length)
        this.project.tryOut(answer.patch);
    }, POINT_MS);
  }

  leave() {
    clearTimeout(this.timer);
    if (!this.seen) return;
    this.seen = null;
    this.project.draft = null;
    this.stage.showStill();
  }

  /** @param {PastState} state */
  async take(state) {
    this.leave();
    if (this.isHere(state)) return;
    await this.project.settled();
    try {
      if (state.version || state.branch) {
        const { patch } = await this.ask(state);
        if (patch.length) this.project.edit(`Back to: ${state.label}`.slice(0, LABEL), patch);
        else this.messages.tell(`The project is as it was at “${state.label}”.`);
      } else {
        const json = { revision: this.project.state.revision, position: state.position };
        this.project.accept(await ask(`${this.root}/history`, { json }));
        this.project.faults = {};
        this.events.emit("changed", EVERYTHING);
        this.events.emit("saved", EVERYTHING);
      }
    } catch (thrown) {
      this.fault = refusalOf(thrown).message;
      await this.load();
    }
  }

  /** Give the present state a name. */
  async keep() {
    const name = this.name.trim();
    if (!name) {
      this.fault = "Give this version a name first.";
      return;
    }
    await this.project.settled();
    await this.change(() => ask(`${this.root}/versions`, { json: { name } }));
    if (!this.fault) this.name = "";
  }

  /**
   * @param {PastState} state
   * @param {FieldEvent} event
   */
  rename({ version, label }, event) {
    const name = event.target.value.trim();
    if (!name) event.target.value = label;
    else if (name !== label) this.change(() => ask(`${this.root}/versions/${version}`, { json: { name } }));
  }

  /** @param {PastState} state */
  drop({ version }) {
    return this.change(() => ask(`${this.root}/versions/${version}`, { method: "DELETE" }));
  }

  /** @param {() => Promise<any>} run */
  async change(run) {
    this.fault = "";
    try {
      await run();
      await this.load();
    } catch (thrown) {
      this.fault = refusalOf(thrown).message;
    }
  }

  /**
   * Two states beside each other: as pictures, and what differs in words.
   * @param {PastState} state
   */
  async compare(state) {
    this.leave();
    this.other = state;
    this.differences = [];
    this.fault = "";
    this.frame = this.playback.frame;
    this.page.refs.compare.showModal();
    try {
      this.differences = (await this.ask(state)).differences;
    } catch (thrown) {
      this.fault = refusalOf(thrown).message;
    }
  }

  /** @type {PastState | null} */
  other = null;

  get otherTitle() {
    return this.other ? this.other.label : "";
  }

  get otherPicture() {
    return this.other ? this.pictureOf(this.other, 480) : "";
  }

  get nowPicture() {
    return `${this.root}/poster?frame=${this.frame}&revision=${this.project.state.revision}`;
  }

  get sameText() {
    return this.fault || (this.differences.length ? "" : "Nothing differs, or it is being looked for.");
  }

  closeCompare() {
    this.page.refs.compare.close();
  }

  takeOther() {
    this.closeCompare();
    if (this.other) this.take(this.other);
  }

  /** The other state on the picture, to one side of an edge that is dragged. */
  divide() {
    const { other } = this;
    this.closeCompare();
    if (other) this.comparison.begin(other.label, async () => this.ask(other));
  }
}
