//! What pixels do over time. Colours are linear light.

use super::super::read::Object;
use super::*;

const PERIOD: Rule = number(Range::above_zero(3600.0, "s")).or(1.0).label("Once around");
const COLOURS: Rule = Rule { least: 1, most: MAX_COLOURS, ..number(SHARE) }.label("Colours").nothing("white");
const SPREAD: Rule = number(Range::within(0.1, 100_000.0, "1")).or(3.0).label("Length of its tail, pixels");
const DIRECTION: Rule = number(Range::within(-1.0, 1.0, "1")).or(1.0).label("Direction");
const INPUT: Rule = thing().label("Follows");

choice! {
    /// What pixels do over time.
    pub enum PixelEffect of EffectKind {
        /// One colour.
        Steady(SteadyEffect),
        /// One colour, then another or none.
        Blink(BlinkEffect),
        /// Swelling and fading.
        Breathe(BreatheEffect),
        /// A bright spot with a tail runs round.
        Chase(ChaseEffect),
        /// A bright spot runs to the end and back.
        ToAndFro(ToAndFroEffect),
        /// All hues, moving along.
        Rainbow(RainbowEffect),
        /// From colour to colour, moving along.
        Gradient(GradientEffect),
        /// Glowing coals.
        Ember(EmberEffect),
        /// As many pixels as an input says.
        Level(LevelEffect),
        /// A colour between others, as an input says.
        Mix(MixEffect),
        /// A colour or effect for each word of an input.
        Table(TableEffect),
    }
}

record! {
    /// One colour.
    pub struct SteadyEffect {
        /// Red, green, blue of each colour, each 0 to 1; `None`: white.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colours: Option<Vec<[f64; 3]>> = COLOURS.used(1),
    }

    /// One colour, then the second or none.
    pub struct BlinkEffect {
        /// Once around, s.
        pub period_s: f64 = PERIOD,
        /// Red, green, blue of each colour, each 0 to 1; `None`: white.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colours: Option<Vec<[f64; 3]>> = COLOURS.used(2),
        /// Share of a period with the first colour.
        pub duty: f64 = number(SHARE).or(0.5).label("Of that on").shown("%"),
        /// Which way along the chain: 1 away from the controller, -1 towards it.
        #[cfg_attr(feature = "schema", schema(value_type = f64))]
        pub direction: Direction = DIRECTION.seldom(),
    }

    /// Swelling and fading.
    pub struct BreatheEffect {
        /// Once around, s.
        pub period_s: f64 = PERIOD,
        /// Red, green, blue of each colour, each 0 to 1; `None`: white.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colours: Option<Vec<[f64; 3]>> = COLOURS.used(1),
        /// Which way along the chain: 1 away from the controller, -1 towards it.
        #[cfg_attr(feature = "schema", schema(value_type = f64))]
        pub direction: Direction = DIRECTION.seldom(),
    }

    /// A bright spot with a tail runs round.
    pub struct ChaseEffect {
        /// Once around, s.
        pub period_s: f64 = PERIOD,
        /// Red, green, blue of each colour, each 0 to 1; `None`: white.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colours: Option<Vec<[f64; 3]>> = COLOURS.used(1),
        /// Length of the tail, in pixels.
        pub spread: f64 = SPREAD,
        /// Which way along the chain: 1 away from the controller, -1 towards it.
        #[cfg_attr(feature = "schema", schema(value_type = f64))]
        pub direction: Direction = DIRECTION,
    }

    /// A bright spot runs to the end and back.
    pub struct ToAndFroEffect {
        /// Once around, s.
        pub period_s: f64 = PERIOD,
        /// Red, green, blue of each colour, each 0 to 1; `None`: white.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colours: Option<Vec<[f64; 3]>> = COLOURS.used(1),
        /// Length of the tail, in pixels.
        pub spread: f64 = SPREAD,
        /// Which way along the chain: 1 away from the controller, -1 towards it.
        #[cfg_attr(feature = "schema", schema(value_type = f64))]
        pub direction: Direction = DIRECTION.seldom(),
    }

    /// All hues, moving along.
    pub struct RainbowEffect {
        /// Once around, s.
        pub period_s: f64 = PERIOD,
        /// Which way along the chain: 1 away from the controller, -1 towards it.
        #[cfg_attr(feature = "schema", schema(value_type = f64))]
        pub direction: Direction = DIRECTION,
    }

    /// From colour to colour as a closed ring, moving along.
    pub struct GradientEffect {
        /// Once around, s.
        pub period_s: f64 = PERIOD,
        /// Red, green, blue of each colour, each 0 to 1; `None`: white.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colours: Option<Vec<[f64; 3]>> = COLOURS,
        /// Which way along the chain: 1 away from the controller, -1 towards it.
        #[cfg_attr(feature = "schema", schema(value_type = f64))]
        pub direction: Direction = DIRECTION,
    }

    /// Glowing coals.
    pub struct EmberEffect {
        /// Red, green, blue of each colour, each 0 to 1; `None`: white.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colours: Option<Vec<[f64; 3]>> = COLOURS,
        /// Another number gives other embers.
        pub seed: u32 = count(0, u32::MAX).or(0.0).label("Seed"),
    }

    /// As many pixels as an input says.
    pub struct LevelEffect {
        /// Red, green, blue of each colour, each 0 to 1; `None`: white.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colours: Option<Vec<[f64; 3]>> = COLOURS,
        /// What it follows.
        pub input: ShowInput = INPUT,
    }

    /// A colour between others, as an input says.
    pub struct MixEffect {
        /// Red, green, blue of each colour, each 0 to 1; `None`: white.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colours: Option<Vec<[f64; 3]>> = COLOURS,
        /// What it follows.
        pub input: ShowInput = INPUT,
    }

    /// A colour or an effect for each word of an input.
    pub struct TableEffect with words_of_its_input {
        /// What it follows.
        pub input: ShowInput = INPUT,
        /// What is shown at each word of its input; at any other, the first.
        pub table: Vec<PixelEffectRow> = Rule { least: 1, ..list(50) }.needed(),
    }

    /// What is shown at a word.
    pub struct PixelEffectRow with one_of_both {
        /// A word of the input.
        pub word: String = text(40).label("At"),
        /// A colour.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colour: Option<[f64; 3]> = number(SHARE).label("Colour"),
        /// An effect.
        #[serde(skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(no_recursion))]
        pub effect: Option<PixelEffect> = thing(),
    }
}

/// Which way along the chain.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Direction {
    /// Away from the controller.
    #[default]
    Away,
    /// Towards it.
    Towards,
}

impl Direction {
    /// 1 away from the controller, -1 towards it.
    pub fn sign(self) -> f64 {
        match self {
            Direction::Away => 1.0,
            Direction::Towards => -1.0,
        }
    }
}

impl Serialize for Direction {
    fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        to.serialize_i8(self.sign() as i8)
    }
}

fn words_of_its_input(effect: &mut TableEffect, o: &mut Object<'_, '_>) {
    let says = effect.input.says();
    if says.is_empty() {
        o.fault("input", format!("`{}` is a figure and says no words", effect.input.word()), "Take `level` or `mix`, or an input that says words");
    } else if let Some(row) = effect.table.iter().find(|row| !says.contains(&row.word.as_str())) {
        o.fault("table", format!("its input never says `{}`, but {}", row.word, says.join(", ")), "Use one of these words");
    }
}

fn one_of_both(row: &mut PixelEffectRow, o: &mut Object<'_, '_>) {
    if row.colour.is_some() == row.effect.is_some() {
        o.fault("colour", format!("`{}` shows a colour or an effect", row.word), "Give `colour`, or `effect`, and not both");
    }
}
