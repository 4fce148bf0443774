//! A show as C99 that a person compiles for their board: no heap, no library, the same formulas.

use orthavis_model::document::{Build, EffectKind, Load, PixelEffect, Scene, ShowInput};
use orthavis_physics::show::{Chain, Show};
use std::fmt::Write;

/// The two files.
#[derive(Clone, Debug, PartialEq)]
pub struct Source {
    /// `show.h`.
    pub header: String,
    /// `show.c`.
    pub body: String,
}

/// A literal that reads back as the same number.
fn number(value: f64) -> String {
    let text = format!("{value:?}");
    if text.contains(['.', 'e', 'E']) { text } else { format!("{text}.0") }
}

/// Within a comment.
fn plain(text: &str) -> String {
    text.replace("*/", "* /").replace(['\n', '\r'], " ")
}

/// Everything that a scene is made of, numbered for C.
#[derive(Default)]
struct Parts<'a> {
    /// Effects, nested ones before those that need them.
    effects: Vec<String>,
    kinds: Vec<EffectKind>,
    colours: Vec<[f64; 3]>,
    /// Rows of tables: word and effect.
    rows: Vec<(usize, usize)>,
    inputs: Vec<ShowInput>,
    known: Vec<Option<&'a PixelEffect>>,
}

impl<'a> Parts<'a> {
    fn palette(&mut self, colours: &[[f64; 3]]) -> usize {
        let first = self.colours.len();
        self.colours.extend_from_slice(colours);
        first
    }

    /// An effect's number.
    fn effect(&mut self, effect: &'a PixelEffect) -> usize {
        if let Some(at) = self.known.iter().position(|known| *known == Some(effect)) {
            return at;
        }
        let table = if let PixelEffect::Table(own) = effect { Some(own) } else { None };
        let rows: Vec<(usize, usize)> = table
            .iter()
            .flat_map(|own| &own.table)
            .map(|row| {
                let says = effect.input().map_or(&[][..], |input| input.says());
                let word = says.iter().position(|word| *word == row.word).unwrap_or(0);
                let own = match &row.effect {
                    Some(effect) => self.effect(effect),
                    None => self.plain_colour(row.colour.unwrap_or([0.0; 3])),
                };
                (word, own)
            })
            .collect();
        let (first_row, row_count) = (self.rows.len(), rows.len());
        self.rows.extend(rows);
        let palette = effect.palette().to_vec();
        let first = self.palette(&palette);
        let input = effect.input().map_or(0, |input| input as usize);
        self.inputs.extend(effect.input());
        let figures = Figures::of(effect);
        let text = format!(
            "{{ {}, {}, {}, {}, {}, {}, {}UL, {}, {}, {}, {} }}",
            self.kind(effect.kind()),
            number(effect.period_s().unwrap_or(1.0)),
            number(figures.spread),
            number(figures.direction),
            number(figures.duty),
            first,
            figures.seed,
            palette.len(),
            input,
            first_row,
            row_count
        );
        self.effects.push(text);
        self.known.push(Some(effect));
        self.known.len() - 1
    }

    fn kind(&mut self, kind: EffectKind) -> String {
        if !self.kinds.contains(&kind) {
            self.kinds.push(kind);
        }
        format!("SHOW_{}", kind.word().to_uppercase())
    }

    fn plain_colour(&mut self, colour: [f64; 3]) -> usize {
        let first = self.palette(&[colour]);
        let kind = self.kind(EffectKind::Steady);
        self.effects.push(format!("{{ {kind}, 1.0, 3.0, 1.0, 0.5, {first}, 0UL, 1, 0, 0, 0 }}"));
        self.known.push(None);
        self.effects.len() - 1
    }
}

/// What C gets of every effect, whether its kind looks at it or not.
struct Figures {
    spread: f64,
    direction: f64,
    duty: f64,
    seed: u32,
}

impl Figures {
    fn of(effect: &PixelEffect) -> Figures {
        let unused = Figures { spread: 3.0, direction: 1.0, duty: 0.5, seed: 0 };
        match effect {
            PixelEffect::Blink(own) => Figures { direction: own.direction.sign(), duty: own.duty, ..unused },
            PixelEffect::Breathe(own) => Figures { direction: own.direction.sign(), ..unused },
            PixelEffect::Chase(own) => Figures { direction: own.direction.sign(), spread: own.spread, ..unused },
            PixelEffect::ToAndFro(own) => Figures { direction: own.direction.sign(), spread: own.spread, ..unused },
            PixelEffect::Rainbow(own) => Figures { direction: own.direction.sign(), ..unused },
            PixelEffect::Gradient(own) => Figures { direction: own.direction.sign(), ..unused },
            PixelEffect::Ember(own) => Figures { seed: own.seed, ..unused },
            PixelEffect::Steady(_) | PixelEffect::Level(_) | PixelEffect::Mix(_) | PixelEffect::Table(_) => unused,
        }
    }
}

/// A scene as C; `frame_us` is what a frame takes the tool itself, where somebody measured it.
pub fn source(build: &Build, scene: &Scene, frame_us: Option<f64>) -> Source {
    let show = Show::of(build, scene);
    let mut parts = Parts::default();
    // Pieces: first number over all outputs, count, effect, level.
    let mut pieces = Vec::new();
    let mut first = 0;
    let mut starts = Vec::new();
    for chain in &show.chains {
        starts.push(first);
        for piece in &chain.pieces {
            let lit = piece.lights.iter().find_map(|light| scene.lights.get(&build.lights[*light].id).filter(|lit| lit.level > 0.0));
            let (effect, level) = match lit {
                None => (parts.plain_colour([0.0; 3]), 1.0),
                Some(lit) => match &lit.effect {
                    Some(effect) => (parts.effect(effect), lit.level),
                    None => (parts.plain_colour(lit.colour.map(|channel| lit.level * channel)), 1.0),
                },
            };
            pieces.push(format!("{{ {}, {}, {effect}, {} }}", first + piece.first, piece.count, number(level)));
        }
        first += chain.count;
    }
    let limits = limits(build, &show.chains, &starts);
    let header = header(build, scene, &show.chains, &starts, first, &parts, frame_us, pieces.len());
    let body = body(&parts, &pieces, &limits);
    Source { header, body }
}

/// Lights that a limit counts: first number, count, full current of each channel, A.
type Counted = Vec<(usize, usize, [f64; 3])>;

/// Of each controller with a limit: its limit, what its pixels take dark, A, and its lights.
fn limits(build: &Build, chains: &[Chain], starts: &[usize]) -> Vec<(f64, f64, Counted)> {
    let of = |index: usize| {
        let limit = build.controllers[index].limit_a?;
        let mut idle = 0.0;
        let mut lights = Vec::new();
        for (chain, start) in chains.iter().zip(starts).filter(|(chain, _)| chain.controller == Some(index)) {
            for piece in &chain.pieces {
                for light in &piece.lights {
                    if let Load::Pixels(pixels) = &build.lights[*light].load {
                        idle += pixels.idle_a * f64::from(pixels.count);
                        lights.push((start + piece.first, (pixels.count as usize).min(piece.count), pixels.channel_a));
                    }
                }
            }
        }
        Some((limit, idle, lights))
    };
    (0..build.controllers.len()).filter_map(of).collect()
}

#[allow(clippy::too_many_arguments, reason = "each stands in the comment at its head")]
fn header(build: &Build, scene: &Scene, chains: &[Chain], starts: &[usize], count: usize, parts: &Parts<'_>, frame_us: Option<f64>, pieces: usize) -> String {
    let mut text = String::new();
    let speed = frame_us.map_or(String::new(), |us| format!("\n * The same frame takes the tool {us:.1} microseconds on the machine that wrote this file."));
    let constants = 24 * parts.colours.len() + 56 * parts.effects.len() + 16 * pieces + 4 * parts.rows.len();
    let _ = write!(
        text,
        "/*\n * {}: {}\n *\n * RAM: {} bytes for the codes, given by the caller, and less than 300 bytes of stack; nothing is kept between frames and\n * there is no heap. Constants: about {constants} bytes. Time: some {} operations on doubles a frame.{speed}\n *\n * Nothing that flashes may be played faster than it is written here.\n */\n#ifndef SHOW_H\n#define SHOW_H\n\n#include <stdint.h>\n\n",
        plain(&build.name),
        plain(&scene.name),
        3 * count,
        40 * count
    );
    let _ = writeln!(text, "/* Pixels of all outputs, one after the other. */\n#define SHOW_PIXELS {count}");
    for (chain, start) in chains.iter().zip(starts) {
        let _ = writeln!(text, "/* {}: from pixel {start} on, {} of them. */", plain(&chain.name), chain.count);
    }
    text.push_str("\n/* Places in `inputs`: each says 0 to 1; of words the first is 0 and the last 1. */\nenum show_input {\n");
    for (at, (word, input)) in ShowInput::WORDS.iter().enumerate() {
        let says = if input.says().is_empty() { String::new() } else { format!(" /* {} */", input.says().join(", ")) };
        let _ = writeln!(text, "    SHOW_INPUT_{} = {at},{says}", word.to_uppercase());
    }
    let _ = write!(
        text,
        "    SHOW_INPUTS = {}\n}};\n\n/*\n * Codes at a moment in milliseconds: red, green, blue of each pixel. `inputs` has SHOW_INPUTS figures, or is NULL for the\n * usual ones.\n */\nvoid show_frame(uint32_t t_ms, const double *inputs, uint8_t out[3 * SHOW_PIXELS]);\n\n#endif\n",
        ShowInput::WORDS.len()
    );
    text
}

fn body(parts: &Parts<'_>, pieces: &[String], limits: &[(f64, f64, Counted)]) -> String {
    let mut c = String::from("#include \"show.h\"\n\n");
    tables(&mut c, parts, pieces);
    helpers(&mut c, parts);
    colour_of_a_pixel(&mut c, parts);
    let _ = write!(
        c,
        "void show_frame(uint32_t t_ms, const double *inputs, uint8_t out[3 * SHOW_PIXELS])\n{{\n    double t = (double)t_ms / 1000.0, colour[3];\n    uint16_t piece, i;\n    int k;\n    if (!inputs)\n        inputs = show_usual;\n    for (piece = 0; piece < {}; piece++) {{\n        const struct show_piece *own = &show_pieces[piece];\n        for (i = 0; i < own->count; i++) {{\n            show_colour(&show_effects[own->effect], i, own->count, t, inputs, colour);\n            for (k = 0; k < 3; k++) {{\n                double code = 255.0 * (colour[k] * own->level) + 0.5;\n                out[3 * (own->first + i) + k] = (uint8_t)(code > 255.0 ? 255.0 : code < 0.0 ? 0.0 : code);\n            }}\n        }}\n    }}\n",
        pieces.len()
    );
    for (limit, idle, lights) in limits {
        limiter(&mut c, *limit, *idle, lights);
    }
    c.push_str("}\n");
    c
}

/// Effects that move with the time.
const MOVING: [EffectKind; 6] = [EffectKind::Blink, EffectKind::Breathe, EffectKind::Chase, EffectKind::ToAndFro, EffectKind::Rainbow, EffectKind::Gradient];

impl Parts<'_> {
    fn has(&self, kind: EffectKind) -> bool {
        self.kinds.contains(&kind)
    }

    fn any(&self, kinds: &[EffectKind]) -> bool {
        kinds.iter().any(|kind| self.has(*kind))
    }
}

/// Colours, effects, rows and pieces.
fn tables(c: &mut String, parts: &Parts<'_>, pieces: &[String]) {
    let mut kinds: Vec<&EffectKind> = parts.kinds.iter().collect();
    kinds.sort();
    let names: Vec<String> = kinds.iter().map(|kind| format!("SHOW_{}", kind.word().to_uppercase())).collect();
    let _ = writeln!(c, "enum show_kind {{ {} }};\n", names.join(", "));
    c.push_str("struct show_effect {\n    enum show_kind kind;\n    double period, spread, direction, duty;\n    uint16_t colour;\n    uint32_t seed;\n    uint16_t colours, input, row, rows;\n};\n\nstruct show_piece {\n    uint16_t first, count, effect;\n    double level;\n};\n\n");
    let colours: Vec<String> = parts.colours.iter().map(|colour| format!("{{ {} }}", colour.map(number).join(", "))).collect();
    let _ = writeln!(c, "static const double show_colours[{}][3] = {{\n    {}\n}};\n", colours.len(), colours.join(",\n    "));
    let _ = writeln!(c, "static const struct show_effect show_effects[{}] = {{\n    {}\n}};\n", parts.effects.len(), parts.effects.join(",\n    "));
    if !parts.rows.is_empty() {
        let rows: Vec<String> = parts.rows.iter().map(|(word, effect)| format!("{{ {word}, {effect} }}")).collect();
        let _ = writeln!(c, "/* Word and effect. */\nstatic const uint16_t show_rows[{}][2] = {{ {} }};\n", rows.len(), rows.join(", "));
        let says: Vec<String> = ShowInput::WORDS.iter().map(|(_, input)| input.says().len().to_string()).collect();
        let _ = writeln!(c, "/* Words that each input says. */\nstatic const uint8_t show_says[SHOW_INPUTS] = {{ {} }};\n", says.join(", "));
    }
    let _ = writeln!(c, "static const struct show_piece show_pieces[{}] = {{\n    {}\n}};\n", pieces.len(), pieces.join(",\n    "));
    let usual: Vec<String> = ShowInput::WORDS.iter().map(|(_, input)| number(input.usual())).collect();
    let _ = writeln!(c, "static const double show_usual[SHOW_INPUTS] = {{ {} }};\n", usual.join(", "));
}

/// Functions that this show's effects need.
fn helpers(c: &mut String, parts: &Parts<'_>) {
    use EffectKind::*;
    if parts.any(&MOVING) || parts.has(Ember) {
        c.push_str("/* Part of a number above the next whole one below. */\nstatic double show_fraction(double x)\n{\n    double whole = (double)(int64_t)x;\n    if (whole > x)\n        whole -= 1.0;\n    return x - whole;\n}\n\n");
    }
    if parts.has(Breathe) {
        c.push_str("/* (1 - cos 2 pi p) / 2, which is the square of sin pi p: a power series, folded to a quarter. */\nstatic double show_breath(double p)\n{\n    double q = p > 0.5 ? 1.0 - p : p, turned = q > 0.25 ? 0.5 - q : q;\n    double x = 3.14159265358979323846 * turned, y = x * x;\n    double s = x * (1.0 - y / 6.0 * (1.0 - y / 20.0 * (1.0 - y / 42.0 * (1.0 - y / 72.0 * (1.0 - y / 110.0)))));\n    return q > 0.25 ? 1.0 - s * s : s * s;\n}\n\n");
    }
    if parts.any(&[Level, Mix, Ember]) {
        c.push_str("/* Along the colours, the first at 0 and the last at 1. */\nstatic void show_along(const struct show_effect *e, double share, double *out)\n{\n    double x;\n    uint16_t first, next;\n    int k;\n    share = share < 0.0 ? 0.0 : share > 1.0 ? 1.0 : share;\n    x = share * (double)(e->colours - 1);\n    first = (uint16_t)x;\n    if (first > e->colours - 1)\n        first = (uint16_t)(e->colours - 1);\n    next = (uint16_t)(first + 1 > e->colours - 1 ? e->colours - 1 : first + 1);\n    for (k = 0; k < 3; k++) {\n        double a = show_colours[e->colour + first][k], b = show_colours[e->colour + next][k];\n        out[k] = a + (x - (double)first) * (b - a);\n    }\n}\n\n");
    }
    if parts.has(Rainbow) {
        c.push_str("static void show_hue(double share, double *out)\n{\n    double x = 6.0 * share, rest = show_fraction(x);\n    switch ((int)x % 6) {\n    case 0: out[0] = 1.0; out[1] = rest; out[2] = 0.0; break;\n    case 1: out[0] = 1.0 - rest; out[1] = 1.0; out[2] = 0.0; break;\n    case 2: out[0] = 0.0; out[1] = 1.0; out[2] = rest; break;\n    case 3: out[0] = 0.0; out[1] = 1.0 - rest; out[2] = 1.0; break;\n    case 4: out[0] = rest; out[1] = 0.0; out[2] = 1.0; break;\n    default: out[0] = 1.0; out[1] = 0.0; out[2] = 1.0 - rest; break;\n    }\n}\n\n");
    }
    if parts.has(Ember) {
        c.push_str("/* Value noise: 0 to 1 at whole numbers, smooth between. */\nstatic double show_lattice(int64_t a, int64_t b, uint64_t seed)\n{\n    uint64_t z = (uint64_t)a * 0x9E3779B97F4A7C15ULL + (uint64_t)b * 0xBF58476D1CE4E5B9ULL + seed;\n    z += 0x9E3779B97F4A7C15ULL;\n    z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9ULL;\n    z = (z ^ (z >> 27)) * 0x94D049BB133111EBULL;\n    z = z ^ (z >> 31);\n    return (double)z / 18446744073709551616.0;\n}\n\nstatic double show_noise(double u, double w, uint64_t seed)\n{\n    double f = show_fraction(u), g = show_fraction(w), low, high;\n    int64_t a = (int64_t)(u - f), b = (int64_t)(w - g);\n    f = f * f * (3.0 - 2.0 * f);\n    g = g * g * (3.0 - 2.0 * g);\n    low = show_lattice(a, b, seed) + f * (show_lattice(a + 1, b, seed) - show_lattice(a, b, seed));\n    high = show_lattice(a, b + 1, seed) + f * (show_lattice(a + 1, b + 1, seed) - show_lattice(a, b + 1, seed));\n    return low + g * (high - low);\n}\n\n");
    }
}

/// The colour of one pixel of a piece.
fn colour_of_a_pixel(c: &mut String, parts: &Parts<'_>) {
    use EffectKind::*;
    c.push_str("static void show_colour(const struct show_effect *e, uint16_t i, uint16_t count, double t, const double *inputs, double *out)\n{\n    const double *first;\n    double scale = 1.0;\n    int k;\n");
    let uses_p = parts.any(&MOVING);
    if uses_p {
        c.push_str("    double p;\n");
    }
    if parts.has(Table) {
        c.push_str("    while (e->kind == SHOW_TABLE) {\n        double says = inputs[e->input] * (double)(show_says[e->input] - 1);\n        uint16_t word = (uint16_t)(says + 0.5), row, found = 0;\n        for (row = 0; row < e->rows; row++) {\n            if (show_rows[e->row + row][0] == word) {\n                found = row;\n                break;\n            }\n        }\n        e = &show_effects[show_rows[e->row + found][1]];\n    }\n");
    }
    c.push_str("    first = show_colours[e->colour];\n");
    if uses_p {
        c.push_str("    p = show_fraction(e->direction * t / e->period);\n");
    }
    // What one show does not use is still a parameter.
    c.push_str("    (void)i;\n    (void)count;\n    (void)t;\n    (void)inputs;\n    switch (e->kind) {\n");
    let mut case = |kind: EffectKind, code: &str| {
        if parts.has(kind) {
            let _ = write!(c, "    case SHOW_{}:\n{code}", kind.word().to_uppercase());
        }
    };
    case(Steady, "        break;\n");
    case(
        Blink,
        "        if (p >= e->duty) {\n            if (e->colours > 1)\n                first = show_colours[e->colour + 1];\n            else\n                scale = 0.0;\n        }\n        break;\n",
    );
    case(Breathe, "        scale = show_breath(p);\n        break;\n");
    case(
        Chase,
        "        scale = e->direction * (p * (double)count - (double)i);\n        if (scale < 0.0)\n            scale += (double)count;\n        scale = 1.0 - scale / e->spread;\n        break;\n",
    );
    case(
        ToAndFro,
        "        scale = 2.0 * p - 1.0;\n        scale = (1.0 - (scale < 0.0 ? -scale : scale)) * ((double)count - 1.0) - (double)i;\n        scale = 1.0 - (scale < 0.0 ? -scale : scale) / e->spread;\n        break;\n",
    );
    case(Rainbow, "        show_hue(show_fraction(p + (double)i / (double)count), out);\n        return;\n");
    case(
        Gradient,
        "        {\n            double x = show_fraction((double)i / (double)count + p) * (double)e->colours;\n            uint16_t one = (uint16_t)x;\n            if (one > e->colours - 1)\n                one = (uint16_t)(e->colours - 1);\n            for (k = 0; k < 3; k++) {\n                double a = show_colours[e->colour + one][k], b = show_colours[e->colour + (one + 1) % e->colours][k];\n                out[k] = a + (x - (double)one) * (b - a);\n            }\n        }\n        return;\n",
    );
    case(Ember, "        show_along(e, show_noise((double)i / 3.0, 2.0 * t, e->seed), out);\n        return;\n");
    case(
        Level,
        "        show_along(e, inputs[e->input], out);\n        scale = inputs[e->input] * (double)count - (double)i;\n        scale = scale < 0.0 ? 0.0 : scale > 1.0 ? 1.0 : scale;\n        for (k = 0; k < 3; k++)\n            out[k] *= scale;\n        return;\n",
    );
    case(Mix, "        show_along(e, inputs[e->input], out);\n        return;\n");
    case(Table, "        break;\n");
    c.push_str("    }\n    if (scale < 0.0)\n        scale = 0.0;\n    for (k = 0; k < 3; k++)\n        out[k] = first[k] * scale;\n}\n\n");
}

/// What keeps the pixels of one controller within its limit, A.
fn limiter(c: &mut String, limit: f64, idle: f64, lights: &Counted) {
    let rows: Vec<String> = lights.iter().map(|(first, count, amps)| format!("{{ {first}, {count}, {{ {} }} }}", amps.map(number).join(", "))).collect();
    let _ = write!(
        c,
        "    {{\n        /* No more than {} A of what hangs on this controller. */\n        static const struct {{\n            uint16_t first, count;\n            double amps[3];\n        }} lights[{}] = {{\n            {}\n        }};\n        const double limit = {}, idle = {};\n        double lit = 0.0;\n        uint16_t light;\n        for (light = 0; light < {}; light++) {{\n            for (k = 0; k < 3; k++) {{\n                uint32_t sum = 0;\n                for (i = 0; i < lights[light].count; i++)\n                    sum += out[3 * (lights[light].first + i) + k];\n                lit += lights[light].amps[k] * (double)sum / 255.0;\n            }}\n        }}\n        if (lit + idle > limit) {{\n            const double room = limit > idle ? limit - idle : 0.0;\n            uint16_t pixel;\n",
        number(limit),
        lights.len(),
        rows.join(",\n            "),
        number(limit),
        number(idle),
        lights.len()
    );
    // Each number once, however many lights share it.
    let mut runs: Vec<(usize, usize)> = Vec::new();
    for (first, count, _) in lights {
        match runs.iter_mut().find(|run| run.0 == *first) {
            Some(run) => run.1 = run.1.max(*count),
            None => runs.push((*first, *count)),
        }
    }
    for (first, length) in runs {
        let _ = write!(
            c,
            "            for (pixel = {first}; pixel < {}; pixel++)\n                for (k = 0; k < 3; k++)\n                    out[3 * pixel + k] = (uint8_t)((double)out[3 * pixel + k] * room / lit);\n",
            first + length
        );
    }
    c.push_str("        }\n    }\n");
}
