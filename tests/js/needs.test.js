import assert from "node:assert/strict";
import { readdirSync, readFileSync } from "node:fs";
import test from "node:test";

const ROOT = new URL("../../velvetdrum/studio/static/js/", import.meta.url);

test("a part names the parts that it needs, and no others", () => {
  for (const folder of ["stores/", "views/"]) {
    for (const name of readdirSync(new URL(folder, ROOT))) {
      const text = readFileSync(new URL(folder + name, ROOT), "utf8");
      const named = /extends partWith\(([^)]*)\)/.exec(text);
      if (!named) continue;
      const body = text.slice(named.index + named[0].length);
      for (const [, part] of named[1].matchAll(/"(\w+)"/g)) {
        const used =
          new RegExp(`this\\.${part}\\b`).test(body) ||
          new RegExp(`\\{[^}]*\\b${part}\\b[^}]*\\} = this;`).test(body);
        assert.ok(used, `${name} names ${part} and does not use it`);
      }
      assert.ok(!body.includes("this.studio"), `${name} reaches for the whole studio`);
    }
  }
});
