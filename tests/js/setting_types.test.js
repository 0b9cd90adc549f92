import assert from "node:assert/strict";
import { readdirSync } from "node:fs";
import test from "node:test";
import { register, typeOf } from "../../velvetdrum/studio/static/js/lib/setting_type.js";

const FOLDER = new URL("../../velvetdrum/studio/static/js/setting_types/", import.meta.url);
for (const name of readdirSync(FOLDER)) await import(new URL(name, FOLDER).href);

const number = { type: "number", lo: 0, hi: 100, step: 0.5 };
const whole = { type: "whole", lo: 0, hi: 10, step: 1 };
const signal = { colour: "#336699" };

test("every type that has a script registers itself under the file's name", () => {
  for (const name of readdirSync(FOLDER)) {
    assert.notEqual(typeOf({ type: name.replace(".js", "") }), typeOf({ type: "nothing" }), name);
  }
  assert.throws(() => register("number", {}), /twice/);
});

test("a type without one is set and stays: no ends, no mixing", () => {
  const plain = typeOf({ type: "flag" });
  assert.equal(plain.ends(true, signal, {}), null);
  assert.equal(plain.mixed(true, false, 0.9, {}), true);
  assert.equal(plain.numeric, false);
});

test("a new patch moves a number by a quarter of its range, away from its end, and by a step at least", () => {
  assert.deepEqual(typeOf(number).ends(20, signal, number), { join: "add", from: 0, to: 25 });
  assert.deepEqual(typeOf(number).ends(95, signal, number), { join: "add", from: 0, to: -25 });
  assert.equal(typeOf(whole).ends(3, signal, whole).to, 3);
  assert.equal(typeOf(whole).ends(10, signal, whole).to, -3);
});

test("a new patch moves colours and gradients to the signal's own", () => {
  assert.deepEqual(typeOf({ type: "colour" }).ends("#000000", signal), { from: "#000000", to: "#336699" });
  const stops = [
    { at: 0, colour: "#000000" },
    { at: 1, colour: "#ffffff" },
  ];
  const { from, to } = typeOf({ type: "stops" }).ends(stops, signal);
  assert.deepEqual(from, stops);
  assert.deepEqual(
    to.map(({ at, colour }) => [at, colour]),
    [
      [0, "#336699"],
      [1, "#336699"],
    ],
  );
});

test("numbers lie on a line within their range, whole ones never between two, gradients change in the middle", () => {
  assert.equal(typeOf(number).mixed(0, 100, 1.2, number), 100);
  assert.equal(typeOf(number).mixed(10, 20, 0.25, number), 12.5);
  assert.equal(typeOf(whole).mixed(0, 3, 0.5, whole), 2);
  assert.equal(typeOf(whole).allowed(2.6), 3);
  assert.equal(typeOf({ type: "stops" }).mixed("a", "b", 0.49), "a");
  assert.equal(typeOf({ type: "stops" }).mixed("a", "b", 0.5), "b");
});
