// Colours picked from the picture: the next click on it is one.

import { partWith } from "../lib/studio_part.js";

export class Dropper extends partWith("messages", "page", "placement", "settings", "stopFields") {
  /** @type {any} */
  take = null; // what hears the colour

  /** @param {(colour: string) => void} take */
  wait(take) {
    this.take = this.take ? null : take;
    this.page.refs.handles.classList.toggle("picking", Boolean(this.take));
    if (this.take) this.messages.tell("Click the picture where the colour is. Escape leaves it.");
  }

  /** @param {Setting} setting */
  setting(setting) {
    this.wait((colour) => this.settings.put(setting, colour));
  }

  /**
   * @param {Setting} setting
   * @param {Stop} stop
   */
  stop(setting, stop) {
    this.wait((colour) => this.stopFields.setStopColour(setting, stop, colour));
  }

  get waiting() {
    return this.take !== null;
  }

  leave() {
    this.take = null;
    this.page.refs.handles.classList.remove("picking");
  }

  /**
   * The colour under a point of the frame, mean of three by three pixels of what is shown.
   * @param {number[]} point
   */
  pick(point) {
    const canvas = this.page.refs.picture;
    const [width, height] = this.placement.stageSize;
    const x = Math.round((point[0] / width) * canvas.width);
    const y = Math.round((point[1] / height) * canvas.height);
    const { data } = canvas.getContext("2d").getImageData(x - 1, y - 1, 3, 3);
    const mean = [0, 1, 2].map((channel) => {
      let sum = 0;
      for (let n = channel; n < data.length; n += 4) sum += data[n];
      return Math.round(sum / 9);
    });
    const { take } = this;
    this.leave();
    take(`#${mean.map((value) => value.toString(16).padStart(2, "0")).join("")}`);
  }
}
