//! Plays what students did before the demo starts, by the same commands and rules as in the interface.

use std::collections::BTreeMap;

use std::sync::Arc;

use coursework::{
    Command, End, Event, Exception, MarkedPart, MarkedQuestion, Recorded, Work, decide, fold, fold_on,
    to_mark_at_end,
};
use marking::{ItemPart, Response};
use sqlx::{Postgres, Transaction};
use store::{Append, Derived, PersonId, WorkId};
use time::{Duration, OffsetDateTime};
use uuid::Uuid;

use super::WorldError;
use super::world::{Step, WorldWork, end_of_day};
use crate::School;
use crate::desk::entered;
use crate::marks::{mark_parts, mark_wanted};
use crate::stored::Stored;

struct Player<'a> {
    tx: Transaction<'a, Postgres>,
    stored: Arc<Stored>,
    assignment: Arc<coursework::Assignment>,
    student: PersonId,
    work: WorkId,
    now: OffsetDateTime,
    /// A number of the student's own: each gets other sets and other questions right.
    own: u64,
}

pub(super) async fn play(
    school: &School,
    assignment_id: Uuid,
    student: PersonId,
    name: &str,
    script: &WorldWork,
    now: OffsetDateTime,
) -> Result<(), WorldError> {
    let stored = school.assignment(assignment_id, None).await?;
    let work = store::start_work(&school.pool, assignment_id, student).await?;
    let own = name
        .bytes()
        .fold(1_000u64, |n, b| n.wrapping_mul(31).wrapping_add(u64::from(b)));
    let mut player = Player {
        tx: school.pool.begin().await?,
        assignment: stored.assignment.clone(),
        stored,
        student,
        work,
        now,
        own,
    };
    if let Some(given) = &script.exception {
        player.now = now - Duration::days(1);
        let exception = Exception {
            due: given.due_in_days.map(|d| end_of_day(now, d)),
            closes: None,
            time_percent: given.time_percent,
            more_hand_ins: given.more_hand_ins,
            ..Exception::default()
        };
        player.add(Event::ExceptionGiven(exception)).await?;
    }
    for step in &script.steps {
        player.now = (now + Duration::days(step.in_days)).max(player.assignment.settings.opens);
        player.step(step).await?;
    }
    player.finish(script).await
}

impl Player<'_> {
    async fn state(&mut self) -> Result<Work, WorldError> {
        let events = store::lock_work(&mut self.tx, self.work).await?;
        Ok(fold(&self.assignment, &events))
    }

    async fn add(&mut self, event: Event) -> Result<(), WorldError> {
        let work = self.state().await?;
        self.append(&work, &[event]).await
    }

    async fn append(&mut self, work: &Work, events: &[Event]) -> Result<(), WorldError> {
        if events.is_empty() {
            return Ok(());
        }
        let numbers = work.last_event + 1..;
        let new: Vec<Recorded> = numbers
            .zip(events)
            .map(|(number, event)| Recorded {
                number,
                at: self.now,
                event: event.clone(),
            })
            .collect();
        let after = fold_on(&self.assignment, work, &new).ok_or("a script does not correct keys")?;
        let addition = Append {
            assignment: self.stored.head.id,
            version: self.stored.version,
            student: self.student,
            work: Some(self.work),
            last: work.last_event,
            events,
            after: Derived::of(&self.assignment, &after),
            at: self.now,
            by_student: false,
            session: None,
        };
        store::append(&mut *self.tx, &addition).await?;
        Ok(())
    }

    async fn run(&mut self, command: Command) -> Result<(), WorldError> {
        let work = self.state().await?;
        let happened = decide(&self.assignment, &work, &command, self.now)?;
        self.append(&work, &happened).await?;
        // A minute passes with everything that is done.
        self.now += Duration::minutes(1);
        Ok(())
    }

    async fn step(&mut self, step: &Step) -> Result<(), WorldError> {
        if self.state().await?.opened_at.is_none() && step.teacher.is_none() {
            let seeds = self.stored.first_seeds(self.own)?;
            self.run(Command::Open { seeds }).await?;
        }
        let from_one = |q: &usize| q.checked_sub(1).ok_or("questions count from 1");
        for question in &step.hints {
            let question = from_one(question)?;
            self.run(Command::TakeHint {
                question,
                available: 9,
            })
            .await?;
        }
        for (question, entry) in &step.tried {
            self.enter(from_one(question)?, Some(entry), true).await?;
        }
        for question in &step.working {
            let question = from_one(question)?;
            self.run(Command::ShowSolution { question }).await?;
        }
        for question in &step.fresh {
            self.fresh(from_one(question)?).await?;
        }
        let share = step.right_percent.unwrap_or(0);
        let chosen: Vec<usize> = (0..self.stored.questions.len())
            .filter(|q| (self.own >> (q % 8)).wrapping_mul(2_654_435_761) % 100 < share)
            .collect();
        let right = step.right.iter().map(from_one).collect::<Result<Vec<_>, _>>()?;
        for question in right.into_iter().chain(chosen) {
            self.enter(question, None, true).await?;
        }
        for (question, entry) in &step.typed {
            self.enter(from_one(question)?, Some(entry), false).await?;
        }
        if step.hand_in {
            let marked = self.marked_drafts().await?;
            self.run(Command::HandIn { marked }).await?;
        }
        if let Some(given) = &step.teacher {
            let question = from_one(&given.question)?;
            let (points, note) = (given.points, given.note.clone());
            self.add(Event::ScoredByTeacher {
                question,
                points,
                note,
                by: None,
                parts: Vec::new(),
            })
            .await?;
        }
        Ok(())
    }

    async fn fresh(&mut self, question: usize) -> Result<(), WorldError> {
        let state = self.state().await?;
        let sets = state
            .questions
            .get(question)
            .map(|q| &q.sets)
            .ok_or("no such question")?;
        let seeds: Vec<u64> = sets.iter().map(|s| s.seed).collect();
        let (_, source) = self.stored.questions.get(question).ok_or("no such question")?;
        let seed = marking::next_seed(source, seeds.first().copied().unwrap_or(0), &seeds);
        let seed = seed?;
        self.run(Command::FreshNumbers { question, seed }).await
    }

    /// Enters an answer, the right one if none is given; in linear order the questions before are passed.
    async fn enter(
        &mut self,
        question: usize,
        entry: Option<&String>,
        check: bool,
    ) -> Result<(), WorldError> {
        let mut state = self.state().await?;
        while self.assignment.settings.navigation != coursework::Navigation::Nonlinear
            && state.reached < question
        {
            let to = state.reached + 1;
            self.run(Command::MoveOn { to, answered: true }).await?;
            state = self.state().await?;
        }
        let (_, source) = self.stored.questions.get(question).ok_or("no such question")?;
        let sets = state
            .questions
            .get(question)
            .map(|q| &q.sets)
            .ok_or("not opened")?;
        let (number, set) = (sets.len() - 1, sets.last().ok_or("no set")?);
        if set.is_right() {
            return Ok(());
        }
        let item = marking::render(source, set.seed)?;
        let given: Vec<(String, Response)> = item
            .parts
            .iter()
            .map(|part| {
                let response = match entry {
                    Some(entry) if entry.starts_with("reply") => mistyped(part, reply_number(entry)),
                    Some(entry) => part
                        .posed
                        .parse_response(entry)
                        .unwrap_or_else(|| mistyped(part, 0)),
                    None => part.typed_key(),
                };
                (part.id.clone(), response)
            })
            .collect();
        for (part, response) in &given {
            let draft = store::SaveDraft {
                question,
                set: number,
                part,
                based_on: 0,
                response,
            };
            let standing = store::Standing {
                assignment: self.stored.head.id,
                student: self.student,
                work: self.work,
                last: state.last_event,
                version: self.stored.version,
                session: None,
            };
            store::save_draft(&mut *self.tx, &standing, &draft, self.now).await?;
        }
        let by_hand = self
            .assignment
            .items
            .get(question)
            .is_some_and(coursework::ItemRef::is_by_hand);
        if !check || by_hand || self.assignment.is_simultaneous() {
            return Ok(());
        }
        let parts: Vec<MarkedPart> = mark_parts(&item, given);
        self.run(Command::Check {
            question,
            set: number,
            parts,
        })
        .await
    }

    async fn marked_drafts(&mut self) -> Result<Vec<MarkedQuestion>, WorldError> {
        let state = self.state().await?;
        let drafts = store::drafts_of(&mut *self.tx, self.work).await?;
        let mut marked = Vec::new();
        for wanted in to_mark_at_end(&self.assignment, &state, &entered(&drafts), End::Student) {
            let (_, source) = self
                .stored
                .questions
                .get(wanted.question)
                .ok_or("no such question")?;
            let item = marking::render(source, wanted.seed)?;
            marked.push(MarkedQuestion {
                question: wanted.question,
                parts: mark_wanted(&item, wanted),
            });
        }
        Ok(marked)
    }

    async fn finish(mut self, script: &WorldWork) -> Result<(), WorldError> {
        let state = self.state().await?;
        let seconds = script.minutes * 60;
        let by_question = shared_out(seconds, &state);
        store::set_active_seconds(&mut *self.tx, self.work, seconds, &by_question).await?;
        if script.seen {
            let note = self.assignment.settings.note.as_deref();
            store::set_seen(&mut *self.tx, self.work, state.last_event, note, true).await?;
        }
        self.tx.commit().await.map_err(WorldError::from)
    }
}

/// Time goes to the questions that something was checked on, more to those that took more tries.
fn shared_out(seconds: i64, state: &coursework::Work) -> BTreeMap<usize, i64> {
    let weight = |q: &coursework::QuestionState| {
        let tries: usize = q.sets.iter().map(|s| s.tries.len()).sum();
        i64::try_from(if tries == 0 { 0 } else { tries + 1 }).unwrap_or(0)
    };
    let all: i64 = state.questions.iter().map(weight).sum();
    let questions = state.questions.iter().enumerate();
    questions
        .map(|(n, q)| (n, seconds * weight(q) / all.max(1)))
        .filter(|(_, spent)| *spent > 0)
        .collect()
}

/// `reply 2` stands for the second of the wrong answers that the question knows.
fn reply_number(entry: &str) -> usize {
    let number = entry
        .trim_start_matches("reply")
        .trim()
        .parse::<usize>()
        .unwrap_or(1);
    number.saturating_sub(1)
}

/// What a student who does not get it right types: the wrong answer of a reply, else something that is close.
pub(super) fn mistyped(part: &ItemPart, reply: usize) -> Response {
    let known = part
        .replies
        .get(reply)
        .or(part.replies.first())
        .map(|r| r.known.clone());
    known.unwrap_or_else(|| part.posed.mistaken())
}
