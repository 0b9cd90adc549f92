// All that can be done by a key or by its name: one table, from which keys, their sheet and the finder are made.

/** @typedef {import("../studio.js").Studio} Studio */
/**
 * `key` is the combination that stands for it by default, as `combinationOf` writes it; `room` the only one in which
 * it holds; `quiet` keeps it out of the finder, since it has a sense only while something is pointed at.
 * @typedef {{id: string, group: string, text: string, key: string, room?: string, quiet?: boolean,
 *   run: (studio: Studio) => any}} Action
 */

/**
 * @param {string} group
 * @param {string} room
 * @param {[string, string, string, (studio: Studio) => any, boolean?][]} rows
 * @returns {Action[]}
 */
const of = (group, room, rows) =>
  rows.map(([id, text, key, run, quiet = false]) => ({
    id,
    group,
    text,
    key,
    run,
    quiet,
    ...(room ? { room } : {}),
  }));

/** @type {(studio: Studio, frames: number) => any} */
const step = ({ playback }, frames) => playback.seek(playback.frame + frames);
/** @type {(studio: Studio) => number} */
const second = ({ project }) => Math.round(project.rate);

/** @type {Action[]} */
export const ACTIONS = [
  ...of("Playing", "", [
    ["play", "Play, pause", "Space", (s) => s.playback.toggle()],
    ["frame-back", "One frame back", "ArrowLeft", (s) => step(s, -1)],
    ["frame-on", "One frame on", "ArrowRight", (s) => step(s, 1)],
    ["second-back", "One second back", "Shift+ArrowLeft", (s) => step(s, -second(s))],
    ["second-on", "One second on", "Shift+ArrowRight", (s) => step(s, second(s))],
    ["start", "To the start", "Home", (s) => s.playback.seek(0)],
    ["end", "To the end", "End", (s) => s.playback.seek(s.project.frames - 1)],
    ["loop", "Loop", "L", (s) => s.playback.toggleLoop()],
    ["mute", "Mute", "M", (s) => s.playback.toggleMute()],
    ["half-speed", "Half speed", "[", (s) => s.playback.setSpeed(0.5)],
    ["double-speed", "Double speed", "]", (s) => s.playback.setSpeed(2)],
  ]),
  ...of("Rooms", "", [
    ["room-sound", "Go to Sound", "1", (s) => s.page.go("sound")],
    ["room-picture", "Go to Picture", "2", (s) => s.page.go("picture")],
    ["room-words", "Go to Words", "3", (s) => s.page.go("words")],
    ["room-export", "Go to Export", "4", (s) => s.page.go("export")],
    ["find", "Find anything", "Ctrl+K", (s) => s.finder.open(), true],
    ["keys", "Keys", "?", (s) => s.page.showKeys()],
    ["manual", "Manual: the page of what is chosen", "F1", (s) => s.manual.toggle()],
    ["theme", "Light or dark", "", (s) => s.switchTheme()],
  ]),
  ...of("Project", "", [
    ["undo", "Undo", "Ctrl+Z", (s) => s.project.undo()],
    ["redo", "Redo", "Ctrl+Shift+Z", (s) => s.project.redo()],
    ["history", "History: states and versions", "H", (s) => s.projectHistory.toggle()],
    ["in-here", "In point here", "I", (s) => s.project.track && s.trim.inHere()],
    ["out-here", "Out point here", "O", (s) => s.project.track && s.trim.outHere()],
    ["whole-track", "Use the whole recording", "", (s) => s.project.track && s.trim.wholeTrack()],
    ["fit-all", "Fit all to the used part", "", (s) => s.project.track && s.trim.fitAll()],
    ["keep-look", "Keep as a look", "", (s) => s.keptLooks.open()],
    ["frame-wide", "Wide frame", "", (s) => s.formats.viewShape("wide")],
    ["frame-square", "Square frame", "", (s) => s.formats.viewShape("square")],
    ["frame-tall", "Tall frame", "", (s) => s.formats.viewShape("tall")],
    ["three-frames", "All three frames at once", "", (s) => s.threeFrames.toggleThree()],
  ]),
  ...of("Beats and markers", "", [
    ["snap", "Snap to beats", "N", (s) => s.tempo.toggleSnap()],
    ["tap", "Tap the tempo", "T", (s) => s.project.track && s.tempo.tap()],
    ["mark", "Marker here", ".", (s) => s.markers.markHere()],
    ["marker-before", "To the marker before", "PageUp", (s) => s.markers.markerBefore()],
    ["marker-after", "To the marker after", "PageDown", (s) => s.markers.markerAfter()],
  ]),
  ...of("View", "", [
    ["guides", "Guides", "G", (s) => s.stage.nextGuides()],
    ["rulers", "Rulers, own guides, grid", "R", (s) => s.workspace.toggleRulers()],
    ["grid", "Grid", "", (s) => s.workspace.toggleGrid()],
    ["bare-half", "Compare with the picture without effects", "Shift+B", (s) => s.comparison.withoutEffects()],
    ["closer", "Picture: 100 %, 200 %, 400 %, as large as fits", "Z", (s) => s.closeView.next()],
    ["detach", "Picture in a window of its own", "W", (s) => s.closeView.detach()],
    ["full-screen", "Full screen", "F", (s) => s.stage.fullScreen()],
    ["strip-closer", "Strip: closer", "+", (s) => s.timeStrip.zoomIn()],
    ["strip-further", "Strip: further", "-", (s) => s.timeStrip.zoomOut()],
    ["strip-all", "Strip: all of it", "0", (s) => s.timeStrip.zoomAll()],
    ["leave", "Leave the choice", "Escape", leave, true],
  ]),
  ...of("Layers", "", [["add-layer", "Add a layer", "A", addLayer]]),
  ...of("Layers", "picture", [
    ["copy", "Copy: layer or picked keyframes", "Ctrl+C", copy],
    ["paste", "Paste", "Ctrl+V", (s) => (s.keyPicks.heldKeys ? s.keyPicks.pasteKeys() : s.clipboard.pasteLayer())],
    ["paste-style", "Paste the style: colours, blend, effects", "Ctrl+Shift+V", (s) => s.clipboard.pasteStyle()],
    ["copy-section", "Copy the settings of the open section", "", (s) => s.partClipboard.copySection()],
    ["copy-patches", "Copy the layer's patches", "", (s) => s.partClipboard.copyPatches()],
    ["copy-keyframes", "Copy the layer's keyframes", "", (s) => s.partClipboard.copyKeyframes()],
    ["copy-effects", "Copy the layer's effects", "", (s) => s.partClipboard.copyParts("effects")],
    ["copy-masks", "Copy the layer's masks", "", (s) => s.partClipboard.copyParts("masks")],
    ["paste-part", "Paste the copied part of a layer", "Ctrl+Alt+V", (s) => s.partClipboard.paste()],
    ["double", "Double the layer", "Ctrl+D", (s) => s.selection.layer && s.clipboard.copyLayer()],
    ["steps", "Double by steps", "Ctrl+Shift+D", (s) => s.steps.open()],
    ["shuffle", "Shuffle: other seeds", "Shift+S", (s) => s.manyLayers.shuffle()],
    ["group", "Group the chosen layers", "Ctrl+G", (s) => s.layerEdits.groupLayers()],
    ["ungroup", "Ungroup", "Ctrl+Shift+G", (s) => s.layerEdits.ungroup()],
    ["choose-all", "Choose all layers", "Ctrl+A", (s) => s.selection.chooseAll()],
    ["layer-in", "Layer comes here", "Alt+I", (s) => s.timing.comeHere()],
    ["layer-out", "Layer goes here", "Alt+O", (s) => s.timing.goHere()],
    ["ripple", "Ripple: what comes later goes along", "", (s) => s.timing.toggleRipple()],
    ["cut", "Cut in two here", "X", (s) => s.cutting.cutHere()],
    ["scene-cuts", "Find the cuts of the clip", "", (s) => s.sceneCuts.find()],
    ["on-beats", "One after the other on the beats", "", (s) => s.cutting.openBeats()],
    ["along-path", "Move along the chosen path", "", (s) => s.pathMotion.make(false)],
    ["along-path-turned", "Move along the chosen path, turned with it", "", (s) => s.pathMotion.make(true)],
    ["to-path", "Text or logo as a path", "", (s) => s.layerPaths.make()],
    ["draw-on", "Logo drawn on, stroke by stroke", "", (s) => s.layerPaths.drawOn()],
    ["take-apart", "Logo as layers of its parts", "", (s) => s.layerPaths.takeApart()],
    ["flip-x", "Flip across", "Shift+X", (s) => s.placement.flip("flip_x")],
    ["flip-y", "Flip down", "Shift+Y", (s) => s.placement.flip("flip_y")],
    ["key-all", "Keyframes here", "K", (s) => s.keyframes.keyAll()],
    ["stretch-keys", "Picked keyframes twice as far apart", "", (s) => s.keyPicks.stretchKeys(2)],
    ["shrink-keys", "Picked keyframes half as far apart", "", (s) => s.keyPicks.stretchKeys(0.5)],
    ["reverse-keys", "Picked keyframes in the other order", "", (s) => s.keyPicks.reverseKeys()],
    ["drop-keys", "Delete picked keyframes", "Delete", dropKeys],
    ["drop-keys-back", "Delete picked keyframes", "Backspace", dropKeys, true],
    ["before", "Before: without effects, while held", "B", (s) => s.beforeAfter.hold(), true],
  ]),
  ...of("Sound", "sound", [
    ["before-voices", "Voices as recorded, while held", "B", (s) => s.beforeAfter.holdVoices(), true],
  ]),
  ...of("Words", "words", [
    ["split-cue", "Split the cue here", "S", (s) => s.cueEdits.splitHere()],
    ["join-cue", "Join with the next cue", "J", (s) => s.cueEdits.joinNext()],
    ["add-cue", "Add a cue here", "C", (s) => s.cueEdits.addHere()],
    ["next-cue", "To the next cue", "ArrowDown", (s) => s.cues.step(1)],
    ["cue-before", "To the cue before", "ArrowUp", (s) => s.cues.step(-1)],
    ["drop-cue", "Delete the cue", "Delete", (s) => s.cueEdits.remove()],
    ["cue-earlier", "Cue a frame earlier", "Alt+ArrowLeft", (s) => s.cueEdits.nudge(-1)],
    ["cue-later", "Cue a frame later", "Alt+ArrowRight", (s) => s.cueEdits.nudge(1)],
    ["cue-much-earlier", "Cue ten frames earlier", "Alt+Shift+ArrowLeft", (s) => s.cueEdits.nudge(-10)],
    ["cue-much-later", "Cue ten frames later", "Alt+Shift+ArrowRight", (s) => s.cueEdits.nudge(10)],
  ]),
];

/** What is done with the mouse, or where the picture has the focus: told on the sheet of keys, not to be changed. */
export const GESTURES = [
  ["Layer forward, back; into a group, out", "Alt ↑ ↓ → ←"],
  ["On the picture: nudge by 1 or 10 pixels", "Arrows, Shift Arrows"],
  ["On the picture: scale, rotate", "Alt ↑ ↓, Alt ← →"],
  ["Outline of a mask: corner more, corner less", "double click, Alt click"],
  ["Strip: choose a stretch to loop", "Shift drag"],
];

/** @param {Studio} studio */
function leave({ dropper, keyPicks, selection, views }) {
  dropper.leave();
  keyPicks.pickedKeys = [];
  selection.also = [];
  views.handlesView.draw();
  views.lanesView.draw();
}

/** @param {Studio} studio */
function addLayer({ page, presets }) {
  page.go("picture");
  presets.openChoices();
}

/** @param {Studio} studio */
function copy({ clipboard, keyPicks }) {
  if (keyPicks.pickedKeys.length) {
    keyPicks.copyKeys();
    return;
  }
  keyPicks.heldKeys = null;
  clipboard.keepLayer();
}

/** @param {Studio} studio */
function dropKeys({ keyPicks }) {
  if (keyPicks.pickedKeys.length) keyPicks.dropKeys();
}

/**
 * The keys that an event is, as one text: Ctrl+Shift+Z, Alt+ArrowLeft, Space, ?.
 * @param {{key: string, ctrlKey?: boolean, metaKey?: boolean, altKey?: boolean, shiftKey?: boolean}} event
 */
export function combinationOf({ key, ctrlKey, metaKey, altKey, shiftKey }) {
  const letter = /^\p{L}$/u.test(key);
  const name = key === " " ? "Space" : letter ? key.toUpperCase() : key;
  // A sign that needs Shift says so itself.
  const shifted = shiftKey && (letter || name.length > 1);
  return [(ctrlKey || metaKey) && "Ctrl", altKey && "Alt", shifted && "Shift", name].filter(Boolean).join("+");
}

/** @type {Record<string, string>} */
const ARROWS = { ArrowLeft: "←", ArrowRight: "→", ArrowUp: "↑", ArrowDown: "↓" };
/** @type {Record<string, string>} */
const SIGNS = { ...ARROWS, PageUp: "Page ↑", PageDown: "Page ↓" };

/**
 * A combination as it stands on the sheet.
 * @param {string} combination
 */
export function keyText(combination) {
  if (!combination) return "";
  if (combination.endsWith("+")) return [...combination.slice(0, -1).split("+").filter(Boolean), "+"].join(" ");
  return combination
    .split("+")
    .map((part) => SIGNS[part] || part)
    .join(" ");
}
