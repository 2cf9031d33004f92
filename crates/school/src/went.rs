//! How the questions of an assignment went: counts, and the wrong entries grouped by what they are equal to.

use std::sync::Arc;

use coursework::{QuestionWent, Work, question_went};
use marking::{Item, Likeness, Response, WrongEntry, group_wrong, is_doubtful, plain};
use store::{PersonId, TeacherReply};
use uuid::Uuid;

use marking::program::Reports;

use crate::School;
use crate::desk::Desk;
use crate::error::SchoolError;
use crate::stored::Stored;

/// A question, as it went.
pub struct Went {
    pub counts: QuestionWent,
    /// Part by part.
    pub parts: Vec<PartWent>,
}

pub struct PartWent {
    pub part: String,
    /// The largest first.
    pub groups: Vec<EntryGroup>,
    /// Most wrong entries agree with each other: the key may be what is wrong.
    pub doubtful: bool,
}

/// Wrong entries that come to the same, or went wrong in the same way.
pub struct EntryGroup {
    pub like: Likeness,
    /// LaTeX of one of them, and how a student gave it.
    pub reads_as: String,
    pub given: String,
    pub students: Vec<PersonId>,
    pub entries: usize,
    /// What the question's author says to it.
    pub said: String,
    /// What the teacher says to it.
    pub reply: String,
}

/// A wrong entry, whose it is, and how it was read.
struct Wrong {
    student: PersonId,
    item: Arc<Item>,
    part: String,
    response: Response,
    reads_as: String,
    reply: Option<usize>,
    slip: Option<marking::Slip>,
}

/// How each question of an assignment went, for the students given.
///
/// # Errors
/// What the database said.
pub async fn went(school: &School, stored: &Stored, students: &[PersonId]) -> Result<Vec<Went>, SchoolError> {
    let mut desks = Vec::new();
    for student in students {
        let desk = Desk::load(school, stored.head.id, *student).await?;
        if desk.work.opened_at.is_some() {
            desks.push(desk);
        }
    }
    let mut all = Vec::new();
    for question in 0..stored.questions.len() {
        let works: Vec<&Work> = desks.iter().map(|d| d.work.as_ref()).collect();
        let counts = question_went(works.into_iter(), question);
        let wrong = wrong_entries(school, &desks, question).await?;
        let names: Vec<String> = stored
            .questions
            .get(question)
            .map(|(_, q)| q.parts.iter().map(|p| p.id.clone()).collect())
            .unwrap_or_default();
        let replies: Vec<TeacherReply> = stored
            .replies
            .iter()
            .filter(|r| r.question == question)
            .cloned()
            .collect();
        // Comparing entries is computing.
        let parts = school
            .compute_for_all(Reports::default(), move || {
                names
                    .iter()
                    .map(|part| part_went(part, &wrong, &replies))
                    .collect()
            })
            .await?;
        all.push(Went { counts, parts });
    }
    Ok(all)
}

async fn wrong_entries(school: &School, desks: &[Desk], question: usize) -> Result<Vec<Wrong>, SchoolError> {
    let mut all = Vec::new();
    for desk in desks {
        for set in desk
            .work
            .questions
            .get(question)
            .into_iter()
            .flat_map(|q| &q.sets)
        {
            let wrong = set.tries.iter().flat_map(|t| &t.parts).filter(|p| p.is_wrong());
            for part in wrong {
                all.push(Wrong {
                    student: desk.student,
                    item: desk.item_of(school, question, set.seed).await?,
                    part: part.part.clone(),
                    response: part.response.clone(),
                    reads_as: part.reads_as.clone(),
                    reply: part.reply,
                    slip: part.slip,
                });
            }
        }
    }
    Ok(all)
}

fn part_went(part: &str, wrong: &[Wrong], replies: &[TeacherReply]) -> PartWent {
    let here: Vec<&Wrong> = wrong.iter().filter(|w| w.part == part).collect();
    let entries: Vec<WrongEntry<'_>> = here
        .iter()
        .map(|w| WrongEntry {
            item: &w.item,
            part: &w.part,
            response: &w.response,
            reply: w.reply,
            slip: w.slip,
        })
        .collect();
    let groups = group_wrong(&entries);
    let doubtful = is_doubtful(&groups);
    let group = |g: marking::WrongGroup| {
        let of: Vec<&&Wrong> = g.entries.iter().filter_map(|i| here.get(*i)).collect();
        let mut students: Vec<PersonId> = of.iter().map(|w| w.student).collect();
        students.sort_unstable_by_key(|s| s.0);
        students.dedup();
        let first = of.first();
        EntryGroup {
            reads_as: first.map(|w| w.reads_as.clone()).unwrap_or_default(),
            given: first
                .and_then(|w| Some(w.item.find_part(part)?.posed.in_words(&w.response)))
                .unwrap_or_default(),
            said: match (&g.like, first.and_then(|w| w.item.find_part(part))) {
                (Likeness::Reply { nth }, Some(part)) => {
                    part.replies.get(*nth).map(|r| plain(&r.say)).unwrap_or_default()
                }
                _ => String::new(),
            },
            students,
            entries: g.entries.len(),
            reply: replies
                .iter()
                .find(|r| r.part == part && r.like == g.like)
                .map(|r| r.words.clone())
                .unwrap_or_default(),
            like: g.like,
        }
    };
    PartWent {
        part: part.to_owned(),
        groups: groups.into_iter().map(group).collect(),
        doubtful,
    }
}

/// What the teacher says to a wrong entry on a set, if a reply was written for such.
pub fn teacher_reply<'a>(
    stored: &'a Stored,
    question: usize,
    item: &Item,
    checked: &coursework::CheckedPart,
) -> Option<&'a str> {
    if !checked.is_wrong() {
        return None;
    }
    let entry = WrongEntry {
        item,
        part: &checked.part,
        response: &checked.response,
        reply: checked.reply,
        slip: checked.slip,
    };
    let mine = stored
        .replies
        .iter()
        .filter(|r| r.question == question && r.part == checked.part);
    // The last one that was written.
    mine.rev()
        .find(|r| marking::is_like(&entry, &r.like))
        .map(|r| r.words.as_str())
}

/// Whom an assignment's entries are looked at for: the students of its class who have begun.
///
/// # Errors
/// What the database said.
pub async fn who_began(school: &School, assignment: Uuid) -> Result<Vec<store::Person>, SchoolError> {
    Ok(store::students_at(&school.pool, assignment).await?)
}
