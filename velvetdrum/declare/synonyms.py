"""Other words that people look for a setting by: common ones, and those that it was called by before."""

from __future__ import annotations

_WORDS: dict[str, tuple[str, ...]] = {
    "amplitude": ("swell", "height", "strength", "amount"),
    "angle": ("rotation", "direction", "turn", "degrees"),
    "arrangement": ("form", "layout"),
    "attack": ("rise", "speed", "response", "smoothing"),
    "bands": ("bars", "count", "number", "columns"),
    "blend mode": ("blend", "mix", "compositing", "multiply", "screen", "add"),
    "blur": ("soft", "softness", "defocus"),
    "colour": ("color", "tint", "hue", "fill"),
    "corner radius": ("round", "rounded", "rounding"),
    "delay": ("lag", "latency", "late"),
    "depth": ("goes back", "far", "z", "thickness"),
    "direction": ("angle", "way", "turn"),
    "family": ("font", "typeface"),
    "feather": ("soft edge", "softness", "blur"),
    "focus": ("sharp is", "depth of field"),
    "font size": ("size", "letter size"),
    "gain": ("volume", "level", "strength", "brightness"),
    "gap": ("space", "spacing", "distance"),
    "gradient": ("colours", "stops", "ramp", "palette"),
    "height": ("reach", "size", "tall", "y"),
    "highest": ("high", "top frequency", "maximum"),
    "in perspective": ("lies down", "3d", "tilt", "floor"),
    "layer opacity": ("transparency", "alpha", "fade", "see through"),
    "letter spacing": ("tracking", "kerning"),
    "light elevation": ("light's height", "angle of the light", "sun"),
    "line height": ("leading", "line spacing"),
    "loud": ("ceiling", "top level", "sensitivity", "gain"),
    "lowest": ("low", "bottom frequency", "minimum"),
    "minimum height": ("least height", "rest"),
    "occlusion": ("hides", "depth test"),
    "offset x": ("shift", "move", "left", "right"),
    "offset y": ("shift", "move", "up", "down"),
    "opacity": ("transparency", "alpha", "fade"),
    "operation": ("how", "mode", "combine"),
    "perspective": ("field of view", "3d", "stands"),
    "position x": ("place", "left", "right", "move", "horizontal"),
    "position y": ("place", "up", "down", "move", "vertical"),
    "quiet": ("floor", "noise floor", "threshold", "sensitivity"),
    "radius": ("size", "distance"),
    "rate of change": ("boil", "speed", "evolution"),
    "release": ("fall", "decay", "smoothing", "response"),
    "rotation": ("turn", "spin", "angle", "roll"),
    "scale": ("size", "zoom"),
    "scatter": ("spread", "random", "jitter"),
    "seed": ("random", "chance", "variation"),
    "shading": ("light", "shadow"),
    "size": ("scale", "width", "height"),
    "softness": ("feather", "blur", "knee"),
    "speed": ("rate", "tempo", "velocity"),
    "start": ("begin", "from"),
    "stroke": ("outline", "border", "line"),
    "threshold": ("level", "cutoff", "knee"),
    "tilt": ("slope", "lean"),
    "tolerance": ("near", "similar"),
    "trigger": ("by", "hit", "beat"),
    "typeface": ("font", "family"),
    "wave source": ("waved by", "spectrum", "waveform"),
    "width": ("size", "wide", "thickness", "x"),
}


def synonyms_of(label: str) -> tuple[str, ...]:
    """Other words for a setting of this label, in small letters; those for a word in it, too.

    Parameters
    ----------
    label
        The label, as the page shows it.
    """
    name = label.lower()
    found = list(_WORDS.get(name, ()))
    for word, others in _WORDS.items():
        if word != name and f" {word} " in f" {name} ":
            found += others
    return tuple(dict.fromkeys(found))
