import "../../velvetdrum/studio/static/js/setting_types/whole.js";
import "../../velvetdrum/studio/static/js/setting_types/colour.js";
import "../../velvetdrum/studio/static/js/setting_types/stops.js";
import assert from "node:assert/strict";
import test from "node:test";
import { mixed } from "../../velvetdrum/studio/static/js/lib/colour.js";
import { QuickWidth } from "../../velvetdrum/studio/static/js/lib/quick_width.js";
import { curveAt } from "../../velvetdrum/studio/static/js/lib/curve_points.js";
import { EASINGS, eased, readEasing } from "../../velvetdrum/studio/static/js/lib/easing.js";
import { Events } from "../../velvetdrum/studio/static/js/lib/events.js";
import {
  affine,
  anchorAt,
  boundsOf,
  cornersOf,
  inside,
  placeMatrix,
} from "../../velvetdrum/studio/static/js/lib/geometry.js";
import { patched } from "../../velvetdrum/studio/static/js/lib/json_patch.js";
import { merge } from "../../velvetdrum/studio/static/js/lib/merge.js";
import { keyedValue } from "../../velvetdrum/studio/static/js/lib/keyed_value.js";
import { arrowStep, fromPlace, readNumber, toPlace } from "../../velvetdrum/studio/static/js/lib/numbers.js";
import { hertz, noteName } from "../../velvetdrum/studio/static/js/lib/pitch.js";
import { SmoothClock } from "../../velvetdrum/studio/static/js/lib/smooth_clock.js";
import { clock, readClock } from "../../velvetdrum/studio/static/js/lib/time.js";
import { close, vectors } from "./vectors.js";

test("easings are those of the renderer", () => {
  for (const { ease, part, eased: wanted } of vectors("easing")) {
    part.forEach((at, index) => assert.ok(close(eased(ease, at), wanted[index], 2e-5), `${ease} at ${at}`));
  }
});

test("curves through points are those of the renderer", () => {
  for (const { points, places, values } of vectors("curve")) {
    places.forEach((at, index) => assert.ok(close(curveAt(points, at), values[index]), `${points.length} at ${at}`));
  }
});

test("a text that is no easing is told", () => {
  for (const text of [
    "",
    "bounce",
    "cubic-bezier(2, 0, 1, 1)",
    "cubic-bezier(0, 0, 1)",
    "steps(0)",
    "steps(2, now)",
  ]) {
    assert.equal(readEasing(text), null, text);
  }
  for (const text of EASINGS) assert.ok(readEasing(text), text);
});

test("colours are mixed as the renderer mixes them", () => {
  for (const { from, to, part, mixed: wanted } of vectors("colour")) {
    const found = mixed(from, to, part);
    for (const at of [1, 3, 5]) {
      const [a, b] = [found, wanted].map((text) => parseInt(text.slice(at, at + 2), 16));
      assert.ok(Math.abs(a - b) <= 1, `${from} to ${to} at ${part}: ${found}, not ${wanted}`);
    }
  }
});

test("values between keyframes are those of the renderer", () => {
  for (const { setting, frames, time, value } of vectors("keyed_value")) {
    const found = keyedValue(setting, frames, time);
    if (typeof value === "number") assert.ok(close(found, value, 2e-5), `${setting.type} at ${time}`);
    else assert.equal(found, value);
  }
});

test("a layer's place is that of the renderer", () => {
  for (const { values, size, matrix } of vectors("place_matrix")) {
    const found = placeMatrix(values, size);
    matrix.forEach((value, index) => assert.ok(close(found[index], value), `${index}`));
    const [x, y] = affine.at(affine.back(found), affine.at(found, [123, 45]));
    assert.ok(close(x, 123) && close(y, 45));
  }
});

test("patches change documents as RFC 6902 says, and leave the one before alone", () => {
  for (const { document, patch, changed } of vectors("json_patch")) {
    const before = JSON.stringify(document);
    assert.deepEqual(patched(document, patch), changed);
    assert.equal(JSON.stringify(document), before);
  }
});

test("what a patch does not touch stays the same object", () => {
  const document = { layers: [{ id: "1" }, { id: "2", settings: { x: 1 } }] };
  const changed = patched(document, [{ op: "replace", path: "/layers/1/settings/x", value: 2 }]);
  assert.equal(changed.layers[0], document.layers[0]);
  assert.notEqual(changed.layers[1], document.layers[1]);
});

test("numbers, sums and changes are read", () => {
  const read = (text, now = 40) => readNumber(text, now);
  assert.equal(read("1920/3"), 640);
  assert.equal(read("+10"), 50);
  assert.equal(read("*1.5"), 60);
  assert.equal(read("/4"), 10);
  assert.equal(read("-=3"), 37);
  assert.equal(read("-3"), -3);
  assert.equal(read(" 2,5 "), 2.5);
  assert.equal(read("−2 + 3 × (4 − 1)"), 7);
  assert.equal(read("+10", -5), 5);
  assert.equal(read("2*-3"), -6);
  for (const text of ["", "abc", "1 2", "(1", "1)", "2**3", "1/0", "()", "1+", "9".repeat(99), "alert(1)"]) {
    assert.ok(Number.isNaN(read(text)), text);
  }
});

test("arrow keys step by one, by ten and by a tenth", () => {
  assert.equal(arrowStep({ key: "ArrowUp" }, 0.5), 0.5);
  assert.equal(arrowStep({ key: "ArrowDown", shiftKey: true }, 0.5), -5);
  assert.equal(arrowStep({ key: "ArrowUp", altKey: true }, 1), 0.1);
  assert.equal(arrowStep({ key: "ArrowLeft" }, 1), 0);
});

test("a slider that is finer at its low end leads back to its values", () => {
  const setting = { curve: "log", lo: 0, hi: 20000, step: 1 };
  for (const value of [0, 20, 440, 20000]) {
    assert.ok(close(fromPlace(setting, toPlace(setting, value)), value, 0.01), `${value}`);
  }
});

test("times are written and read", () => {
  assert.equal(clock(62.5), "1:02.50");
  assert.equal(clock(3723, 0), "1:02:03");
  assert.equal(clock(59.999), "0:59.99");
  assert.equal(readClock("1:02.5"), 62.5);
  assert.equal(readClock("0:01:00"), 60);
  for (const text of ["", "x", "-1", "1:2:3:4"]) assert.equal(readClock(text), null, text);
});

test("frequencies have notes and units", () => {
  assert.equal(noteName(440), "A4");
  assert.equal(noteName(27.5), "A0");
  assert.equal(hertz(997.04), "997 Hz");
  assert.equal(hertz(12500), "12.5 kHz");
});

test("a point is inside of a box whichever way round it is given", () => {
  const corners = cornersOf([1, 0, 0, 0, 1, 0], [0, 0, 10, 20]);
  assert.ok(inside(corners, [5, 5]) && inside([...corners].reverse(), [5, 5]));
  assert.ok(!inside(corners, [11, 5]));
  assert.deepEqual(boundsOf(corners), [0, 0, 10, 20]);
});

test("events are heard until the hearing ends", () => {
  const events = new Events();
  const heard = [];
  const end = events.on("a", (detail) => heard.push(detail));
  events.emit("a", 1);
  end();
  events.emit("a", 2);
  events.emit("b");
  assert.deepEqual(heard, [1]);
});

test("a document is made like another, and what stays the same stays the same object", () => {
  for (const { document, changed } of vectors("json_patch")) {
    const into = structuredClone(document);
    assert.deepEqual(merge(into, changed), changed);
  }
  const layers = ["a", "b", "c"].map((id) => ({ id, settings: { x: 1, stops: [{ at: 0 }, { at: 1 }] } }));
  const into = { layers, tracks: [] };
  const [a, , c] = layers;
  const next = structuredClone({ layers: [c, a], tracks: [{ media: "m" }] });
  next.layers[1].settings.stops.push({ at: 2 });
  merge(into, next);
  assert.deepEqual(into, next);
  assert.equal(into.layers[0], c);
  assert.equal(into.layers[1], a);
  assert.notEqual(into.tracks[0], next.tracks[0]);
});

test("only what differs is written", () => {
  const written = [];
  const watch = (object, path) =>
    new Proxy(object, {
      get: (target, key) =>
        target[key] !== null && typeof target[key] === "object"
          ? watch(target[key], `${path}/${String(key)}`)
          : target[key],
      set: (target, key, value) => {
        written.push(`${path}/${String(key)}`);
        target[key] = value;
        return true;
      },
    });
  const document = { name: "p", layers: [{ id: "1", settings: { x: 1, y: 2 } }] };
  const next = patched(document, [{ op: "replace", path: "/layers/0/settings/y", value: 3 }]);
  merge(watch(document, ""), next);
  assert.deepEqual(written, ["/layers/0/settings/y"]);
});

test("a clock that is told in steps becomes even, and a jump is followed at once", () => {
  const clock = new SmoothClock();
  const found = [];
  for (let n = 0; n < 600; n += 1) {
    const now = 5 + n / 60;
    // Told every 23 ms, as sound cards do.
    found.push(clock.at(now, Math.floor((now - 5) / 0.023) * 0.023));
  }
  const steps = found.slice(100).map((time, index) => time - found[99 + index]);
  assert.ok(Math.max(...steps) < 1.15 / 60 && Math.min(...steps) > 0.85 / 60, `${Math.min(...steps)}`);
  assert.ok(Math.abs(found.at(-1) - 599 / 60 + 0.0115) < 0.004);
  assert.ok(Math.abs(clock.at(15, 3) - 3) < 1e-9);
});

test("pictures that must follow the hand get narrower until they are there in time, and wider again", () => {
  const quick = new QuickWidth([640, 480, 360], 50);
  const shown = [];
  for (const took of [90, 70, 60, 55, 40, 30, 20, 20, 20, 20, 15, 15, 15, 15]) {
    shown.push(quick.width);
    quick.judge(took);
  }
  assert.deepEqual(shown.slice(0, 4), [640, 480, 360, 360]);
  assert.equal(quick.width, 640);
  // What is neither late nor early stays.
  quick.judge(30);
  quick.judge(45);
  assert.equal(quick.width, 640);
});

test("a turn about a place leaves the place, and an anchor leaves the layer", () => {
  close(affine.at(affine.turn([30, 20], 1.1), [30, 20]), [30, 20]);
  close(affine.at(affine.turn([30, 20], Math.PI / 2), [40, 20]), [30, 30]);
  close(Object.values(anchorAt([50, 20], [80, 10], [200, 100])), [25, 20, 15, -10]);
});
