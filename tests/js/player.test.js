// Sound under the hand: grains while the playhead is moved, and other speeds.

import assert from "node:assert/strict";
import test from "node:test";
import { wholeStudio } from "./studio.js";
import { Player } from "../../velvetdrum/studio/static/js/lib/player.js";

/** A player whose sources say when they begin and end. */
function playerWithEars() {
  const heard = [];
  const node = () => ({ connect: (next) => next, gain: { setValueAtTime() {}, linearRampToValueAtTime() {} } });
  globalThis.GainNode = function () {
    return node();
  };
  globalThis.AudioBufferSourceNode = function (_, { buffer }) {
    const ends = (at) => (heard.at(-1).end = at);
    return { ...node(), start: (at) => heard.push({ buffer, begin: at }), stop: ends };
  };
  const player = new Player(() => {});
  player.rate = 30;
  player.track = { inS: 0, outS: 10, samples: 480000, channels: 1 };
  player.piece = async (frame, count) => ({ frame, count });
  return { player, heard };
}

test("a moved playhead is heard as grains of 60 ms, one after the other", async () => {
  const { player, heard } = playerWithEars();
  await player.grain(10);
  assert.equal(heard.length, 0, "nothing sounds before something has played");
  player.context = { currentTime: 1 };
  await player.grain(10);
  await player.grain(11);
  assert.equal(heard.length, 1, "the next begins when the one before is nearly over");
  assert.equal(heard[0].buffer.frame, 10);
  assert.ok(Math.abs(heard[0].buffer.count - 1.8) < 1e-9);
  assert.ok(Math.abs(heard[0].end - heard[0].begin - 0.06) < 1e-9);
  player.context.currentTime = 1.05;
  await player.grain(12);
  assert.equal(heard.length, 2);
  player.playing = true;
  player.context.currentTime = 2;
  await player.grain(13);
  player.playing = false;
  player.track = null;
  await player.grain(14);
  assert.equal(heard.length, 2, "none while it plays, none without a sound");
});

test("half and double speed, and back with the same press", () => {
  const { studio } = wholeStudio();
  const { player } = studio.views;
  studio.playback.setSpeed(2);
  assert.equal(player.speed, 2);
  assert.match(studio.playback.placeText, /2 ×/);
  studio.playback.setSpeed(0.5);
  assert.equal(player.speed, 0.5);
  studio.playback.setSpeed(0.5);
  assert.equal(player.speed, 1);
  assert.doesNotMatch(studio.playback.placeText, /×/);
});

test("whoever steps through the picture hears where they are, and only when the place is another one", async () => {
  const { studio } = wholeStudio();
  const grains = [];
  studio.views.player.grain = (frame) => grains.push(frame);
  await studio.playback.seek(40);
  await studio.playback.seek(40);
  await studio.playback.seek(41);
  assert.deepEqual(grains, [40, 41]);
});
