// Layers led along a drawn path.

import assert from "node:assert/strict";
import test from "node:test";

import { readOutline } from "../../velvetdrum/studio/static/js/lib/outline_path.js";
import { walkAlong } from "../../velvetdrum/studio/static/js/lib/path_walk.js";
import { wholeStudio } from "./studio.js";

const near = (one, other, far = 0.01) => assert.ok(Math.abs(one - other) <= far, `${one} is not ${other}`);

test("a walk goes at even distances, and its angle without a jump", () => {
  const square = walkAlong(readOutline("M0 0H100V100H0z"), 9);
  assert.deepEqual(
    square.map(({ x, y }) => [Math.round(x), Math.round(y)]),
    [
      [0, 0],
      [50, 0],
      [100, 0],
      [100, 50],
      [100, 100],
      [50, 100],
      [0, 100],
      [0, 50],
      [0, 0],
    ],
  );
  const k = 55.2285;
  const halves = [`M100 0C100 ${k} ${k} 100 0 100C-${k} 100 -100 ${k} -100 0`, `C-100 -${k} -${k} -100 0 -100`];
  const circle = `${halves.join("")}C${k} -100 100 -${k} 100 0z`;
  const round = walkAlong(readOutline(circle), 41);
  for (const { x, y } of round) near(Math.hypot(x, y), 100, 0.1);
  near(round.at(-1).angle - round[0].angle, 360, 5);
  for (let at = 1; at < round.length; at += 1) near(round[at].angle - round[at - 1].angle, 9, 2);
});

test("chosen layers get keyframes along the chosen path, in one step", async () => {
  const { studio, edits, server } = wholeStudio();
  const kind = studio.kinds.find(({ outlined }) => outlined).outlined;
  const path = {
    ...structuredClone(studio.layers.byId("bars")),
    id: "way",
    name: "Way",
    kind,
    settings: { form: "path", path: "M0 0L200 100", x: 50, y: 50, size: 100 },
    patches: [],
    keyframes: {},
  };
  await studio.project.edit("Way", [{ op: "add", path: "/layers/-", value: path }]);
  const rest = [1, 0, 0, 0, 1, 0];
  const { width, height } = studio.project.document.frame;
  const lie = (x, y) => ({
    place: rest,
    above: rest,
    corners: [
      [x - 10, y - 10],
      [x + 10, y - 10],
      [x + 10, y + 10],
      [x - 10, y + 10],
    ],
    shown: true,
  });
  studio.placement.lies = { way: { id: "way", ...lie(0, 0) }, bars: { id: "bars", ...lie(width / 2, height / 2) } };
  studio.selection.choose(studio.layers.byId("bars"));
  studio.selection.also = ["bars", "way"];
  const count = edits.length;
  studio.pathMotion.make(true);
  const bars = (await server()).layers.find(({ id }) => id === "bars");
  assert.equal(edits.length, count + 1);
  const { move_x: across, move_y: down, spin } = bars.keyframes;
  const short = Math.min(width, height);
  near(across[0].value, (-short / 2 / width) * 100);
  near(across.at(-1).value, (short / 2 / width) * 100);
  near(down.at(-1).value - down[0].value, (short / 2 / height) * 100);
  near(spin[0].value, (Math.atan2(1, 2) * 180) / Math.PI);
  near(across[24].value, 0);
  studio.selection.also = [];
  studio.pathMotion.make(false);
  assert.match(studio.messages.toasts.at(-1).text, /Choose a shape with a path/);
});
