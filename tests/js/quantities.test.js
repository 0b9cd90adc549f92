// Numbers as people say them.

import assert from "node:assert/strict";
import test from "node:test";
import { otherwise, readQuantity, timecode } from "../../velvetdrum/studio/static/js/lib/quantities.js";

import { shownAs, shownText, withUnit } from "../../velvetdrum/studio/static/js/lib/shown_units.js";

const MEASURES = { width: 1920, height: 1080, rate: 25, beat_s: 0.5, bar_beats: 4 };
const setting = (unit, name = "radius", help = "Radius, of the short side.") => ({ unit, name, help });
const read = (text, unit, now = 10, name = "radius", help = undefined) =>
  readQuantity(text, setting(unit, name, help), now, MEASURES);
const close = (one, other) => assert.ok(Math.abs(one - other) < 1e-6, `${one} is not ${other}`);

test("a number may have a unit, and is brought to that of the setting", () => {
  close(read("54px", "%"), 5);
  close(read("960px", "%", 0, "x", "Position of the middle, across the frame."), 50);
  close(read("270 px", "%", 0, "y", "Position of the middle, down the frame."), 25);
  close(read("108px", "%", 0, "lamp_x", "Of the frame's short side."), 10);
  close(read("43f", "s"), 43 / 25);
  close(read("2b", "s"), 1);
  close(read("1bar", "s"), 2);
  close(read("1:12.5", "s"), 72.5);
  close(read("00:01:12:13", "s"), 72 + 13 / 25);
  close(read("1.5s", "ms"), 1500);
  close(read("2 frames", "ms"), 80);
  close(read("-6dB", "%", 0, "gain", "How strong."), 100 * 10 ** (-6 / 20));
  close(read("2x", "%", 0, "gain", "How strong."), 200);
  close(read("2x", "dB"), 20 * Math.log10(2));
  close(read("0.25turn", "°"), 90);
  close(read("1.2kHz", "Hz"), 1200);
});

test("sums and changes take units, too", () => {
  close(read("+54px", "%"), 15);
  close(read("50% - 54px", "%"), 45);
  close(read("+1b", "s"), 10.5);
  close(read("*1.2", "%"), 12);
  close(read("10", "%"), 10);
  close(read("-=2f", "s"), 10 - 2 / 25);
});

test("a unit that means nothing there, or a text that is none, is no number", () => {
  for (const [text, unit] of [
    ["10px", "s"],
    ["3 fathoms", "%"],
    ["2b", "°"],
    ["5/0", "%"],
    ["x".repeat(200), "%"],
    ["", "%"],
    ["1:2:3:4:5", "s"],
  ])
    assert.ok(Number.isNaN(read(text, unit)), text);
  assert.ok(Number.isNaN(readQuantity("10px", setting("%", "opacity", "How solid."), 0, MEASURES)), "no length");
  const still = { ...MEASURES, beat_s: 0 };
  assert.ok(Number.isNaN(readQuantity("2b", setting("s"), 0, still)), "no beats");
});

test("a project shows numbers in units of its own, and takes bare ones in them", () => {
  const all = { length: "px", time: "f", angle: "turn", level: "x" };
  const shown = (one, units = all) => shownAs(one, units, MEASURES);
  const there = (one, text) => readQuantity(withUnit(shown(one), text), one, 10, MEASURES);
  assert.equal(shownText(shown(setting("%")), 5), "54");
  close(there(setting("%"), "54"), 5);
  close(there(setting("%"), "+54"), 15);
  close(there(setting("%"), "*2"), 20);
  close(there(setting("%"), "5%"), 5);
  assert.equal(shownText(shown(setting("s")), 2), "50");
  close(there(setting("ms"), "5"), 200);
  close(there(setting("°"), "0.5"), 180);
  close(there(setting("dB"), "2"), 20 * Math.log10(2));
  assert.equal(shownText(shown(setting("dB")), 6.0206), "2");
  assert.equal(shownText(shownAs(setting("s"), { time: "timecode" }, MEASURES), 72.52), "00:01:12:13");
  for (const one of [setting("%", "scale_x", "Width of the layer."), setting("Hz"), setting("")])
    assert.equal(shown(one), null, one.unit);
  assert.equal(shownAs(setting("s"), { time: "b" }, { ...MEASURES, beat_s: 0 }), null, "no beats");
});

test("what is typed with any unit reads back the same", () => {
  for (let number = 1; number < 200; number += 7) {
    close(read(`${number}px`, "%"), (number / 1080) * 100);
    close(read(`${number}f`, "s") * 25, number);
    close(readQuantity(timecode(number * 31, 25), setting("s"), 0, MEASURES) * 25, number * 31);
  }
  assert.equal(timecode(25 * 3661 + 7, 25), "01:01:01:07");
});

test("a field says its amount in other units", () => {
  assert.equal(otherwise(22, setting("%"), MEASURES), "237.6 px");
  assert.equal(otherwise(1.5, setting("s"), MEASURES), "37.5 frames, 3 beats");
  assert.equal(otherwise(1.5, setting("s"), { ...MEASURES, beat_s: 0 }), "37.5 frames");
  assert.equal(otherwise(90, setting("°"), MEASURES), "0.25 turns");
  assert.equal(otherwise(90, setting("Hz"), MEASURES), "");
});
