// A sound that is still being listened to while looks stand there; what needs all of it waits.

import { ask, refusalOf } from "../lib/api.js";
import { wait } from "../lib/time.js";
import { paintImport } from "../views/import_wave.js";

const POLL = 200;

export class LookArrival {
  /** @param {any} given what the page was given; all that is known of the sound comes into it */
  constructor(given) {
    this.given = given;
    given.whole = given.import ? new Promise((resolve) => (given.arrive = resolve)) : Promise.resolve();
    this.listening = Boolean(given.import);
  }

  share = 0;
  fault = "";

  get text() {
    return `listening, ${Math.round(this.share * 100)} %`;
  }

  /**
   * Until all of it is known, or it was not brought in.
   * @param {HTMLCanvasElement} canvas
   */
  async follow(canvas) {
    const { given } = this;
    try {
      while (this.listening) {
        const state = await ask(`/imports/${given.import}`);
        this.share = state.share;
        if (state.state === "failed") throw new Error(state.error);
        if (state.state === "cancelled") throw new Error("Listening was stopped. Bring the sound in again.");
        if (state.state === "done") {
          Object.assign(given, await ask(`/projects/${state.project}/looks/given`));
          window.history.replaceState(null, "", `/projects/${state.project}/looks`);
          this.listening = false;
          given.arrive();
          return;
        }
        paintImport(canvas, new Int16Array(await ask(`/imports/${given.import}/wave`, { bytes: true })));
        await wait(POLL);
      }
    } catch (thrown) {
      this.listening = false;
      this.fault = refusalOf(thrown).message;
    }
  }
}
