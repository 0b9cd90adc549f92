import assert from "node:assert/strict";
import test from "node:test";
import { Events } from "../../velvetdrum/studio/static/js/lib/events.js";
import { both, concernsOf, EVERYTHING } from "../../velvetdrum/studio/static/js/lib/concerns.js";
import { Page } from "../../velvetdrum/studio/static/js/views/page.js";

const step = (path, op = "replace") => ({ op, path, value: 1 });
const named = (concerns) => Object.keys(concerns).filter((name) => concerns[name]);

test("a pointer says what has to be asked for anew", () => {
  assert.deepEqual(named(concernsOf([step("/layers/3/settings/width")])), ["picture", "media"]);
  assert.deepEqual(named(concernsOf([step("/layers/3/patches/0/to")])), ["picture", "curves", "media"]);
  assert.deepEqual(named(concernsOf([step("/layers/3", "add")])), ["picture", "curves", "media"]);
  assert.deepEqual(named(concernsOf([step("/signals/0/settings/low_hz")])), ["picture", "curves"]);
  assert.deepEqual(named(concernsOf([step("/beats/bpm")])), ["picture", "curves", "beats"]);
  assert.deepEqual(named(concernsOf([step("/cue_tracks/aa/cues/c1/text")])), ["picture", "curves", "cues"]);
  assert.deepEqual(named(concernsOf([step("/name")])), ["picture"]);
});

test("what is not known, and how long a project is, concerns everything", () => {
  for (const path of ["", "/tracks", "/rate", "/frame/width", "/length_s", "/somewhere"]) {
    assert.deepEqual(concernsOf([step(path)]), EVERYTHING, path);
  }
  assert.deepEqual(concernsOf(undefined), EVERYTHING);
  assert.deepEqual(named(concernsOf([])), []);
});

test("a move concerns both of its ends, and several steps all that any does", () => {
  assert.ok(concernsOf([{ op: "move", from: "/cue_tracks/aa", path: "/layers/0" }]).cues);
  assert.deepEqual(named(concernsOf([step("/name"), step("/beats/bpm")])), ["picture", "curves", "beats"]);
  assert.deepEqual(named(both(concernsOf([step("/name")]), concernsOf([]))), ["picture"]);
});

/** A page over stores that note what is asked of them. */
function pageOf(room = "picture") {
  const asked = [];
  const noting = (store) =>
    new Proxy(
      {},
      {
        get:
          (_, name) =>
          (...values) => (asked.push(`${store}.${String(name)}`), values),
      },
    );
  const studio = {
    events: new Events(),
    project: { document: { layers: [] }, frames: 10, rate: 30, track: null },
    playback: { frame: 0, loop: null, applyLoop() {} },
    selection: { layer: {}, also: [], room },
    signals: { signals: [], hearing: "", updateLive: () => asked.push("signals.updateLive") },
    keyPicks: { pickedKeys: [] },
    curvePanel: {},
    layers: {},
    keyframes: {},
    media: { heldKeys: () => [], checkMissing: () => asked.push("media.checkMissing") },
    moments: { load: async () => asked.push("moments.load") },
    views: {
      player: {},
      cueLanes: { draw() {} },
      trackLanes: { draw() {} },
      levelMeters: { draw() {} },
      lanesView: { draw() {} },
      keyCurve: { draw() {} },
    },
  };
  for (const store of ["sound", "stage", "timeStrip", "signalCurve", "tempo", "cues", "cueChecks", "cueLanes"]) {
    studio[store] = noting(store);
  }
  studio.lanes = noting("lanes");
  studio.signalEdits = noting("signalEdits");
  const page = new Page(studio);
  page.filesSeen = "";
  return { page, asked };
}

test("a setting of a layer asks for the picture and for nothing else", () => {
  const { page, asked } = pageOf();
  page.changed(concernsOf([step("/layers/0/settings/width")]));
  assert.deepEqual(asked, ["sound.setTrack", "stage.fitStage", "stage.showStill"]);
});

test("a cue asks for cues and their lanes, too; a change that nobody describes for everything", () => {
  const { page, asked } = pageOf("words");
  page.changed(concernsOf([step("/cue_tracks/aa/cues/c1/text")]));
  for (const name of ["cues.refresh", "cueLanes.load", "cueChecks.later"]) assert.ok(asked.includes(name), name);
  assert.ok(!asked.includes("tempo.loadBeats") && !asked.includes("timeStrip.drawWaves"));
  asked.length = 0;
  page.changed();
  for (const name of ["tempo.loadBeats", "timeStrip.drawWaves", "cues.refresh", "signalCurve.readCurve"]) {
    assert.ok(asked.includes(name), name);
  }
});

test("edits in quick succession are refreshed once, for all that they concern", async () => {
  const { page, asked } = pageOf();
  page.refresh(concernsOf([step("/layers/0/settings/width")]));
  page.refresh(concernsOf([step("/signals/0/settings/low_hz")]));
  page.refresh(concernsOf([step("/name")]));
  await new Promise((resolve) => setTimeout(resolve, 120));
  assert.deepEqual(
    asked.filter((name) => name !== "sound.setTrack"),
    ["stage.showStill", "signals.updateLive", "lanes.readLanes", "signalCurve.readCurve"],
  );
});
