//! Numbers that are the same in every run of a seed.

/// A generator (xorshift). The seed is `DEFT_PIN_SEED`, or a number of our own.
pub struct Dice(u64);

impl Dice {
    pub fn seeded(own: u64) -> Self {
        let seed = std::env::var("DEFT_PIN_SEED").ok().and_then(|seed| seed.parse().ok()).unwrap_or(own);
        println!("DEFT_PIN_SEED={seed}");
        Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1)
    }

    pub fn below(&mut self, end: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        ((self.0 >> 11) % end.max(1) as u64) as usize
    }

    /// True once in so many times.
    pub fn once_in(&mut self, times: usize) -> bool {
        self.below(times) == 0
    }

    pub fn pick<'a>(&mut self, all: &[&'a str]) -> &'a str {
        all[self.below(all.len())]
    }
}

/// How many cases are tried: `DEFT_PIN_CASES`, or a number of the test's own.
pub fn cases(own: usize) -> usize {
    std::env::var("DEFT_PIN_CASES").ok().and_then(|cases| cases.parse().ok()).unwrap_or(own)
}
