//! A class's starting point: what is asked next, and what an answer comes to.

use std::sync::Arc;

use coursework::{
    CheckedPart, Goal, GraphFault, PARAMETERS, Placing, PlacingAnswer, PlacingCandidate, PlacingEvent,
    PlacingNext, Refusal, SkillGraph, answer_in_placing, fold_placing, given_in_placing, next_in_placing,
    not_learned,
};
use marking::{Dice, Item, Question, Response, Skill};
use store::{EnteredInPlacing, Person, PersonId, PlacedSkills, QuestionId, StoreError, StoredPlacing};
use uuid::Uuid;

use crate::School;
use crate::content::{find_skill, skills};
use crate::error::SchoolError;
use crate::glance::Glance;
use crate::learner::Learner;
use crate::marks::random_number;

/// Times that a question is drawn again because another window was first.
const MOST_TURNS: usize = 16;

/// A starting point as it stands.
pub struct StandingPlacing {
    pub stored: StoredPlacing,
    pub placing: Placing,
}

/// The skills of a class with all they build on; those of its assignments where no skill names the class.
pub fn skills_of_class(class: Uuid, title: &str, glances: &[Glance]) -> PlacedSkills {
    let named = skills().iter().filter(|s| s.class == title);
    let mut wanted: Vec<&Skill> = named.collect();
    if wanted.is_empty() {
        let of_class = glances.iter().filter(|g| g.stored.head.class_id == class);
        let questions = of_class.flat_map(|g| &g.stored.questions);
        let ids = questions.flat_map(|(_, q)| &q.skills);
        for skill in ids.filter_map(|id| find_skill(id)) {
            if !wanted.iter().any(|s| s.id == skill.id) {
                wanted.push(skill);
            }
        }
    }
    let mut looked = 0;
    while let Some(skill) = wanted.get(looked).copied() {
        looked += 1;
        for below in skill.requires.iter().filter_map(|id| find_skill(id)) {
            if !wanted.iter().any(|s| s.id == below.id) {
                wanted.push(below);
            }
        }
    }
    let one = |s: &Skill| (s.id.clone(), s.requires.clone());
    wanted.into_iter().map(one).collect()
}

/// The graph of a starting point's skills.
///
/// # Errors
/// A refusal where there are none; else the fault is the school's own.
pub fn graph_of(skills: &PlacedSkills) -> Result<SkillGraph, SchoolError> {
    let lines: Vec<(&str, Vec<&str>)> = skills
        .iter()
        .map(|(id, requires)| (id.as_str(), requires.iter().map(String::as_str).collect()))
        .collect();
    SkillGraph::new(&lines).map_err(|fault| match fault {
        GraphFault::Empty => Refusal::NoStart.into(),
        other => SchoolError::Inside(other.to_string()),
    })
}

/// Somebody's newest starting point in a class.
///
/// # Errors
/// What the database said.
pub async fn find_placing(
    school: &School,
    class: Uuid,
    person: PersonId,
) -> Result<Option<StandingPlacing>, SchoolError> {
    let mut found = store::reading(|| store::placings_in(&school.pool, class, Some(person))).await?;
    let Some(stored) = found.pop() else {
        return Ok(None);
    };
    let placing = fold_placing(&store::placing_events(&school.pool, stored.id).await?);
    Ok(Some(StandingPlacing { stored, placing }))
}

async fn get_placing(school: &School, class: Uuid, person: PersonId) -> Result<StandingPlacing, SchoolError> {
    find_placing(school, class, person)
        .await?
        .ok_or(SchoolError::NotFound)
}

/// Begins a starting point, or goes on with the one that is under way; its next question is asked.
///
/// # Errors
/// A refusal where it was done already, or where the bank has nothing to ask.
pub async fn begin(school: &School, class: Uuid, title: &str, person: PersonId) -> Result<(), SchoolError> {
    let standing = find_placing(school, class, person).await?;
    let done = standing.as_ref().is_some_and(|s| s.placing.ended.is_some());
    if done && standing.as_ref().is_some_and(|s| !s.stored.again) {
        return Err(Refusal::PlacedAlready.into());
    }
    if standing.is_none() || done {
        let glances = Glance::all(school, person).await?;
        let skills = skills_of_class(class, title, &glances);
        let learner = Learner::of(school, person, &glances).await?;
        if !has_questions(school, &skills, &learner).await? {
            return Err(Refusal::NoStart.into());
        }
        store::start_placing(
            &school.pool,
            class,
            person,
            &skills,
            random_number()?,
            school.now(),
        )
        .await?;
    }
    ask_next(school, class, person).await
}

/// Whether there is anything to ask.
///
/// # Errors
/// What the database said.
pub async fn has_questions(
    school: &School,
    skills: &PlacedSkills,
    learner: &Learner,
) -> Result<bool, SchoolError> {
    if skills.is_empty() {
        return Ok(false);
    }
    let graph = graph_of(skills)?;
    Ok(!askable(school, &graph, learner).await?.is_empty())
}

/// Questions that a starting point may ask: those the machine marks, on its skills, not kept for a quiz.
async fn askable(
    school: &School,
    graph: &SkillGraph,
    learner: &Learner,
) -> Result<Vec<(QuestionId, Arc<Question>)>, SchoolError> {
    let mut questions = school.bank().await?;
    questions.retain(|(_, q)| {
        let main = q.skills.first().and_then(|s| graph.place_of(s));
        main.is_some() && q.is_drawn() && !learner.is_kept_for_quiz(&q.id)
    });
    Ok(questions)
}

/// Asks the next question, unless one waits for an answer; or ends it where enough is known.
async fn ask_next(school: &School, class: Uuid, person: PersonId) -> Result<(), SchoolError> {
    let learner = Learner::load(school, person).await?;
    let mut questions = None;
    for _ in 0..MOST_TURNS {
        let StandingPlacing { stored, placing } = get_placing(school, class, person).await?;
        if placing.open().is_some() || placing.ended.is_some() {
            return Ok(());
        }
        let graph = graph_of(&stored.skills)?;
        let questions = match &mut questions {
            Some(questions) => questions,
            None => questions.insert(askable(school, &graph, &learner).await?),
        };
        let candidates: Vec<PlacingCandidate> = questions
            .iter()
            .map(|(_, q)| PlacingCandidate {
                question: q.id.clone(),
                skills: q.skills.clone(),
                guess: q.guess(PARAMETERS.guess_typed),
            })
            .collect();
        let (salt, asked) = (stored.salt, placing.clone());
        let next = school
            .compute(person, move || next_in_placing(&graph, &candidates, &asked, salt))
            .await?;
        let event = match next {
            PlacingNext::End { skills } => PlacingEvent::Ended { skills },
            PlacingNext::Ask { place, skill } => {
                let Some((version, question)) = questions.get(place).cloned() else {
                    return Err(SchoolError::NotFound);
                };
                let Some(seed) = seed_for(school, &question, &placing, salt, &learner, person).await? else {
                    questions.remove(place);
                    continue;
                };
                PlacingEvent::Asked {
                    question: question.id.clone(),
                    version: version.0.to_string(),
                    seed,
                    skill,
                    guess: question.guess(PARAMETERS.guess_typed),
                }
            }
        };
        let ends = matches!(event, PlacingEvent::Ended { .. });
        let mut tx = school.pool.begin().await?;
        match store::append_placing(&mut tx, stored.id, placing.last_event + 1, &event, school.now()).await {
            Ok(()) => tx.commit().await?,
            // Another window asked meanwhile: then that question stands.
            Err(StoreError::Conflict) => continue,
            Err(other) => return Err(other.into()),
        }
        if ends {
            return hand_in_where_asked(school, class, person).await;
        }
    }
    Err(StoreError::Conflict.into())
}

/// Numbers that were not asked before in it, and are not those of an open homework.
async fn seed_for(
    school: &School,
    question: &Arc<Question>,
    placing: &Placing,
    salt: u64,
    learner: &Learner,
    person: PersonId,
) -> Result<Option<u64>, SchoolError> {
    let before = placing.asked.iter().filter(|a| a.question == question.id);
    let earlier: Vec<u64> = before.map(|a| a.seed).collect();
    let open = learner.open_sets(&question.id).unwrap_or_default().to_vec();
    let nth = u64::try_from(placing.asked.len()).unwrap_or(u64::MAX);
    let base = Dice::new(salt ^ nth.wrapping_mul(0x9e37_79b9_7f4a_7c15)).draw();
    school.seed_apart(person, question, base, earlier, open).await
}

/// Where the class's starting point was set as an assignment, it is done and handed in with its last answer.
async fn hand_in_where_asked(school: &School, class: Uuid, person: PersonId) -> Result<(), SchoolError> {
    crate::goals::hand_in_where(school, person, |of, goal| of == class && *goal == Goal::Start {}).await
}

/// The question that was asked last, and its set.
///
/// # Errors
/// `NotFound` where nothing was asked.
pub async fn last_asked(
    school: &School,
    placing: &Placing,
    person: PersonId,
) -> Result<(Arc<Question>, Arc<Item>), SchoolError> {
    let asked = placing.asked.last().ok_or(Refusal::NothingDrawn)?;
    let version = QuestionId(asked.version.parse().map_err(|_| SchoolError::NotFound)?);
    let question = school.question(version).await?;
    let item = school.item(version, &question, asked.seed, person).await?;
    Ok((question, item))
}

/// What somebody says to the open question.
pub enum Said {
    Answer(Vec<(String, Response)>),
    NotLearned,
}

/// Takes what was said to the `number`th question, and asks the next. Gives the verdicts on what could not be read, if
/// something could not: then nothing was used up.
///
/// # Errors
/// Why it is refused.
pub async fn answer(
    school: &School,
    class: Uuid,
    person: &Person,
    number: usize,
    said: Said,
) -> Result<Vec<CheckedPart>, SchoolError> {
    let StandingPlacing { stored, placing } = get_placing(school, class, person.id).await?;
    // A second click, or an older window: what was asked there is answered already.
    if number != placing.asked.len() {
        return Err(Refusal::Answered.into());
    }
    let event = match said {
        Said::NotLearned => not_learned(&placing)?,
        Said::Answer(responses) => {
            let (_, item) = last_asked(school, &placing, person.id).await?;
            let ids: Vec<&str> = item.parts.iter().map(|p| p.id.as_str()).collect();
            let given = given_in_placing(&placing, &ids, &responses)?;
            let marked = school.mark(person.id, &item, given).await?;
            match answer_in_placing(&placing, &ids, &marked)? {
                PlacingAnswer::Unread(parts) => return Ok(parts),
                PlacingAnswer::Taken(event) => event,
            }
        }
    };
    let mut tx = school.pool.begin().await?;
    match store::append_placing(&mut tx, stored.id, placing.last_event + 1, &event, school.now()).await {
        Ok(()) => tx.commit().await?,
        Err(StoreError::Conflict) => return Err(Refusal::Answered.into()),
        Err(other) => return Err(other.into()),
    }
    ask_next(school, class, person.id).await?;
    Ok(Vec::new())
}

/// What stands in the fields of the open question and was not given yet.
///
/// # Errors
/// What the database said.
pub async fn entered(
    school: &School,
    standing: &StandingPlacing,
) -> Result<Option<EnteredInPlacing>, SchoolError> {
    let entered = store::entered_in_placing(&school.pool, standing.stored.id).await?;
    let placing = &standing.placing;
    Ok(entered.filter(|e| e.number == placing.asked.len() && placing.open().is_some()))
}
