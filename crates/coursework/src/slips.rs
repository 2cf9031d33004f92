//! The slip book: every check that was not right, open until the same question is right on fresh numbers; mended ones
//! come back after 2, 7 and 21 days. Worked out from the attempts alone; it touches no recorded score.

use std::collections::BTreeMap;
use std::sync::Arc;

use time::{Duration, OffsetDateTime};

use crate::practice::Run;
use crate::work::Work;

/// After how many days a mended slip comes back, each time.
pub const COMES_BACK: [i64; 3] = [2, 7, 21];

/// One judged check of a question, wherever it happened.
#[derive(Clone, Debug, PartialEq)]
pub struct Attempt {
    /// Its id; shared, since a book of years holds thousands.
    pub question: Arc<str>,
    pub at: OffsetDateTime,
    /// Which set it was: other numbers have another seed.
    pub seed: u64,
    /// All of the set is right after it.
    pub all_right: bool,
    /// Something that was judged was not right: it is a slip.
    pub wrong: bool,
    /// Where it is kept: the place in the caller's list of works and runs, and the number of the event.
    pub source: usize,
    pub event: u32,
}

#[derive(Clone, Debug, PartialEq)]
pub struct SlipEntry {
    pub attempt: Attempt,
    pub standing: Standing,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Standing {
    Open,
    Mended {
        at: OffsetDateTime,
        /// When it comes back; `None` when it has come back for the last time.
        comes_back: Option<OffsetDateTime>,
    },
}

impl Standing {
    /// Whether it waits to be tried again now.
    pub fn is_due(&self, now: OffsetDateTime) -> bool {
        match self {
            Standing::Open => true,
            Standing::Mended { comes_back, .. } => comes_back.is_some_and(|at| at <= now),
        }
    }
}

/// The attempts in a student's work; `questions` are its questions' ids in order.
pub fn attempts_in_work(work: &Work, questions: &[Arc<str>], source: usize) -> Vec<Attempt> {
    let mut attempts = Vec::new();
    for (state, question) in work.questions.iter().zip(questions) {
        for set in &state.sets {
            for record in set.tries.iter().filter(|t| t.judged) {
                attempts.push(Attempt {
                    question: question.clone(),
                    at: record.at,
                    seed: set.seed,
                    all_right: record.all_right,
                    wrong: record.wrong,
                    source,
                    event: record.event,
                });
            }
        }
    }
    attempts
}

/// The attempts in a run of practice. The nth question's check is event 2n.
pub fn attempts_in_run(run: &Run, source: usize) -> Vec<Attempt> {
    let one = |(n, drawn): (u32, &crate::practice::Drawn)| {
        let answered = drawn.answered.as_ref()?;
        Some(Attempt {
            question: drawn.question.as_str().into(),
            at: answered.at,
            seed: drawn.seed,
            all_right: answered.right,
            wrong: !answered.right,
            source,
            event: 2 * n,
        })
    };
    (1u32..).zip(&run.drawn).filter_map(one).collect()
}

#[derive(Default)]
struct QuestionSlips {
    slips: Vec<SlipEntry>,
    /// Some of them may be mended and still to come back.
    any_mended: bool,
    /// How often the mended ones have come back and were right again.
    returned: usize,
}

/// The slip book at an instant, the newest slip first.
pub fn slip_book(attempts: &[Attempt]) -> Vec<SlipEntry> {
    let mut sorted: Vec<&Attempt> = attempts.iter().collect();
    sorted.sort_by_key(|a| (a.at, a.source, a.event));
    let mut questions: BTreeMap<&str, QuestionSlips> = BTreeMap::new();
    for attempt in sorted {
        let question = questions.entry(&*attempt.question).or_default();
        if attempt.wrong {
            question.returned = 0;
            // The new slip comes back in their place.
            if std::mem::take(&mut question.any_mended) {
                for older in &mut question.slips {
                    if let Standing::Mended { comes_back, .. } = &mut older.standing {
                        *comes_back = None;
                    }
                }
            }
            question.slips.push(SlipEntry {
                attempt: attempt.clone(),
                standing: Standing::Open,
            });
        } else if attempt.all_right {
            question.mend(attempt);
        }
    }
    let mut all: Vec<SlipEntry> = questions.into_values().flat_map(|q| q.slips).collect();
    all.sort_by_key(|s| (std::cmp::Reverse(s.attempt.at), s.attempt.source, s.attempt.event));
    all
}

impl QuestionSlips {
    /// Right on other numbers mends; right again once it has come back sends it further off.
    fn mend(&mut self, right: &Attempt) {
        self.any_mended = true;
        let after = |stage: usize| COMES_BACK.get(stage).map(|days| right.at + Duration::days(*days));
        let came_back = self.slips.iter().any(|s| {
            matches!(s.standing, Standing::Mended { .. })
                && s.standing.is_due(right.at)
                && s.attempt.seed != right.seed
        });
        if came_back {
            self.returned += 1;
        }
        for slip in self.slips.iter_mut().filter(|s| s.attempt.seed != right.seed) {
            match slip.standing {
                Standing::Open => {
                    slip.standing = Standing::Mended {
                        at: right.at,
                        comes_back: after(0),
                    };
                }
                Standing::Mended { at, .. } if slip.standing.is_due(right.at) => {
                    slip.standing = Standing::Mended {
                        at,
                        comes_back: after(self.returned),
                    };
                }
                Standing::Mended { .. } => {}
            }
        }
    }
}

/// A question of a review for a test.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ReviewItem {
    pub question: String,
    /// Slips made at it.
    pub slips: usize,
    /// One of them is still open.
    pub open: bool,
}

/// A review of so many questions: those with open slips first, then those slipped at most often, then the newest. When
/// there are fewer, they come again, on other numbers each time.
pub fn draw_review(slips: &[&SlipEntry], length: usize) -> Vec<ReviewItem> {
    let mut found: Vec<(ReviewItem, OffsetDateTime)> = Vec::new();
    for slip in slips {
        let open = slip.standing == Standing::Open;
        let known = found
            .iter_mut()
            .find(|(item, _)| *item.question == *slip.attempt.question);
        match known {
            Some((item, newest)) => {
                item.slips += 1;
                item.open |= open;
                *newest = (*newest).max(slip.attempt.at);
            }
            None => {
                let question = slip.attempt.question.to_string();
                found.push((
                    ReviewItem {
                        question,
                        slips: 1,
                        open,
                    },
                    slip.attempt.at,
                ));
            }
        }
    }
    found.sort_by_key(|(item, newest)| {
        let order = std::cmp::Reverse((item.open, item.slips, *newest));
        (order, item.question.clone())
    });
    let items: Vec<ReviewItem> = found.into_iter().map(|(item, _)| item).collect();
    items
        .iter()
        .cycle()
        .take(if items.is_empty() { 0 } else { length })
        .cloned()
        .collect()
}
