//! Every bound of the reader and the decider in one place, with its reason.

/// Characters in one entry. A long page of working is not an answer; beyond this nothing is looked at.
pub const MAX_CHARS: usize = 2_000;
/// Nested brackets, functions and powers. The reader recurses about eight calls a level.
pub const MAX_DEPTH: usize = 100;
/// Decimal exponent of one literal (`1e999` is fine, `1e999999999` would be a billion digits).
pub const MAX_LITERAL_EXPONENT: i64 = 2_000;
/// Bits of an exactly kept number; beyond it a value is enclosed in an interval instead.
pub const MAX_EXACT_BITS: u64 = 8_192;
/// Largest argument of a factorial that is worked out exactly (400! has 2,886 bits).
pub const MAX_FACTORIAL: u64 = 400;
/// Terms of a polynomial in the normal form; products are refused before they grow past it.
pub const MAX_TERMS: usize = 600;
/// Bits of one coefficient in the normal form.
pub const MAX_COEFFICIENT_BITS: u64 = 2_048;
/// Largest whole power of a sum that is multiplied out.
pub const MAX_EXPANDED_POWER: i64 = 48;
/// Work of one normal form, counted in term products: about 10 ms on one core.
pub const MAX_NORMAL_STEPS: usize = 60_000;
/// Steps of evaluation and of the normal form for one entry: some 30 ms on one core of a 2-core machine, where 50 ms is
/// the bound for all of it (`crates/marking/examples/marking_times.rs` prints what entries take).
pub const MAX_ENTRY_STEPS: u64 = 250_000;
/// Highest working precision, in bits, before a comparison of constants is called agreed.
pub const MAX_PRECISION: usize = 2_048;
