// What is asked of exports, kept under names for all projects.

import { ask, refusalOf } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

export class ExportSettings extends partWith("messages", "newExport", "page") {
  /** @type {any[]} */
  kept = [];
  name = "";
  fault = "";

  async load() {
    this.fault = "";
    try {
      this.kept = (await ask("/export-settings")).kept;
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
  }

  async keep() {
    this.fault = "";
    try {
      await ask("/export-settings", { json: { name: this.name, asked: this.newExport.asking } });
      this.name = "";
      await this.load();
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
  }

  /**
   * @param {any} item
   * @param {any} menu
   */
  use(item, menu) {
    this.newExport.take(item.asked);
    this.page.shut(menu);
    this.messages.tell(`Asked for as in ${item.name}.`);
  }

  /** @param {any} item */
  async remove(item) {
    try {
      await ask(`/export-settings/${item.id}`, { method: "DELETE" });
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
      return;
    }
    await this.load();
    this.messages.tell(`${item.name} is deleted.`, "Undo", async () => {
      await ask("/export-settings", { json: { name: item.name, asked: item.asked } });
      await this.load();
    });
  }
}
