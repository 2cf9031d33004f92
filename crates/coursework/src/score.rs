use crate::settings::Assignment;
use crate::work::{QuestionState, Work};

/// A score that can explain itself.
#[derive(Clone, Debug, PartialEq)]
pub struct Score {
    pub points: f64,
    pub of: u32,
    pub questions: Vec<QuestionScore>,
}

/// One question's score: the best over its sets, and where it came from.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct QuestionScore {
    pub points: f64,
    pub of: u32,
    /// 0 for set A; `None` before the first check.
    pub set: Option<usize>,
    /// The try of that set on which the last point came.
    pub on_try: Option<u32>,
}

impl Score {
    /// 0 to 100.
    pub fn percent(&self) -> f64 {
        if self.of == 0 {
            0.0
        } else {
            100.0 * self.points / f64::from(self.of)
        }
    }
}

/// The score as the work stands now. Empty and unchecked questions count nothing.
pub fn score_so_far(assignment: &Assignment, work: &Work) -> Score {
    let questions: Vec<QuestionScore> = assignment
        .items
        .iter()
        .enumerate()
        .map(|(i, item)| question_score(item, work.questions.get(i)))
        .collect();
    Score {
        points: questions.iter().map(|q| q.points).sum(),
        of: assignment.total_points(),
        questions,
    }
}

fn question_score(item: &crate::settings::ItemRef, state: Option<&QuestionState>) -> QuestionScore {
    let shares: u32 = item.parts.iter().map(|p| p.share).sum();
    let mut best = QuestionScore {
        points: 0.0,
        of: item.points,
        set: None,
        on_try: None,
    };
    let Some(state) = state else { return best };
    for (number, set) in state.sets.iter().enumerate().filter(|(_, s)| !s.tries.is_empty()) {
        let part = |id: &str| set.parts.iter().find(|p| p.id == id);
        let sum: f64 = item
            .parts
            .iter()
            .map(|p| f64::from(p.share) * part(&p.id).map_or(0.0, |s| s.best))
            .sum();
        let points = f64::from(item.points) * sum / f64::from(shares.max(1));
        if best.set.is_none() || points > best.points {
            let on_try = set.parts.iter().map(|p| p.best_try).max().filter(|t| *t > 0);
            best = QuestionScore {
                points,
                of: item.points,
                set: Some(number),
                on_try,
            };
        }
    }
    best
}

/// What more right questions would make of the score.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Forecast {
    pub questions: usize,
    pub percent: f64,
}

/// The score if the next one or two unfinished questions, in order, came out right. `None` if all are right.
pub fn forecast(assignment: &Assignment, score: &Score) -> Option<Forecast> {
    let open = score
        .questions
        .iter()
        .filter(|q| q.points < f64::from(q.of))
        .take(2);
    let (mut questions, mut points) = (0, score.points);
    for q in open {
        questions += 1;
        points += f64::from(q.of) - q.points;
    }
    let of = assignment.total_points();
    (questions > 0 && of > 0).then(|| Forecast {
        questions,
        percent: 100.0 * points / f64::from(of),
    })
}
