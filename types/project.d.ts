// Made from the document's schema and the page's declarations by tools/make_page_types.py: `make generated`.

/** Values of settings by name, each of its setting's type. */
type Values = Record<string, any>;

interface FrameShape {
  width: number;
  height: number;
}

interface Track {
  id: string;
  media: string;
  name: string;
  in_s: number;
  out_s: number;
  /** Where its in point lies on the timeline; as in_s without it. */
  at_s?: number;
  /** How long it goes on, looped where that is longer. */
  length_s?: number;
  colour?: string;
  settings?: Values;
  gain?: {
    time_s: number;
    value: any;
  }[];
}

interface BeatValues {
  /** The beats found in the recording, an even grid, a map of tempos and meters, or the clicks of a track. */
  source?: "measured" | "typed" | "map" | "clicks";
  /** The sum of all tracks, one track before its fader, or a part of either. */
  listens?: string;
  /** Which of the tempos found in the recording: a triplet's third, or its beat. */
  reading?: "1" | "2" | "3";
  /** When the measured tempo is the half or the double of the one that you tap. */
  factor?: "1/4" | "1/2" | "1" | "2" | "4";
  /** Moves all beats on, or back. */
  shift?: number;
  /** Beats per minute of the even grid. */
  tempo_bpm?: number;
  /** A beat of the even grid, or the first one of the map, in seconds of the recording. */
  anchor_s?: number;
  /** Beats in a bar. */
  bar?: number;
  /** A bar begins on the beat nearest to this second of the recording. */
  first_bar_s?: number;
  /** From which bar on which tempo and which meter holds; at once, or gradually. */
  tempos?: {
    bar: number;
    beat?: number;
    tempo_bpm: number;
    note?: "1/2" | "3/8" | "1/4" | "3/16" | "1/8" | "1/16";
    meter?: string;
    gradual?: boolean;
  }[];
  /** Beats before the first whole bar of the map. */
  pickup?: number;
  /** Beats that were dragged: the second where each was, and where it is; those between go along. */
  moved?: number[][];
}

interface Signal {
  id: string;
  kind: string;
  name: string;
  colour: string;
  settings: Values;
}

interface Marker {
  time_s: number;
  text: string;
  /** True for the beginning of a chapter. */
  chapter?: boolean;
}

interface Cue {
  start_s: number;
  end_s: number;
  text?: string;
  speaker?: string;
  words?: any[][];
}

interface CueTrack {
  name?: string;
  /** BCP 47, like en. */
  language?: string;
  /** By id; times are of the recording. */
  cues?: Record<string, Cue>;
}

interface Patch {
  /** Name of the setting of this layer. */
  setting: string;
  /** Id of the signal. */
  signal: string;
  /** Value at 0: in the setting's unit, a factor, a colour or a gradient. */
  from: any;
  /** Value at 1. */
  to: any;
  /** A gradient that a colour moves along, in place of from and to. */
  along?: null | {
    at: number;
    colour: string;
  }[];
  join?: "replace" | "add" | "multiply" | "poses";
  on?: boolean;
  lag_ms?: number;
}

interface Part {
  id: string;
  kind: string;
  /** What is off counts as if it were not there. */
  on?: boolean;
  settings: Values;
}

interface Keyframe {
  time_s: number;
  /** In the setting's unit, or a colour, or a gradient. */
  value: any;
  /** linear, ease, ease-in, ease-out, ease-in-out, hold, cubic-bezier(…) or steps(…), as in CSS; to the next one. */
  ease?: string;
}

interface Layer {
  id: string;
  kind: string;
  name: string;
  visible: boolean;
  /** While any layer is solo, only solo layers are drawn. */
  solo?: boolean;
  /** The studio refuses to change a locked layer. */
  locked?: boolean;
  settings: Values;
  patches: Patch[];
  /** Id of the group that it is in, or empty. */
  group: string;
  effects: Part[];
  masks: Part[];
  keyframes: Record<string, Keyframe[]>;
  /** Values for frames of one shape only; they stand in the place of settings and keyframes. */
  frames: {
    /** Settings, under their names, or SORT:ID:setting of a part. */
    wide?: Record<string, any>;
    /** Settings, under their names, or SORT:ID:setting of a part. */
    square?: Record<string, any>;
    /** Settings, under their names, or SORT:ID:setting of a part. */
    tall?: Record<string, any>;
  };
}

interface Project {
  format: "velvetdrum-project";
  version: 7;
  name: string;
  frame: FrameShape;
  /** Frames per second, exact. */
  rate: string;
  /** Null: as long as the used part of the track. */
  length_s: null | number;
  tracks: Track[];
  /** The used part of the timeline; without it all of the tracks. */
  used?: {
    in_s: number;
    out_s: number;
  };
  /** Where the beats are: as measured, with corrections, at a typed or tapped tempo, by a map, or as clicked. */
  beats: BeatValues;
  signals: Signal[];
  markers: Marker[];
  cue_tracks: Record<string, CueTrack>;
  tags: {
    title?: string;
    artist?: string;
    speaker?: string;
    date?: string;
  };
  /** Colours by name, which layers are recoloured from together. */
  colours?: Record<string, string>;
  look?: {
    about?: string;
    family?: string;
    uses?: "song" | "voice" | "loop"[];
    pace?: "calm" | "lively";
    roles?: Record<string, "kick" | "bass" | "snare" | "voice" | "lead" | "shimmer" | "overall" | "beat" | "bars">;
    /** How far settings lie from what fits, by the id of their layer or signal. */
    distances?: Record<string, Record<string, number>>;
    places?: {
      kind: "title" | "artist" | "speaker" | "cover" | "film" | "words";
      optional?: boolean;
      fills?: Record<string, string>;
      instead?: string[];
    }[];
    tags?: string[];
  };
  /** How people work on the project; nothing of it is drawn in a video. */
  workspace?: {
    units?: {
      length?: "%" | "px";
      time?: "s" | "f" | "timecode" | "b";
      angle?: "\u00b0" | "turn";
      level?: "dB" | "x";
    };
    guides?: {
      /** x: a line down, y: one across. */
      axis: "x" | "y";
      /** Per cent of the side. */
      at: number;
    }[];
    /** Between its lines, in per cent of the frame's short side; null: no grid. */
    grid?: null | number;
  };
  /** Notes by the ids of their lists: begin and length in seconds, pitch, velocity, channel. */
  notes?: Record<string, {
    name: string;
    rows: any[][];
    tempo_bpm?: number;
    bar?: number;
    map?: {
      bar: number;
      beat?: number;
      tempo_bpm: number;
      note?: "1/2" | "3/8" | "1/4" | "3/16" | "1/8" | "1/16";
      meter?: string;
      gradual?: boolean;
    }[];
  }>;
  layers: Layer[];
}

interface Setting {
  advanced: boolean;
  choices: [string, string][];
  clear: boolean;
  curve: string;
  default: any;
  group: string;
  help: string;
  hi: number;
  label: string;
  lines: number;
  lo: number;
  media: string;
  moves: boolean;
  name: string;
  names_layer: boolean;
  numeric: boolean;
  step: number;
  synonyms: string[];
  type: string;
  unit: string;
  when: [string, ((number | string)[])[]][];
}

interface CueFormat {
  keeps: string[];
  suffix: string;
  title: string;
}

interface Sizing {
  across: string[];
  both: string[];
  down: string[];
  when: [string, (number | string)[]][];
}

interface LayerKind {
  balls: string[][];
  camera: {
    across?: string;
    near?: string;
    up?: string;
  };
  depth: number;
  drawnOn: string;
  drawnPath: string;
  drops: {
    clip?: string;
    svg?: string;
    picture?: string;
  };
  fits: boolean;
  gradientPlace: {
    points: [string, string][];
    size: string;
    turn: string;
  };
  help: string;
  kind: string;
  levelScale: {
    high: string;
    low: string;
    marks: string[];
    stops: string;
    stops_when: [string, string[]][];
  };
  linked: string[];
  members: boolean;
  outlined: string;
  parted: string;
  running: {
    in?: string;
    slip?: string;
    speed?: string;
  };
  settings: Setting[];
  sizings: Sizing[];
  sounding: string[];
  sounds: [string, string[]][];
  summary: string;
  title: string;
  turned: string;
}

interface PartKind {
  corners: string;
  follows: string;
  help: string;
  kind: string;
  points: [string, string][];
  radii: string[];
  settings: Setting[];
  sizes: string[];
  summary: string;
  title: string;
  turns: string;
}

interface PartSort {
  help: string;
  kinds: PartKind[];
  listed: "effects" | "masks";
  name: string;
  optional: boolean;
  title: string;
}

interface Place {
  high: number;
  low: number;
  name: string;
}

interface SignalKind {
  band: boolean;
  beats: boolean;
  drawn: string;
  help: string;
  kind: string;
  reads: string;
  settings: Setting[];
  summary: string;
  title: string;
  voice: boolean;
}

interface VideoFormat {
  alpha: boolean;
  group: string;
  help: string;
  label: string;
  many: boolean;
  name: string;
  sized: boolean;
  sound: boolean;
  suffix: string;
}

interface Given {
  areas: Record<string, [number, number, number, number][]>;
  axis: number[];
  beatSettings: Setting[];
  colours: string[];
  cueFormats: CueFormat[];
  frames: Record<string, number[]>;
  joins: {
    name: string;
    text: string;
  }[];
  kinds: LayerKind[];
  languages: {
    code: string;
    name: string;
  }[];
  leftOut: Record<string, string>;
  loudest: number;
  partSorts: PartSort[];
  places: Place[];
  rates: Record<string, string>;
  roles: {
    name: string;
    text: string;
  }[];
  signalKinds: SignalKind[];
  soundParts: {
    all: string;
    harmonic: string;
    percussive: string;
  };
  speeds: {
    help: string;
    name: string;
    title: string;
  }[];
  sum: {
    key: string;
    ready: boolean;
    sentence: string;
    share: number;
  };
  tags: {
    name: string;
    title: string;
  }[];
  trackColours: string[];
  trackKind: {
    help: string;
    kind: string;
    settings: Setting[];
    summary: string;
    title: string;
  };
  units: {
    choices: {
      name: string;
      text: string;
    }[];
    sort: string;
  }[];
  videoFormats: VideoFormat[];
}
