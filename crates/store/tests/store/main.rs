//! What the tables promise, on a real PostgreSQL: nobody is overwritten, nothing is counted twice, dates move together.

mod desk;
mod digests;
mod edges;
mod lanes;
mod people;
mod pictures;

use std::sync::LazyLock;

use coursework::{Event, Exception, PracticeEvent, PracticeGoal, Run, Settings, Target, Work};
use marking::Response;
use sqlx::PgPool;
use store::{Derived, PersonId, SaveDraft, Saved, StoreError, WorkId, Workings};
use time::{Duration, OffsetDateTime};
use uuid::Uuid;

fn noon() -> OffsetDateTime {
    OffsetDateTime::from_unix_timestamp(1_800_000_000).unwrap()
}

const QUESTION: &str = "{id: doubled, title: Doubled, points: 1, text: 'Twice 4?', few_answers: true, parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '8'}}]}";

async fn world(pool: &PgPool) -> (PersonId, Uuid, WorkId) {
    let person = store::put_person(pool, "ada", "Ada Quill", "none", store::Role::Student)
        .await
        .unwrap();
    let class = store::put_class(pool, "Site Practice").await.unwrap();
    store::add_member(pool, class, person).await.unwrap();
    let question = marking::parse_question(QUESTION).unwrap();
    let (id, _) = store::put_question(pool, &question, b"one", noon())
        .await
        .unwrap();
    let settings = Settings::homework(noon(), noon() + Duration::days(2));
    let (assignment, _) = store::put_assignment(pool, class, "doubling", "Doubling", &settings, &[id])
        .await
        .unwrap();
    let work = store::start_work(pool, assignment, person).await.unwrap();
    (person, assignment, work)
}

/// Where it does not matter what the events come to.
static EMPTY: LazyLock<Work> = LazyLock::new(Work::default);

fn addition(about: (PersonId, Uuid, WorkId), last: u32, events: &[Event]) -> store::Append<'_> {
    store::Append {
        assignment: about.1,
        version: 1,
        student: about.0,
        work: Some(about.2),
        last,
        events,
        after: Derived {
            state: &EMPTY,
            ends_at: None,
            recorded_percent: None,
            sheet: coursework::SheetCell::default(),
        },
        at: noon(),
        by_student: false,
        session: None,
    }
}

async fn append(
    pool: &PgPool,
    about: (PersonId, Uuid, WorkId),
    last: u32,
    event: Event,
) -> Result<(), StoreError> {
    store::append(pool, &addition(about, last, &[event]))
        .await
        .map(|_| ())
}

fn standing<'a>(about: (PersonId, Uuid, WorkId), last: u32) -> store::Standing<'a> {
    store::Standing {
        assignment: about.1,
        student: about.0,
        work: about.2,
        last,
        version: 1,
        session: None,
    }
}

async fn head(pool: &PgPool, assignment: Uuid, person: PersonId) -> store::WorkHead {
    let found = store::visited_work(pool, assignment, person).await.unwrap();
    found.unwrap().head
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn starting_work_twice_is_one_work(pool: PgPool) {
    let (person, assignment, work) = world(&pool).await;
    assert_eq!(store::start_work(&pool, assignment, person).await.unwrap(), work);
    assert_eq!(
        store::works_on(&pool, assignment).await.unwrap(),
        [(work, person)]
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn an_event_number_that_is_taken_is_a_conflict(pool: PgPool) {
    let about = world(&pool).await;
    let work = about.2;
    append(&pool, about, 0, Event::Opened { seeds: vec![5] })
        .await
        .unwrap();
    let second = append(&pool, about, 0, Event::TakenBack).await;
    assert!(matches!(second, Err(StoreError::Conflict)));
    let events = store::events_of(&pool, work).await.unwrap();
    assert_eq!(events.len(), 1);
    assert_eq!(events[0].event, Event::Opened { seeds: vec![5] });
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_draft_or_note_on_an_older_revision_is_not_taken(pool: PgPool) {
    let about = world(&pool).await;
    let work = about.2;
    let response = Response::Text("8".into());
    let save = |based_on| SaveDraft {
        question: 0,
        set: 0,
        part: "a",
        based_on,
        response: &response,
    };
    assert_eq!(
        store::save_draft(&pool, &standing(about, 0), &save(0), noon())
            .await
            .unwrap(),
        Saved::At {
            revision: 1,
            drafts_at: 1
        }
    );
    assert_eq!(
        store::save_draft(&pool, &standing(about, 0), &save(0), noon())
            .await
            .unwrap(),
        Saved::Elsewhere {
            revision: 1,
            response: Some(response.clone())
        }
    );
    assert_eq!(
        store::save_draft(&pool, &standing(about, 0), &save(1), noon())
            .await
            .unwrap(),
        Saved::At {
            revision: 2,
            drafts_at: 2
        }
    );
    // A field that was never saved takes no later revision either.
    let other = SaveDraft { part: "b", ..save(3) };
    assert_eq!(
        store::save_draft(&pool, &standing(about, 0), &other, noon())
            .await
            .unwrap(),
        Saved::Elsewhere {
            revision: 0,
            response: None
        }
    );
    let notes = |revision, notes: &str| Workings {
        revision,
        notes: notes.into(),
        ink: serde_json::json!([]),
    };
    let saved = store::save_workings(&pool, work, 0, &notes(0, "one"), noon())
        .await
        .unwrap();
    assert_eq!(saved, Some(1));
    let late = store::save_workings(&pool, work, 0, &notes(0, "two"), noon())
        .await
        .unwrap();
    assert_eq!(late, None);
    let kept = store::find_workings(&pool, work, 0).await.unwrap().unwrap();
    assert_eq!((kept.revision, kept.notes.as_str()), (1, "one"));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn time_spent_counts_short_pauses_and_not_long_ones(pool: PgPool) {
    let (person, assignment, work) = world(&pool).await;
    for minutes in [0, 1, 2, 40, 41] {
        store::note_activity(&pool, work, Some(1), noon() + Duration::minutes(minutes))
            .await
            .unwrap();
    }
    assert_eq!(head(&pool, assignment, person).await.active_seconds, 180);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_clock_finds_what_has_ended(pool: PgPool) {
    let (person, assignment, work) = world(&pool).await;
    let derived = Derived {
        state: &EMPTY,
        ends_at: Some(noon()),
        recorded_percent: Some(40.0),
        sheet: coursework::SheetCell::default(),
    };
    assert!(store::put_derived(&pool, work, 1, derived).await.unwrap());
    let before = noon() - Duration::seconds(1);
    let again = noon() + Duration::seconds(30);
    assert!(store::take_ended(&pool, before, again).await.unwrap().is_empty());
    let ended = store::take_ended(&pool, noon(), again).await.unwrap();
    assert_eq!(
        (ended[0].work, ended[0].assignment, ended[0].student),
        (work, assignment, person)
    );
    // One that is taken comes back only later, so that it holds up nothing.
    assert!(store::take_ended(&pool, noon(), again).await.unwrap().is_empty());
    assert_eq!(store::take_ended(&pool, again, again).await.unwrap().len(), 1);
    let scores = store::recorded_scores(&pool, &[assignment, Uuid::nil()])
        .await
        .unwrap();
    assert_eq!((scores.len(), &scores[&assignment][..]), (1, &[40.0][..]));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_was_seen_stays_seen(pool: PgPool) {
    let (person, assignment, work) = world(&pool).await;
    store::set_seen(&pool, work, 5, Some("note"), true).await.unwrap();
    store::set_seen(&pool, work, 3, None, false).await.unwrap();
    let head = head(&pool, assignment, person).await;
    assert_eq!(
        (head.seen_event, head.seen_note.as_deref(), head.result_seen),
        (5, Some("note"), true)
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_question_loaded_again_is_the_newest_again(pool: PgPool) {
    world(&pool).await;
    let question = marking::parse_question(QUESTION).unwrap();
    let later = |n| noon() + Duration::minutes(n);
    let (two, is_new) = store::put_question(&pool, &question, b"two", later(1))
        .await
        .unwrap();
    assert!(is_new);
    assert_eq!(
        store::find_question_by_slug(&pool, "doubled").await.unwrap(),
        Some(two)
    );
    let (one, is_new) = store::put_question(&pool, &question, b"one", later(2))
        .await
        .unwrap();
    assert!(!is_new);
    assert_eq!(
        store::find_question_by_slug(&pool, "doubled").await.unwrap(),
        Some(one)
    );
    assert_eq!(store::newest_questions(&pool).await.unwrap().len(), 1);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn practice_is_one_persons_and_in_order(pool: PgPool) {
    let (person, _, _) = world(&pool).await;
    let goal = PracticeGoal {
        skills: vec!["ratios".into()],
        target: Target::Right(2),
        question: None,
    };
    let run = store::start_run(&pool, person, &goal, noon()).await.unwrap();
    let other = store::put_person(&pool, "cy", "Cy Fenn", "none", store::Role::Student)
        .await
        .unwrap();
    assert_eq!(store::find_run(&pool, run.0, other).await.unwrap(), None);
    assert_eq!(
        store::find_run(&pool, run.0, person).await.unwrap(),
        Some((run, goal))
    );
    let event = PracticeEvent::Checked {
        parts: Vec::new(),
        right: true,
    };
    let mut tx = pool.begin().await.unwrap();
    let after = Run::default().after(&event, noon());
    store::append_practice(&mut tx, run, &event, &after, noon())
        .await
        .unwrap();
    let taken = store::append_practice(&mut tx, run, &event, &after, noon()).await;
    assert!(matches!(taken, Err(StoreError::Conflict)));
    tx.commit().await.unwrap();
    let runs = store::runs_of(&pool, person).await.unwrap();
    assert_eq!((runs.len(), &runs[0].state), (1, &Some(after)));
    assert!(store::runs_of(&pool, other).await.unwrap().is_empty());
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_demo_worlds_dates_move_together(pool: PgPool) {
    let about = world(&pool).await;
    let (_, assignment, work) = about;
    assert_eq!(store::world_anchor(&pool, noon()).await.unwrap(), noon());
    let given = |due| {
        Event::ExceptionGiven(Exception {
            due: Some(due),
            ..Exception::default()
        })
    };
    append(&pool, about, 0, given(noon() + Duration::days(4)))
        .await
        .unwrap();
    let mut state = Work::default();
    state.last_event = 1;
    let derived = Derived {
        state: &state,
        ends_at: Some(noon()),
        recorded_percent: None,
        sheet: coursework::SheetCell::default(),
    };
    assert!(store::put_derived(&pool, work, 1, derived).await.unwrap());
    store::move_world(&pool, 3).await.unwrap();
    let days = Duration::days(3);
    assert_eq!(store::world_anchor(&pool, noon()).await.unwrap(), noon() + days);
    let events = store::events_of(&pool, work).await.unwrap();
    assert_eq!(events[0].at, noon() + days);
    assert_eq!(events[0].event, given(noon() + Duration::days(7)));
    let stored = store::find_assignment(&pool, assignment).await.unwrap().unwrap();
    assert_eq!(stored.head.settings.due, noon() + Duration::days(5));
    let by = noon() + Duration::days(2);
    assert!(store::take_ended(&pool, by, by).await.unwrap().is_empty());
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn all_of_a_persons_work_at_once_is_what_it_is_one_by_one(pool: PgPool) {
    let about = world(&pool).await;
    let (person, assignment, work) = about;
    let class = store::put_class(&pool, "Forces and Motion").await.unwrap();
    let settings = Settings::homework(noon(), noon() + Duration::days(1));
    let (elsewhere, _) = store::put_assignment(&pool, class, "other", "Other", &settings, &[])
        .await
        .unwrap();
    store::add_member(&pool, class, person).await.unwrap();
    for (last, event) in [(0, Event::Opened { seeds: vec![5] }), (1, Event::TakenBack)] {
        append(&pool, about, last, event).await.unwrap();
    }
    let response = Response::Text("8".into());
    let draft = SaveDraft {
        question: 0,
        set: 0,
        part: "a",
        based_on: 0,
        response: &response,
    };
    store::save_draft(&pool, &standing(about, 2), &draft, noon())
        .await
        .unwrap();
    let rows = store::desks_of(&pool, person).await.unwrap();
    let found = |id: Uuid| rows.iter().find(|r| r.assignment == id).unwrap();
    assert!(found(elsewhere).visited.work.is_none());
    let here = found(assignment).visited.work.as_ref().unwrap();
    assert_eq!((here.id, here.last_event), (work, 2));
    assert_eq!(here.drafts_at, 1);
    let mut drafts = store::drafts_of_all(&pool, &[work]).await.unwrap();
    assert_eq!(
        drafts.remove(&work.0),
        Some(store::drafts_of(&pool, work).await.unwrap())
    );
    let events = store::events_of(&pool, work).await.unwrap();
    let after = |n| {
        let pool = pool.clone();
        async move {
            store::events_after(&pool, &[(work, n)])
                .await
                .unwrap()
                .remove(&work.0)
        }
    };
    assert_eq!(after(0).await.unwrap(), events);
    assert_eq!(after(1).await.unwrap(), events[1..]);
    assert_eq!(after(2).await, None);
    let other = store::put_person(&pool, "cy", "Cy Fenn", "none", store::Role::Student)
        .await
        .unwrap();
    assert!(store::desks_of(&pool, other).await.unwrap().is_empty());
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_work_has_one_run_and_a_run_knows_its_assignment(pool: PgPool) {
    let (person, assignment, work) = world(&pool).await;
    let goal = |right| PracticeGoal {
        skills: vec!["ratios".into()],
        target: Target::Right(right),
        question: None,
    };
    let run = store::run_for_work(&pool, person, work, &goal(4), noon())
        .await
        .unwrap();
    let again = store::run_for_work(&pool, person, work, &goal(9), noon())
        .await
        .unwrap();
    assert_eq!(run, again);
    let (_, kept) = store::find_run(&pool, run.0, person).await.unwrap().unwrap();
    assert_eq!(kept, goal(4), "the first goal stays");
    assert_eq!(
        store::assignment_of_run(&pool, run).await.unwrap(),
        Some(assignment)
    );
    let free = store::start_run(&pool, person, &goal(2), noon()).await.unwrap();
    assert_eq!(store::assignment_of_run(&pool, free).await.unwrap(), None);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_is_entered_in_a_run_never_goes_back_to_an_earlier_question(pool: PgPool) {
    let (person, _, _) = world(&pool).await;
    let goal = PracticeGoal {
        skills: vec!["ratios".into()],
        target: Target::Right(4),
        question: None,
    };
    let run = store::start_run(&pool, person, &goal, noon()).await.unwrap();
    assert_eq!(store::find_entered(&pool, run).await.unwrap(), None);
    let entered = |number, revision, text: &str| store::EnteredInRun {
        number,
        revision,
        parts: vec![("a".into(), Response::Text(text.into()))],
    };
    for (number, based_on, text, kept) in [
        (1, 0, "one", Some(1)),
        (1, 1, "one, better", Some(2)),
        // Another window wrote on what it had seen before.
        (1, 1, "one, from elsewhere", None),
        (2, 0, "two", Some(1)),
        (1, 2, "late", None),
    ] {
        let given = entered(number, based_on, text);
        assert_eq!(
            store::put_entered(&pool, run, &given, noon()).await.unwrap(),
            kept,
            "{text}"
        );
    }
    assert_eq!(
        store::find_entered(&pool, run).await.unwrap(),
        Some(entered(2, 1, "two"))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_page_that_was_read_stays_read_with_its_first_instant(pool: PgPool) {
    let (person, _, _) = world(&pool).await;
    let put = |step, read, minutes| {
        let pool = pool.clone();
        async move {
            let at = noon() + Duration::minutes(minutes);
            store::put_page(&pool, person, "ratios", step, read, at)
                .await
                .unwrap();
        }
    };
    put(1, false, 0).await;
    let page = |pages: Vec<store::PageRead>| pages.into_iter().next().unwrap();
    assert_eq!(page(store::pages_of(&pool, person).await.unwrap()).read_at, None);
    put(3, true, 5).await;
    put(0, false, 9).await;
    put(3, true, 20).await;
    let kept = page(store::pages_of(&pool, person).await.unwrap());
    assert_eq!((kept.step, kept.opened_at), (3, noon()));
    assert_eq!(kept.read_at, Some(noon() + Duration::minutes(5)));
    store::world_anchor(&pool, noon()).await.unwrap();
    store::move_world(&pool, 2).await.unwrap();
    let moved = page(store::pages_of(&pool, person).await.unwrap());
    assert_eq!(moved.read_at, kept.read_at.map(|at| at + Duration::days(2)));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_typing_task_is_done_once(pool: PgPool) {
    let (person, _, _) = world(&pool).await;
    for task in ["root", "pi", "root"] {
        store::put_typing_done(&pool, person, task, noon()).await.unwrap();
    }
    let mut done = store::typing_done(&pool, person).await.unwrap();
    done.sort();
    assert_eq!(done, ["pi", "root"]);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn titles_are_those_of_the_newest_versions(pool: PgPool) {
    world(&pool).await;
    let renamed = QUESTION.replace("title: Doubled", "title: Twice as much");
    let question = marking::parse_question(&renamed).unwrap();
    store::put_question(&pool, &question, b"two", noon() + Duration::minutes(1))
        .await
        .unwrap();
    assert_eq!(
        store::question_titles(&pool).await.unwrap(),
        [("doubled".to_owned(), "Twice as much".to_owned())]
    );
}
