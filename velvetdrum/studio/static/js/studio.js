// The studio: one project, its rooms, the picture and the strip that stay in sight. Here its parts are made; what each
// is for stands at its head.

import { Events } from "./lib/events.js";
import { Player } from "./lib/player.js";
import { Arrangement } from "./stores/arrangement.js";
import { Alignment } from "./stores/alignment.js";
import { CueChecks } from "./stores/cue_checks.js";
import { CueEdits } from "./stores/cue_edits.js";
import { Cues } from "./stores/cues.js";
import { Showing } from "./stores/showing.js";
import { Tapping } from "./stores/tapping.js";
import { BeforeAfter } from "./stores/before_after.js";
import { EffectChains } from "./stores/effect_chains.js";
import { EffectChoices } from "./stores/effect_choices.js";
import { ProjectColours } from "./stores/project_colours.js";
import { CloseView } from "./stores/close_view.js";
import { Comparison } from "./stores/comparison.js";
import { ProjectHistory } from "./stores/project_history.js";
import { Quantities } from "./stores/quantities.js";
import { Readings } from "./stores/readings.js";
import { DocumentStore } from "./stores/document.js";
import { Batch } from "./stores/batch.js";
import { Excerpts } from "./stores/excerpts.js";
import { ExportSettings } from "./stores/export_settings.js";
import { Exports } from "./stores/exports.js";
import { Reviews } from "./stores/reviews.js";
import { NewExport } from "./stores/new_export.js";
import { WantedFormats } from "./stores/wanted_formats.js";
import { Posts } from "./stores/posts.js";
import { Formats } from "./stores/formats.js";
import { KeyframeSelection } from "./stores/keyframe_selection.js";
import { Finder } from "./stores/finder.js";
import { KeyMap } from "./stores/key_map.js";
import { ManyLayers } from "./stores/many_layers.js";
import { Performer } from "./stores/performer.js";
import { SteppedCopies } from "./stores/stepped_copies.js";
import { Keyframes } from "./stores/keyframes.js";
import { KeyframeExchange } from "./stores/keyframe_exchange.js";
import { LayerClipboard } from "./stores/layer_clipboard.js";
import { KeptLooks } from "./stores/kept_looks.js";
import { LayerEdits } from "./stores/layer_edits.js";
import { LayerPaths } from "./stores/layer_paths.js";
import { LayerTiming } from "./stores/layer_timing.js";
import { Layout } from "./stores/layout.js";
import { LayerTree } from "./stores/layer_tree.js";
import { Cutting } from "./stores/cutting.js";
import { Hints } from "./stores/hints.js";
import { Links } from "./stores/links.js";
import { Manual } from "./stores/manual.js";
import { NoteRows } from "./stores/note_rows.js";
import { Markers } from "./stores/markers.js";
import { MediaImport } from "./stores/media_import.js";
import { Messages } from "./stores/messages.js";
import { PartClipboard } from "./stores/part_clipboard.js";
import { PartReaders } from "./stores/part_readers.js";
import { Parts } from "./stores/parts.js";
import { Patches } from "./stores/patches.js";
import { PathMotion } from "./stores/path_motion.js";
import { Placement } from "./stores/placement.js";
import { Playback } from "./stores/playback.js";
import { SceneCuts } from "./stores/scene_cuts.js";
import { Selection } from "./stores/selection.js";
import { Settings } from "./stores/settings.js";
import { ShownSettings } from "./stores/shown_settings.js";
import { SignalEdits } from "./stores/signal_edits.js";
import { Signals } from "./stores/signals.js";
import { Snapping } from "./stores/snapping.js";
import { Sound } from "./stores/sound.js";
import { SoundImport } from "./stores/sound_import.js";
import { Tempo } from "./stores/tempo.js";
import { Typefaces } from "./stores/typefaces.js";
import { Sum } from "./stores/sum.js";
import { TrackEdits } from "./stores/track_edits.js";
import { Tracks } from "./stores/tracks.js";
import { Trim } from "./stores/trim.js";
import { TrackLanesPanel } from "./views/track_lanes_panel.js";
import { Visit } from "./stores/visit.js";
import { Workspace } from "./stores/workspace.js";
import { CueLanesPanel } from "./views/cue_lanes_panel.js";
import { CueList } from "./views/cue_list.js";
import { Dividers } from "./views/dividers.js";
import { Dropper } from "./views/dropper.js";
import { BallGrips } from "./views/ball_grips.js";
import { CameraGrips } from "./views/camera_grips.js";
import { ColourGrips } from "./views/colour_grips.js";
import { CurveField } from "./views/curve_field.js";
import { DrawnCurve } from "./views/drawn_curve.js";
import { BandField } from "./views/band_field.js";
import { GradientField } from "./views/gradient_field.js";
import { paintImport } from "./views/import_wave.js";
import { KeyCurvePanel } from "./views/key_curve_panel.js";
import { Keys } from "./views/keys.js";
import { LabelDrag } from "./views/label_drag.js";
import { LanesPanel } from "./views/lanes_panel.js";
import { LayerGrips } from "./views/layer_grips.js";
import { LayerList } from "./views/layer_list.js";
import { Moments } from "./views/moments.js";
import { Page } from "./views/page.js";
import { OutlinePoints } from "./views/outline_points.js";
import { PalettePanel } from "./views/palette_panel.js";
import { PartPoints } from "./views/part_points.js";
import { PatchScope } from "./views/patch_scope.js";
import { PatchList } from "./views/patch_list.js";
import { Pen } from "./views/pen.js";
import { PresetPicker } from "./views/preset_picker.js";
import { SettingFields } from "./views/setting_fields.js";
import { SettingMenu } from "./views/setting_menu.js";
import { SignalCurve } from "./views/signal_curve.js";
import { Sockets } from "./views/sockets.js";
import { SpectrumPanel } from "./views/spectrum_panel.js";
import { StageText } from "./views/stage_text.js";
import { StageView } from "./views/stage.js";
import { StopFields } from "./views/stop_fields.js";
import { Strip } from "./views/strip.js";
import { switchTheme } from "./views/theme_switch.js";
import { ThreeFrames } from "./views/three_frames.js";
import { makeViews } from "./views/canvases.js";

export class Studio {
  /**
   * @param {Given & { project: any }} given what the server sent with the page: the project, kinds, formats
   * @param {<T>(target: T) => T} reactive wraps an object so that templates follow it
   * @param {<T>(target: T) => T} raw the object itself
   */
  constructor(given, reactive, raw) {
    const studio = reactive(this);
    this.given = given;
    this.kinds = given.kinds;
    this.raw = raw;
    this.events = outside(new Events());
    this.views = outside(/** @type {import("./views/canvases.js").Views} */ ({}));
    this.switchTheme = switchTheme;

    this.project = new DocumentStore(studio);
    this.selection = new Selection(studio);
    this.layers = new LayerTree(studio);
    this.layerEdits = new LayerEdits(studio);
    this.keptLooks = new KeptLooks(studio);
    this.projectColours = new ProjectColours(studio);
    this.clipboard = new LayerClipboard(studio);
    this.workspace = new Workspace(studio);
    this.quantities = new Quantities(studio);
    this.partClipboard = new PartClipboard(studio);
    this.hints = new Hints(studio);
    this.parts = new Parts(studio);
    this.partReaders = new PartReaders(studio);
    this.settings = new Settings(studio);
    this.shownSettings = new ShownSettings(studio);
    this.keyframes = new Keyframes(studio);
    this.keyPicks = new KeyframeSelection(studio);
    this.keyframeExchange = new KeyframeExchange(studio);
    this.layerPaths = new LayerPaths(studio);
    this.timing = new LayerTiming(studio);
    this.cutting = new Cutting(studio);
    this.sceneCuts = new SceneCuts(studio);
    this.links = new Links(studio);
    this.manyLayers = new ManyLayers(studio);
    this.steps = new SteppedCopies(studio);
    this.performer = outside(new Performer(studio));
    this.keyMap = new KeyMap(studio);
    this.finder = new Finder(studio);
    this.markers = new Markers(studio);
    this.noteRows = new NoteRows(studio);
    this.placement = new Placement(studio);
    this.pathMotion = new PathMotion(studio);
    this.snapping = new Snapping(studio);
    this.arrangement = new Arrangement(studio);
    this.formats = new Formats(studio);
    this.tracks = new Tracks(studio);
    this.trackEdits = new TrackEdits(studio);
    this.sum = new Sum(studio);
    this.trim = new Trim(studio);
    this.media = new MediaImport(studio);
    this.patches = new Patches(studio);
    this.signals = new Signals(studio);
    this.signalEdits = new SignalEdits(studio);
    this.tempo = new Tempo(studio);
    this.playback = new Playback(studio);
    this.sound = new Sound(studio);
    this.exports = new Exports(studio);
    this.newExport = new NewExport(studio);
    this.wantedFormats = new WantedFormats(studio);
    this.exportSettings = new ExportSettings(studio);
    this.reviews = new Reviews(studio);
    this.excerpts = new Excerpts(studio);
    this.posts = new Posts(studio);
    this.batch = new Batch(studio);
    this.cues = new Cues(studio);
    this.cueEdits = new CueEdits(studio);
    this.cueChecks = new CueChecks(studio);
    this.alignment = new Alignment(studio);
    this.tapping = new Tapping(studio);
    this.showing = new Showing(studio);
    this.typefaces = new Typefaces(studio);
    this.effectChoices = new EffectChoices(studio);
    this.effectChains = new EffectChains(studio);
    this.beforeAfter = new BeforeAfter(studio);
    this.comparison = new Comparison(studio);
    this.projectHistory = new ProjectHistory(studio);
    this.readings = new Readings(studio);
    this.closeView = new CloseView(studio);
    this.manual = new Manual(studio);
    this.messages = new Messages();
    this.soundImport = new SoundImport({
      address: () => `/sounds?project=${studio.project.state.id}${studio.trackEdits.adding ? "&track=beside" : ""}`,
      brought: (_, note) => (studio.trackEdits.adding ? studio.trackEdits.brought() : studio.page.brought(note)),
      wave: (values) => paintImport(studio.page.refs.listening, values),
      taken: (files) => studio.media.dropPicture(files) || studio.trackEdits.takeDropped(files),
    });

    this.layout = new Layout(studio);
    this.visit = new Visit(studio);

    this.page = new Page(studio);
    this.dividers = new Dividers(studio);
    this.keys = new Keys(studio);
    this.stage = new StageView(studio);
    this.threeFrames = new ThreeFrames(studio);
    this.moments = new Moments(studio);
    this.timeStrip = new Strip(studio);
    this.lanes = new LanesPanel(studio);
    this.trackLanes = new TrackLanesPanel(studio);
    this.layerList = new LayerList(studio);
    this.grips = new LayerGrips(studio);
    this.outlines = new OutlinePoints(studio);
    this.pen = new Pen(studio);
    this.partPoints = new PartPoints(studio);
    this.dropper = new Dropper(studio);
    this.fields = new SettingFields(studio);
    this.settingMenu = new SettingMenu(studio);
    this.labelDrag = new LabelDrag(studio);
    this.ballGrips = new BallGrips(studio);
    this.colourGrips = new ColourGrips(studio);
    this.cameraGrips = new CameraGrips(studio);
    this.curveField = new CurveField(studio);
    this.bandField = new BandField(studio);
    this.gradients = new GradientField(studio);
    this.stopFields = new StopFields(studio);
    this.palettes = new PalettePanel(studio);
    this.presets = new PresetPicker(studio);
    this.sockets = new Sockets(studio);
    this.patchScope = new PatchScope(studio);
    this.patchList = new PatchList(studio);
    this.curvePanel = new KeyCurvePanel(studio);
    this.signalCurve = new SignalCurve(studio);
    this.drawnCurve = new DrawnCurve(studio);
    this.spectrumPanel = new SpectrumPanel(studio);
    this.stageText = new StageText(studio);
    this.cueList = new CueList(studio);
    this.cueLanes = new CueLanesPanel(studio);
    return studio;
  }

  /**
   * Called by Alpine once the page stands.
   * @param {any} refs
   * @param {any} nextTick
   */
  async begin(refs, nextTick) {
    this.page.refs = refs;
    this.page.nextTick = nextTick;
    this.project.accept(this.given.project);
    this.cues.refresh();
    Object.assign(this.views, makeViews(this, refs));
    this.views.player = new Player(() => this.playback.stopped());
    this.page.listen();
    const [signal] = this.signals.signals;
    if (signal) this.signals.chosenSignal = signal.id;
    const [front] = this.layers.layersFrontFirst;
    if (front) this.selection.choose(front);
    this.layout.restore();
    this.keyMap.restore();
    this.partClipboard.restore();
    this.visit.restore();
    this.hints.restore();
    this.newExport.restore();
    window.addEventListener("pagehide", () => this.visit.keep());
    document.addEventListener("keydown", (event) => {
      this.playback.settle();
      this.keys.key(event);
    });
    document.addEventListener("keyup", (event) => this.keys.released(event));
    window.addEventListener("blur", () => this.beforeAfter.release());
    document.addEventListener("pointerdown", () => this.playback.settle(), true);
    window.addEventListener("beforeunload", (event) => {
      if (this.project.waiting.length) event.preventDefault();
    });
    this.sum.listen();
    await this.sound.loadFacts();
    this.page.changed();
    this.page.refresh();
    this.page.roomChanged();
    this.exports.loadExports();
    this.media.checkMissing();
  }
}

/** @type {<T>(object: T) => T} an object that Alpine leaves as it is: clocks and canvases must not be wrapped */
const outside = (object) => Object.assign(/** @type {any} */ (object), { __v_skip: true });
