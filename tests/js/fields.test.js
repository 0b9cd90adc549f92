import assert from "node:assert/strict";
import test from "node:test";
import { typed, wholeStudio } from "./studio.js";

const STOPS = [
  { at: 0, colour: "#000000" },
  { at: 0.2, colour: "#ff0000" },
  { at: 1, colour: "#ffffff" },
];

/** The bars' gradient, set to three stops. */
function gradient() {
  const whole = wholeStudio();
  whole.open("bars");
  const setting = whole.studio.selection.kind.settings.find(({ type }) => type === "stops");
  whole.studio.settings.put(setting, STOPS);
  const stored = async () => (await whole.server()).layers[1].settings[setting.name];
  return { ...whole, setting, stored };
}

test("a stop is added in the widest gap, in the colour that stands there, and taken away", async () => {
  const { studio, setting, stored } = gradient();
  studio.gradients.addStop(setting);
  assert.deepEqual(
    (await stored()).map(({ at, colour }) => [Math.round(at * 1e6) / 1e6, colour]),
    [
      [0, "#000000"],
      [0.2, "#ff0000"],
      [0.6, "#ffa191"],
      [1, "#ffffff"],
    ],
  );
  studio.gradients.dropStop(setting, studio.gradients.stopsOf(setting)[2]);
  assert.equal((await stored()).length, 3);
});

test("a stop is moved by its place in per cent, past its neighbours too; beyond the ramp it is refused", async () => {
  const { studio, setting, stored } = gradient();
  const [, red] = studio.gradients.stopsOf(setting);
  assert.equal(red.percent, 20);
  studio.stopFields.stopPlace(setting, red, typed("50 + 5"));
  assert.deepEqual(
    (await stored()).map(({ at }) => at),
    [0, 0.55, 1],
  );
  const field = typed("130");
  studio.stopFields.stopPlace(setting, studio.gradients.stopsOf(setting)[1], field);
  assert.equal(field.target.value, "55");
  assert.match(studio.fields.faultOf(setting), /0 to 100 %/);
});

test("a stop's colour is tried while it is picked, and kept once", async () => {
  const { studio, edits, setting, stored } = gradient();
  await stored();
  const { length } = edits;
  for (const colour of ["#111111", "#222222"])
    studio.stopFields.tryColour(setting, studio.gradients.stopsOf(setting)[0], colour);
  assert.equal(edits.length, length);
  assert.match(studio.gradients.rampStyle(setting).background, /#222222 0%/);
  studio.stopFields.setStopColour(setting, studio.gradients.stopsOf(setting)[0], "#222222");
  assert.equal((await stored())[0].colour, "#222222");
});

test("a ramp of one stop is one colour; a palette is laid into a gradient", async () => {
  const { studio, setting, stored } = gradient();
  studio.settings.put(setting, [{ at: 0, colour: "#123456" }]);
  assert.equal(studio.gradients.rampStyle(setting).background, "#123456");
  studio.palettes.usePalette(setting, { name: "Dusk", stops: STOPS });
  assert.deepEqual(
    (await stored()).map(({ colour }) => colour),
    STOPS.map(({ colour }) => colour),
  );
});

/** The curve of an effect on the bars. */
function drawn() {
  const whole = wholeStudio();
  whole.open("bars");
  whole.studio.selection.openTab("effect");
  const kinds = whole.studio.parts.partSort.kinds;
  whole.studio.parts.addPart(kinds.find((kind) => kind.settings.some(({ type }) => type === "curve")));
  const setting = whole.studio.parts
    .partFields(whole.studio.parts.shownParts[0], true)
    .find(({ type }) => type === "curve");
  const box = { left: 0, top: 0, width: 100, height: 100, bottom: 100 };
  const press = (x, y, point = null) => ({
    button: 0,
    clientX: x,
    clientY: y,
    pointerId: 1,
    currentTarget: { getBoundingClientRect: () => box, setPointerCapture() {} },
    target: { closest: () => (point === null ? null : { dataset: { point: String(point) } }) },
  });
  return { ...whole, setting, press };
}

test("a press on a drawn curve puts a point there, which is dragged between its neighbours", async () => {
  const { studio, setting, press, server } = drawn();
  const before = studio.settings.current(setting).length;
  studio.curveField.press(setting, press(37, 60));
  studio.curveField.drag(press(37, 10));
  studio.curveField.drop();
  await server();
  const points = studio.settings.current(setting);
  assert.equal(points.length, before + 1);
  const added = points.find(({ at }) => Math.abs(at - 0.37) < 0.01);
  assert.ok(Math.abs(added.value - (setting.lo + 0.9 * (setting.hi - setting.lo))) < 1);
  const index = points.indexOf(added);
  studio.curveField.press(setting, press(37, 10, index));
  studio.curveField.drag(press(100, 10));
  studio.curveField.drop();
  await server();
  const moved = studio.settings.current(setting);
  assert.ok(moved[index].at < moved[index + 1].at, "it stays before the next one");
  studio.curveField.reset(setting);
  assert.ok(studio.curveField.isPlain(setting));
});

test("a drawn curve's points say what they are, and go by keys", async () => {
  const { studio, setting, server } = drawn();
  const points = studio.curveField.points(setting);
  assert.match(studio.curveField.told(setting, points[1]), /point 2: .* at \d+ %/);
  const event = (key) => ({ key, preventDefault() {}, stopPropagation() {} });
  const { value } = points[1];
  studio.curveField.key(setting, points[1], event("ArrowDown"));
  await server();
  assert.ok(studio.curveField.points(setting)[1].value < value);
});
