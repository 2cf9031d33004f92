use time::OffsetDateTime;

use crate::event::RecordedScore;
use crate::points::{QuestionScore, Score};
use crate::settings::{Assignment, ItemRef, LateRule};
use crate::terms::terms;
use crate::work::{QuestionState, Work};

/// The score as the work stands now. Empty and unchecked questions count nothing.
pub fn score_so_far(assignment: &Assignment, work: &Work) -> Score {
    if assignment.settings.goal.is_some() {
        let of = assignment.total_points();
        let reached = work.progress.as_ref().map_or(0.0, |p| p.reached);
        return Score {
            points: (reached * f64::from(of) * 100.0).round() / 100.0,
            of,
            questions: Vec::new(),
        };
    }
    let scored = |(i, item)| {
        let mut score = question_score(item, work.questions.get(i));
        if let Some(given) = work.by_teacher.get(&i) {
            score.points = given.points.clamp(0.0, f64::from(score.of));
            score.by_teacher = true;
            score.waiting = 0.0;
        }
        score
    };
    let questions: Vec<QuestionScore> = assignment.items.iter().enumerate().map(scored).collect();
    Score {
        points: questions.iter().map(|q| q.points).sum(),
        of: assignment.total_points(),
        questions,
    }
}

fn question_score(item: &ItemRef, state: Option<&QuestionState>) -> QuestionScore {
    let mut best = QuestionScore {
        of: item.points,
        ..QuestionScore::default()
    };
    let Some(state) = state else { return best };
    for (number, set) in state.sets.iter().enumerate().filter(|(_, s)| !s.tries.is_empty()) {
        let part = |id: &str| set.parts.iter().find(|p| p.id == id);
        let points: f64 = item
            .parts
            .iter()
            .map(|p| item.worth(p) * part(&p.id).map_or(0.0, |s| s.best))
            .sum();
        if best.set.is_none() || points > best.points {
            let lost = |p: &crate::PartRef| {
                let Some(s) = part(&p.id).filter(|s| s.taken_off > 0 && s.taken_off < 100) else {
                    return 0.0;
                };
                let full = s.best * 100.0 / f64::from(100 - s.taken_off);
                item.worth(p) * (full - s.best)
            };
            let on_try = set.parts.iter().map(|p| p.best_try).max().filter(|t| *t > 0);
            let last = on_try.and_then(|t| set.tries.get(usize::try_from(t).ok()?.checked_sub(1)?));
            let waiting = |p: &&crate::PartRef| part(&p.id).is_some_and(|s| s.waiting);
            let waits: f64 = item
                .parts
                .iter()
                .filter(waiting)
                .map(|p| item.worth(p))
                .fold(0.0, |all, one| all + one);
            best = QuestionScore {
                points,
                of: item.points,
                set: Some(number),
                on_try,
                hints: last.map_or(0, |t| t.hints_before),
                hint_points: item.parts.iter().map(lost).sum(),
                by_teacher: false,
                waiting: waits,
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
    // What a person marks cannot come out right by itself.
    let open = score
        .questions
        .iter()
        .zip(&assignment.items)
        .filter(|(q, item)| q.points < f64::from(q.of) && !item.is_by_hand())
        .map(|(q, _)| q)
        .take(2);
    let (mut questions, mut points) = (0, score.points);
    for q in open {
        questions += 1;
        points += f64::from(q.of) - q.points - q.waiting;
    }
    let of = assignment.total_points();
    (questions > 0 && of > 0).then(|| Forecast {
        questions,
        percent: 100.0 * points / f64::from(of),
    })
}

/// Fewer scores than this would say something about single people.
const FEWEST_FOR_A_BAND: usize = 5;

/// The lower and upper quartile of scores in rising order, by linear interpolation (R's type 7); `None` for fewer than
/// five.
pub fn quartiles(scores: &[f64]) -> Option<(f64, f64)> {
    if scores.len() < FEWEST_FOR_A_BAND {
        return None;
    }
    let last = scores.len() - 1;
    let at = |quarters: usize| {
        let (below, part) = (last * quarters / 4, last * quarters % 4);
        let low = scores.get(below)?;
        let high = scores.get(below + 1).unwrap_or(low);
        let part = f64::from(u8::try_from(part).unwrap_or(0)) / 4.0;
        Some(low + (high - low) * part)
    };
    Some((at(1)?, at(3)?))
}

/// The score a hand-in at this moment would record.
pub fn recorded_now(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> RecordedScore {
    let score = score_so_far(assignment, work);
    let taken_off = match assignment.settings.late {
        LateRule::PercentOff(percent) if now > terms(assignment, work).due => percent.min(100),
        _ => 0,
    };
    let kept = f64::from(100 - taken_off) / 100.0;
    RecordedScore {
        points: score.points * kept,
        of: score.of,
        taken_off,
        waiting: score.waiting() * kept,
    }
}
