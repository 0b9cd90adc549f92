// The points of a drawn curve.

import { plain } from "../lib/json_patch.js";
import { readNumber } from "../lib/numbers.js";
import { partWith } from "../lib/studio_part.js";

export class DrawnCurve extends partWith("messages", "project", "signals", "views") {
  point = -1;
  pointsFault = "";
  /** @param {number} index */
  choosePoint(index) {
    this.point = index;
    this.views.curveView.draw();
  }

  get pointChosen() {
    return (this.signals.isDrawn && this.signals.points[this.point]) || null;
  }

  /** @param {number[][]} points */
  tryPoints(points) {
    this.project.tryOut([{ op: "replace", path: this.signals.pointsPath, value: points }]);
  }

  /**
   * @param {number[][]} points
   * @param {string} label
   */
  placeCurve(points, label) {
    this.pointsFault = "";
    this.project.edit(`${this.signals.signal.name}: ${label.toLowerCase()}`, [
      { op: "replace", path: this.signals.pointsPath, value: points },
    ]);
  }

  /** @param {any} change */
  setPoint(change) {
    const points = plain(this.signals.points);
    Object.assign(points[this.point], change);
    this.placeCurve(points, "Move a point");
  }

  /**
   * @param {string} name
   * @param {FieldEvent} event
   */
  typeCurvePoint(name, event) {
    const value = readNumber(event.target.value, this.pointChosen[name]);
    if (event.target.value.trim() === "" || !Number.isFinite(value)) {
      this.pointsFault = `A point needs a number, not “${event.target.value}”.`;
      return;
    }
    this.setPoint({ [name]: value });
  }

  /** @param {FieldEvent} event */
  easePoint(event) {
    this.setPoint({ ease: event.target.value });
  }

  dropPoint() {
    this.placeCurve(
      this.signals.points.filter((/** @type {any} */ _, /** @type {number} */ index) => index !== this.point),
      "Remove a point",
    );
    this.point = -1;
  }

  get pointsProblem() {
    return this.pointsFault || this.project.faults[this.signals.pointsPath] || "";
  }

  /** @param {FieldEvent} event */
  async importPoints(event) {
    const file = event.target.files[0];
    event.target.value = "";
    if (!file) return;
    try {
      const answer = await fetch(`/projects/${this.project.state.id}/points`, {
        method: "POST",
        body: file,
        headers: { "X-Velvet-Drum": "1", Accept: "application/json", "Content-Type": "text/csv" },
      });
      const data = await answer.json();
      if (!answer.ok) {
        this.pointsFault = `${file.name} was not read: ${data.error}`;
        return;
      }
      this.placeCurve(data.points, `Import ${file.name}`);
      this.messages.tell(`${data.points.length} points from ${file.name}.`);
    } catch {
      this.pointsFault = "The server does not answer. Try again.";
    }
  }

  get easings() {
    return ["linear", "ease", "ease-in", "ease-out", "ease-in-out", "hold"];
  }
}
