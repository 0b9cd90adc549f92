// Where the playhead is while it plays. Not reactive: it changes with every frame.

export const playhead = { frame: 0, frames: 0, rate: 30, inS: 0, told: 0 };
