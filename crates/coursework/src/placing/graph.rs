//! Skills that build on each other.

/// Skills that one starting point can be about: a state is kept in the bits of one number.
pub const MOST_SKILLS: usize = 128;

/// Skills with their prerequisites; each stands after those it requires.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SkillGraph {
    names: Vec<String>,
    requires: Vec<Vec<usize>>,
    /// The same as bits.
    required: Vec<u128>,
    needed_by: Vec<Vec<usize>>,
}

#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum GraphFault {
    #[error("there are no skills")]
    Empty,
    #[error("there are {0} skills; a starting point is about {MOST_SKILLS} at most")]
    TooMany(usize),
    #[error("the skill `{0}` is named twice")]
    Twice(String),
    #[error("the skills require each other in a circle")]
    Circular,
}

fn bit(place: usize) -> u128 {
    u32::try_from(place)
        .ok()
        .and_then(|p| 1_u128.checked_shl(p))
        .unwrap_or(0)
}

impl SkillGraph {
    /// From skills and what each requires. What is required and not among them is left out.
    ///
    /// # Errors
    /// Where there is no order of them.
    pub fn new<'a>(skills: &[(&'a str, Vec<&'a str>)]) -> Result<Self, GraphFault> {
        if skills.is_empty() {
            return Err(GraphFault::Empty);
        }
        if skills.len() > MOST_SKILLS {
            return Err(GraphFault::TooMany(skills.len()));
        }
        let mut names: Vec<&str> = Vec::with_capacity(skills.len());
        let mut left: Vec<&(&str, Vec<&str>)> = skills.iter().collect();
        for (place, (name, _)) in skills.iter().enumerate() {
            if skills.iter().take(place).any(|(earlier, _)| earlier == name) {
                return Err(GraphFault::Twice((*name).to_owned()));
            }
        }
        while !left.is_empty() {
            let waits = |(_, requires): &(&str, Vec<&str>)| {
                requires
                    .iter()
                    .any(|r| !names.contains(r) && skills.iter().any(|(name, _)| name == r))
            };
            let (later, ready): (Vec<_>, Vec<_>) = left.into_iter().partition(|skill| waits(skill));
            if ready.is_empty() {
                return Err(GraphFault::Circular);
            }
            names.extend(ready.iter().map(|(name, _)| *name));
            left = later;
        }
        let place = |name: &str| names.iter().position(|n| *n == name);
        let mut requires = vec![Vec::new(); names.len()];
        let mut needed_by = vec![Vec::new(); names.len()];
        for (name, required) in skills {
            let Some(own) = place(name) else { continue };
            for found in required.iter().filter_map(|r| place(r)) {
                if let (Some(list), Some(back)) = (requires.get_mut(own), needed_by.get_mut(found)) {
                    let list: &mut Vec<usize> = list;
                    if !list.contains(&found) {
                        list.push(found);
                        back.push(own);
                    }
                }
            }
        }
        Ok(Self {
            required: requires
                .iter()
                .map(|r| r.iter().fold(0, |all, p| all | bit(*p)))
                .collect(),
            names: names.into_iter().map(str::to_owned).collect(),
            requires,
            needed_by,
        })
    }

    #[expect(clippy::len_without_is_empty, reason = "a graph has at least one skill")]
    pub fn len(&self) -> usize {
        self.names.len()
    }

    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.names.iter().map(String::as_str)
    }

    /// Empty for a place that is none.
    pub fn name(&self, place: usize) -> &str {
        self.names.get(place).map_or("", String::as_str)
    }

    pub fn place_of(&self, name: &str) -> Option<usize> {
        self.names.iter().position(|n| n == name)
    }

    /// What a skill requires directly.
    pub fn requires(&self, place: usize) -> &[usize] {
        self.requires.get(place).map(Vec::as_slice).unwrap_or_default()
    }

    /// The skills that require this one directly.
    pub fn needed_by(&self, place: usize) -> &[usize] {
        self.needed_by.get(place).map(Vec::as_slice).unwrap_or_default()
    }

    /// How many skills rest on this one, directly or not.
    pub fn rest_on(&self, place: usize) -> usize {
        let mut found = vec![place];
        let mut looked = 0;
        while let Some(next) = found.get(looked).copied() {
            looked += 1;
            for above in self.needed_by(next) {
                if !found.contains(above) {
                    found.push(*above);
                }
            }
        }
        found.len() - 1
    }

    /// Whether all that a skill requires is known in a state.
    pub(super) fn is_open(&self, place: usize, state: u128) -> bool {
        self.required.get(place).is_some_and(|r| r & state == *r)
    }

    pub(super) fn is_known(state: u128, place: usize) -> bool {
        state & bit(place) != 0
    }

    pub(super) fn with(state: u128, place: usize, known: bool) -> u128 {
        if known {
            state | bit(place)
        } else {
            state & !bit(place)
        }
    }
}
