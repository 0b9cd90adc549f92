// Looks for a project's sound: they move to it, one is chosen, filled, and made a video or opened in the studio.

import Alpine from "../vendor/alpine-csp.esm.min.js";
import { ask, refusalOf } from "./lib/api.js";
import { LookArrival } from "./stores/look_arrival.js";
import { LookFilling } from "./stores/look_filling.js";
import { LookShelf } from "./stores/look_shelf.js";
import { LookSound } from "./stores/look_sound.js";
import { LookVideo } from "./stores/look_video.js";
import { Messages } from "./stores/messages.js";
import { MovingLooks } from "./views/moving_looks.js";
import { switchTheme } from "./views/theme_switch.js";

const given = JSON.parse(/** @type {HTMLElement} */ (document.getElementById("given")).textContent || "{}");
const messages = Alpine.reactive(new Messages());
const shelf = Alpine.reactive(new LookShelf(given));
const arrival = Alpine.reactive(new LookArrival(given));
const filling = Alpine.reactive(new LookFilling(given));
const sound = Alpine.reactive(new LookSound(given));
const video = Alpine.reactive(new LookVideo(given, filling, sound));
const moving = new MovingLooks(given, filling, sound, (id) => shelf.byId(id));

Alpine.data("looks", () => ({
  messages,
  arrival,
  shelf,
  filling,
  sound,
  video,
  switchTheme,
  /** @this {any} */
  async init() {
    filling.changed = (/** @type {number} */ later) => {
      moving.anew(later);
      video.weigh();
    };
    try {
      const [{ looks }] = await Promise.all([ask("/looks"), arrival.listening || sound.load(this.$refs.wave)]);
      filling.takeHeld();
      shelf.put(looks, sound.isVoice);
      this.choose(shelf.shown[0].id);
    } catch (thrown) {
      messages.tell(refusalOf(thrown).message);
    }
    this.$nextTick(() => moving.watch(this.$root));
    if (arrival.listening) this.listen();
    this.$watch("video.busy", (/** @type {boolean} */ busy) => moving.rest(busy));
    this.$watch("shelf.shown", () => this.$nextTick(() => moving.watch(this.$root)));
  },
  /**
   * Looks move to the first seconds until all of the sound is known, and to its liveliest ones then.
   * @this {any}
   */
  async listen() {
    await arrival.follow(this.$refs.wave);
    if (arrival.fault) return;
    try {
      video.revision = given.project.revision;
      filling.takeHeld();
      await sound.load(this.$refs.wave);
      if (shelf.suit(sound.isVoice)) this.choose(shelf.shown[0].id);
    } catch (thrown) {
      messages.tell(refusalOf(thrown).message);
    }
    moving.anew(0);
  },
  /** @param {string} id */
  choose(id) {
    filling.take(shelf.byId(id));
    moving.first(id);
    video.weigh();
  },
  dropping: false,
  /**
   * A look of one's own goes at the second press.
   * @this {any}
   */
  async dropLook() {
    if (!this.dropping) {
      this.dropping = true;
      return;
    }
    this.dropping = false;
    const { id, name } = filling.look;
    try {
      await ask(`/looks/${id}`, { method: "DELETE" });
      shelf.looks = shelf.looks.filter((look) => look.id !== id);
      this.choose((shelf.shown[0] || shelf.looks[0]).id);
      messages.tell(`${name} is deleted. Projects that were made from it stay.`);
    } catch (thrown) {
      messages.tell(refusalOf(thrown).message);
    }
  },
  /** @param {string} shape */
  setShape(shape) {
    filling.shape = filling.shape === shape ? "" : shape;
    moving.anew(0);
    video.weigh();
  },
}));

// For tests and the console.
Object.assign(window, { velvetLooks: { arrival, shelf, filling, sound, video, moving } });

Alpine.start();
