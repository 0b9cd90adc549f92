// How the project is worked on, kept with it: units of its numbers, own guides, a grid.

import { plain } from "../lib/json_patch.js";
import { partWith } from "../lib/studio_part.js";

const TITLES = { length: "Lengths in", time: "Times in", angle: "Angles in", level: "Levels in" };
const GRID = 10;
const MOST_GUIDES = 100;

/** @typedef {{axis: "x" | "y", at: number}} Guide */

export class Workspace extends partWith("formats", "given", "messages", "project", "views") {
  // True: rulers, guides and the grid are shown, and what is moved comes to lie at them.
  rulers = false;

  /** @returns {{units?: Record<string, string>, guides?: Guide[], grid?: number | null}} */
  get kept() {
    return this.project.document.workspace || {};
  }

  get units() {
    return this.kept.units || {};
  }

  /** @returns {Guide[]} */
  get guides() {
    return this.kept.guides || [];
  }

  /** Per cent of the short side between the grid's lines; null where there is none. */
  get grid() {
    return this.kept.grid ?? null;
  }

  /** What numbers may be shown in, for the panel. */
  get choices() {
    return this.given.units.map(({ sort, choices }) => ({
      sort,
      title: TITLES[/** @type {keyof typeof TITLES} */ (sort)],
      choices: choices.map(({ name, text }) => ({ name, text, on: (this.units[sort] || choices[0].name) === name })),
    }));
  }

  /**
   * @param {string} label
   * @param {any} change
   */
  edit(label, change) {
    const value = { ...plain(this.kept), ...change };
    this.project.edit(label, [{ op: "add", path: "/workspace", value }]);
  }

  /**
   * @param {string} sort
   * @param {FieldEvent} event
   */
  pickUnit(sort, event) {
    this.edit("Unit of numbers", { units: { ...plain(this.units), [sort]: event.target.value } });
  }

  toggleRulers() {
    this.rulers = !this.rulers;
    this.views.rulers.draw();
  }

  toggleGrid() {
    this.edit(this.grid ? "No grid" : "Grid", { grid: this.grid ? null : GRID });
    this.rulers = true;
    this.views.rulers.draw();
  }

  /** @param {FieldEvent} event */
  typeGrid(event) {
    const step = Number(event.target.value);
    if (!(step >= 0.5 && step <= 50)) {
      this.messages.tell("The grid's lines are 0.5 to 50 per cent of the frame's short side apart.");
      event.target.value = String(this.grid || GRID);
      return;
    }
    this.edit("Grid", { grid: step });
    this.views.rulers.draw();
  }

  /**
   * @param {"x" | "y"} axis
   * @param {number} at per cent of the side
   */
  addGuide(axis, at) {
    if (this.guides.length >= MOST_GUIDES) {
      this.messages.tell(`There are ${MOST_GUIDES} guides already; take one away first.`);
      return;
    }
    this.rulers = true;
    this.edit("Guide", { guides: [...plain(this.guides), { axis, at: Math.round(at * 100) / 100 }] });
    this.views.rulers.draw();
  }

  /**
   * Move a guide, or take it away where it left the frame.
   * @param {number} index
   * @param {number} at
   */
  moveGuide(index, at) {
    const guides = plain(this.guides);
    if (at < 0 || at > 100) guides.splice(index, 1);
    else guides[index].at = Math.round(at * 100) / 100;
    this.edit(at < 0 || at > 100 ? "Take a guide away" : "Move a guide", { guides });
    this.views.rulers.draw();
  }

  /**
   * @param {number} index
   * @param {FieldEvent} event
   */
  typeGuide(index, event) {
    const at = Number(event.target.value.replace(",", "."));
    if (Number.isFinite(at) && at >= 0 && at <= 100) this.moveGuide(index, at);
    else {
      this.messages.tell("A guide lies at 0 to 100 per cent of the frame's side.");
      event.target.value = String(this.guides[index].at);
    }
  }

  /** @param {number} index */
  dropGuide(index) {
    this.moveGuide(index, -1);
  }

  rulersSource() {
    const { width, height } = this.formats.frameSize;
    return {
      size: [width, height],
      unit: this.units.length || "%",
      guides: this.guides,
      grid: ((this.grid || 0) / 100) * Math.min(width, height),
      shown: this.rulers,
    };
  }
}
