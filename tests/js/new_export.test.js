// What an export is asked for: formats, frames, sizes and rates, kept and asked for again.

import assert from "node:assert/strict";
import test from "node:test";

import { NewExport } from "../../velvetdrum/studio/static/js/stores/new_export.js";
import { WantedFormats } from "../../velvetdrum/studio/static/js/stores/wanted_formats.js";

test("one press asks for every format in every frame, sound once", () => {
  /** @type {any} */
  const studio = { playback: { frame: 0, loop: null }, project: { rate: 30, length: 4 } };
  studio.formats = {
    frameShape: "wide",
    shapes: [
      { shape: "wide", size: [64, 36] },
      { shape: "tall", size: [36, 64] },
    ],
  };
  studio.given = {
    videoFormats: [
      { name: "mp4", group: "video", sound: true, sized: true },
      { name: "webm", group: "video", sound: true, alpha: true },
      { name: "still-jpeg", group: "still" },
      { name: "sound-wav", group: "sound", sound: true },
    ],
  };
  studio.wantedFormats = new WantedFormats(studio);
  const wanted = (studio.newExport = new NewExport(studio));
  wanted.changed = () => {};
  wanted.toggleShape("wide");
  assert.ok(wanted.isShape("wide"));
  wanted.toggleShape("tall");
  assert.equal(wanted.bodies.length, 2);
  studio.wantedFormats.put(["mp4", "webm+", "still-jpeg", "sound-wav"]);
  wanted.loudness = "-14";
  wanted.megabytes = "20";
  const kinds = wanted.bodies.map((body) => `${body.format} ${body.frame} ${body.transparent}`);
  assert.deepEqual(kinds, [
    "mp4 64x36 no",
    "mp4 36x64 no",
    "webm 64x36 yes",
    "webm 36x64 yes",
    "still-jpeg 64x36 no",
    "still-jpeg 36x64 no",
    "sound-wav 64x36 no",
  ]);
  assert.equal(wanted.bodies[0].megabytes, 20);
  assert.equal(wanted.bodies[2].megabytes, undefined);
  assert.equal(wanted.bodies[0].loudness, -14);
  assert.equal(wanted.button, "Make 7 files");
  // Kept under a name, and asked for again where a format is gone by then.
  const kept = wanted.asking;
  studio.given.videoFormats = studio.given.videoFormats.filter((form) => form.name !== "mp4");
  const formats = (studio.wantedFormats = new WantedFormats(studio));
  const later = new NewExport(studio);
  later.changed = () => {};
  later.take(kept);
  assert.deepEqual(formats.wanted, ["webm+", "still-jpeg", "sound-wav"]);
  assert.deepEqual([later.shapes, later.loudness, later.megabytes], [["wide", "tall"], "-14", "20"]);
  assert.equal(formats.group, "transparent");
  // Larger, and at another rate, than the project.
  later.set("short", "2160");
  later.set("rate", "60");
  assert.deepEqual(
    later.bodies.slice(0, 2).map((body) => [body.frame, body.rate]),
    [
      ["3840x2160", "60"],
      ["2160x3840", "60"],
    ],
  );
});
