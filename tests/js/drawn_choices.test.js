import assert from "node:assert/strict";
import test from "node:test";
import { DrawnChoices } from "../../velvetdrum/studio/static/js/lib/drawn_choices.js";

const NAMES = {
  families: { bars: "Bars", rings: "Rings" },
  choices: [
    ...Array.from({ length: 8 }, (_, n) => ({ family: "bars", name: `Bar ${n}` })),
    { family: "rings", name: "Ring" },
  ],
};

/** The names are there at once; runs of pictures come when they are let go. */
function choices({ fault } = {}) {
  const runs = [];
  globalThis.fetch = async () =>
    new Response(JSON.stringify(NAMES), { headers: { "Content-Type": "application/json" } });
  const list = new DrawnChoices("/choices", (first, count) => {
    const names = NAMES.choices.slice(first, first + count);
    return new Promise((done, refuse) =>
      runs.push({
        first,
        count,
        answer: () => (fault ? refuse(new Error(fault)) : done(names.map(({ name }) => ({ picture: `of ${name}` })))),
      }),
    );
  });
  return { list, runs };
}

const turn = () => new Promise((done) => setTimeout(done, 0));

test("names stand there before any picture does, and pictures come in runs of the family on show", async () => {
  const { list, runs } = choices();
  const opened = list.open("bars");
  await turn();
  assert.equal(list.state, "ready");
  assert.deepEqual(
    list.listed.map(({ picture }) => picture),
    Array(8).fill(""),
  );
  assert.deepEqual([runs[0].first, runs[0].count], [0, 6]);
  runs[0].answer();
  await turn();
  assert.deepEqual([runs[1].first, runs[1].count], [6, 2]);
  runs[1].answer();
  await opened;
  assert.equal(list.listed[7].picture, "of Bar 7");
  assert.equal(list.all[8].picture, "", "a family that nobody looked at is not drawn");
});

test("another family, or closing, ends what was under way", async () => {
  const { list, runs } = choices();
  list.open("bars");
  await turn();
  const rings = list.open("rings");
  await turn();
  runs[0].answer();
  runs[1].answer();
  await rings;
  assert.deepEqual([list.listed.length, list.listed[0].picture], [1, "of Ring"]);
  assert.equal(list.all[0].picture, "", "the answer of an earlier round is dropped");
  assert.equal(runs.length, 2);
  const again = list.open("bars");
  await turn();
  list.close();
  runs[2].answer();
  await again;
  assert.equal(runs.length, 3);
});

test("one that is chosen before its picture came is drawn then, alone", async () => {
  const { list, runs } = choices();
  list.open("bars");
  await turn();
  const complete = list.complete(list.all[7]);
  assert.deepEqual([runs[1].first, runs[1].count], [7, 1]);
  runs[1].answer();
  assert.equal((await complete).picture, "of Bar 7");
  assert.equal(await list.complete(list.all[7]), list.all[7]);
  assert.equal(runs.length, 2);
});

test("a family that is unknown gives the first one; a fault is said and may be tried again", async () => {
  const { list, runs } = choices({ fault: "No room on the disk." });
  const opened = list.open("moons");
  await turn();
  runs[0].answer();
  await opened;
  assert.deepEqual([list.family, list.state, list.fault], ["bars", "failed", "No room on the disk."]);
  list.open();
  assert.equal(list.fault, "");
});

test("a search looks through all families, and draws what is lacking in runs of neighbours", async () => {
  const { list, runs } = choices();
  const opened = list.open("bars");
  for (const run of [0, 1]) {
    await turn();
    runs[run].answer();
  }
  await opened;
  const sought = list.seek("ring");
  assert.deepEqual(
    list.listed.map(({ name }) => name),
    ["Ring"],
  );
  assert.ok(!list.isOpen("bars"), "no family is on show while there are words");
  await new Promise((done) => setTimeout(done, 150));
  assert.deepEqual([runs[2].first, runs[2].count], [8, 1]);
  runs[2].answer();
  await sought;
  assert.equal(list.listed[0].picture, "of Ring");
  list.seek("nothing of that name");
  assert.ok(list.nothing);
  list.seek("");
  assert.equal(list.listed.length, 8, "the family that was on show is there again");
});
