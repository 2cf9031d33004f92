//! What answers say about all the skills at once.
//!
//! A student's state is the set of skills they know. With prerequisites only those sets are possible that hold, with a
//! skill, everything it requires: a knowledge structure (J.-P. Doignon and J.-C. Falmagne, "Spaces for the assessment of
//! knowledge", International Journal of Man-Machine Studies 23, 1985). There are far too many of them to be listed, so
//! the belief is a cloud of them, moved after each answer by importance weights, resampling and Gibbs steps (W. R. Gilks
//! and C. Berzuini, "Following a moving target: Monte Carlo inference for dynamic Bayesian models", Journal of the Royal
//! Statistical Society B 63, 2001). The question that tells most is the one whose answer has the greatest mutual
//! information with the state (D. V. Lindley, "On a measure of the information provided by an experiment", Annals of
//! Mathematical Statistics 27, 1956); as an answer depends on the state through one skill, that needs only the
//! probability that this skill is known.

use marking::Dice;
use serde::{Deserialize, Serialize};

use super::graph::SkillGraph;

/// What was answered.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Reply {
    Right,
    Wrong,
    NotLearned,
}

/// States in the cloud. With 512 instead of 1,024 the marginals differ by about 0.02 more between two seeds.
const STATES: usize = 1_024;
/// Wrong although it is known.
const SLIP: f64 = 0.08;
/// *Not learned yet* of what is known, and of what is not.
const MODEST: f64 = 0.02;
const HONEST: f64 = 0.5;
/// How likely a skill is known whose prerequisites are: it differs from student to student, each as likely.
const FORWARD: [f64; 9] = [0.05, 0.25, 0.45, 0.6, 0.72, 0.82, 0.9, 0.95, 0.985];

#[derive(Clone, Copy)]
struct State {
    /// The skills that are known, as bits.
    known: u128,
    /// In [`FORWARD`].
    forward: usize,
}

#[derive(Clone, Copy)]
struct Answer {
    skill: usize,
    reply: Reply,
    guess: f64,
}

impl Answer {
    /// How likely it is where the skill is known, or not.
    fn likelihood(&self, known: bool) -> f64 {
        let told = match (self.reply, known) {
            (Reply::Right, true) => (1.0 - MODEST) * (1.0 - SLIP),
            (Reply::Right, false) => (1.0 - HONEST) * self.guess,
            (Reply::Wrong, true) => (1.0 - MODEST) * SLIP,
            (Reply::Wrong, false) => (1.0 - HONEST) * (1.0 - self.guess),
            (Reply::NotLearned, true) => MODEST,
            (Reply::NotLearned, false) => HONEST,
        };
        told.max(1e-6)
    }
}

/// What is believed about every skill.
#[derive(Clone, Debug, PartialEq)]
pub struct Belief {
    known: Vec<f64>,
}

/// The belief while answers come in: a cloud of states, moved after each.
pub struct Cloud<'a> {
    graph: &'a SkillGraph,
    states: Vec<State>,
    weights: Vec<f64>,
    answers: Vec<Answer>,
    dice: Dice,
}

fn forward(level: usize) -> f64 {
    FORWARD.get(level).copied().unwrap_or(0.5)
}

impl Belief {
    /// What is believed after answers, each with its skill's place and the chance of being right by guessing.
    pub fn after(
        graph: &SkillGraph,
        answers: impl IntoIterator<Item = (usize, Reply, f64)>,
        seed: u64,
    ) -> Belief {
        let mut cloud = Cloud::new(graph, seed);
        for (skill, reply, guess) in answers {
            cloud.take(skill, reply, guess);
        }
        cloud.belief()
    }

    /// The probability that each skill is known, in the order of the graph.
    pub fn known(&self) -> impl Iterator<Item = f64> {
        self.known.iter().copied()
    }

    /// The share of the skills that would be placed wrongly on average, were it to end now.
    pub fn expected_wrong(&self) -> f64 {
        let wrong: f64 = self.known.iter().map(|p| p.min(1.0 - p)).sum();
        wrong / f64::from(u32::try_from(self.known.len().max(1)).unwrap_or(u32::MAX))
    }

    /// How much an answer about a skill would tell of the state, in bits.
    pub fn tells(&self, skill: usize, guess: f64) -> f64 {
        let p = self.known.get(skill).copied().unwrap_or(0.0);
        let mut tells = 0.0;
        for reply in [Reply::Right, Reply::Wrong, Reply::NotLearned] {
            let answer = Answer { skill, reply, guess };
            let (known, not) = (answer.likelihood(true), answer.likelihood(false));
            let all = p * known + (1.0 - p) * not;
            tells += p * known * libm::log2(known / all) + (1.0 - p) * not * libm::log2(not / all);
        }
        tells
    }
}

impl<'a> Cloud<'a> {
    /// Before any answer: prerequisites first, each skill known as often as the student's way with new things says.
    pub fn new(graph: &'a SkillGraph, seed: u64) -> Self {
        let mut dice = Dice::new(seed);
        let states = (0..STATES)
            .map(|n| {
                let level = n % FORWARD.len();
                let mut known = 0;
                for place in 0..graph.len() {
                    if graph.is_open(place, known) && dice.share() < forward(level) {
                        known = SkillGraph::with(known, place, true);
                    }
                }
                State {
                    known,
                    forward: level,
                }
            })
            .collect();
        Self {
            graph,
            states,
            weights: vec![1.0; STATES],
            answers: Vec::new(),
            dice,
        }
    }

    /// Takes an answer in: the skill's place, and the chance of being right by guessing.
    pub fn take(&mut self, skill: usize, reply: Reply, guess: f64) {
        let answer = Answer { skill, reply, guess };
        for (state, weight) in self.states.iter().zip(&mut self.weights) {
            *weight *= answer.likelihood(SkillGraph::is_known(state.known, answer.skill));
        }
        self.answers.push(answer);
        let (sum, squares) = self
            .weights
            .iter()
            .fold((0.0, 0.0), |(sum, squares), w| (sum + w, squares + w * w));
        // Where few states carry most of the weight, those are copied, and the copies moved apart.
        if sum * sum < squares * 0.5 * f64::from(u32::try_from(STATES).unwrap_or(1)) {
            self.resample(sum);
            self.step();
        }
    }

    /// Systematic resampling.
    fn resample(&mut self, sum: f64) {
        let gap = sum / f64::from(u32::try_from(STATES).unwrap_or(1));
        let mut at = self.dice.share() * gap;
        let mut reached = 0.0;
        let mut chosen = Vec::with_capacity(STATES);
        for (state, weight) in self.states.iter().zip(&self.weights) {
            reached += weight;
            while at < reached && chosen.len() < STATES {
                chosen.push(*state);
                at += gap;
            }
        }
        if let Some(last) = self.states.last().copied() {
            chosen.resize(STATES, last);
        }
        self.states = chosen;
        self.weights = vec![1.0; STATES];
    }

    /// One Gibbs step of every skill of every state, and of its way with new things.
    fn step(&mut self) {
        let mut odds = vec![1.0; self.graph.len()];
        for answer in &self.answers {
            if let Some(odds) = odds.get_mut(answer.skill) {
                *odds *= answer.likelihood(true) / answer.likelihood(false);
            }
        }
        for state in &mut self.states {
            let mut known = state.known;
            let theta = forward(state.forward);
            for (place, odds) in odds.iter().enumerate() {
                let above = self.graph.needed_by(place);
                if !self.graph.is_open(place, known) || above.iter().any(|a| SkillGraph::is_known(known, *a))
                {
                    continue;
                }
                let with = SkillGraph::with(known, place, true);
                // If it is known, what then stands open above it is not known, each for itself.
                let mut ratio = odds * theta / (1.0 - theta);
                for above in above {
                    if self.graph.is_open(*above, with) {
                        ratio *= 1.0 - theta;
                    }
                }
                let known_now = self.dice.share() < ratio / (1.0 + ratio);
                known = SkillGraph::with(known, place, known_now);
            }
            state.known = known;
            state.forward = way_with_new_things(self.graph, known, &mut self.dice);
        }
    }

    pub fn belief(&self) -> Belief {
        let sum: f64 = self.weights.iter().sum();
        let share = |place: usize| {
            let with = self.states.iter().zip(&self.weights);
            let known = with.filter(|(s, _)| SkillGraph::is_known(s.known, place));
            known.map(|(_, w)| w).sum::<f64>() / sum
        };
        Belief {
            known: (0..self.graph.len()).map(share).collect(),
        }
    }
}

/// Draws it given what is known of what stands open.
fn way_with_new_things(graph: &SkillGraph, known: u128, dice: &mut Dice) -> usize {
    let (mut taken, mut left) = (0, 0);
    for place in 0..graph.len() {
        match (graph.is_open(place, known), SkillGraph::is_known(known, place)) {
            (true, true) => taken += 1,
            (true, false) => left += 1,
            _ => {}
        }
    }
    let weight = |p: &f64| powers(*p, taken) * powers(1.0 - *p, left);
    let all: f64 = FORWARD.iter().map(weight).sum();
    let mut at = dice.share() * all;
    for (level, p) in FORWARD.iter().enumerate() {
        at -= weight(p);
        if at <= 0.0 {
            return level;
        }
    }
    FORWARD.len() - 1
}

/// By multiplication alone, which is the same on every machine.
fn powers(base: f64, mut exponent: u32) -> f64 {
    let (mut result, mut square) = (1.0, base);
    while exponent > 0 {
        if exponent & 1 == 1 {
            result *= square;
        }
        square *= square;
        exponent >>= 1;
    }
    result
}
