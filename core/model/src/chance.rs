//! Random numbers of a fixed sequence (splitmix64): the same seed gives the same, everywhere.

/// A sequence.
#[derive(Clone, Copy, Debug)]
pub struct Dice(u64);

impl Dice {
    /// The sequence of a seed.
    pub fn new(seed: u64) -> Self {
        Dice(seed)
    }

    /// The next 64 bits.
    pub fn bits(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut mixed = self.0;
        mixed = (mixed ^ (mixed >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        mixed ^ (mixed >> 31)
    }

    /// A whole number below `most`; 0 where there is none.
    pub fn below(&mut self, most: usize) -> usize {
        (self.bits() % most.max(1) as u64) as usize
    }

    /// From 0 up to 1.
    pub fn unit(&mut self) -> f64 {
        (self.bits() >> 11) as f64 / (1u64 << 53) as f64
    }

    /// Evenly between two figures.
    pub fn between(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.unit()
    }

    /// Scattered about 0 with a standard deviation of 1 (Box and Muller).
    pub fn normal(&mut self) -> f64 {
        let radius = (-2.0 * (1.0 - self.unit()).ln()).sqrt();
        radius * (std::f64::consts::TAU * self.unit()).cos()
    }
}
