//! Every refusal of the rules, as a browser meets it: its code, its words, and that nothing is changed by it.

use std::collections::BTreeSet;

use coursework::{Checking, Event, Goal, HandInNeeds, LateRule, Navigation, Refusal, Settings, ShowSolution};
use serde_json::{Value, json};
use sqlx::PgPool;
use time::{Duration, OffsetDateTime};

use crate::client::{Client, DOUBLED, check, client, homework, put_question, quiz, world};

type Step = (&'static str, &'static str, Value);

/// An assignment, what is done on it, and what is refused then.
struct Scene {
    settings: Settings,
    steps: Vec<Step>,
    refused: Step,
    code: &'static str,
}

fn post(tail: &'static str) -> Step {
    ("POST", tail, Value::Null)
}

fn send(tail: &'static str, body: Value) -> Step {
    ("POST", tail, body)
}

fn changed(settings: Settings, change: impl FnOnce(&mut Settings)) -> Settings {
    let mut settings = settings;
    change(&mut settings);
    settings
}

fn ago(hours: i64) -> OffsetDateTime {
    OffsetDateTime::now_utc() - Duration::hours(hours)
}

fn opened(settings: Settings, refused: Step, code: &'static str) -> Scene {
    Scene {
        settings,
        steps: vec![post("/open")],
        refused,
        code,
    }
}

fn after(settings: Settings, steps: Vec<Step>, refused: Step, code: &'static str) -> Scene {
    let mut all = vec![post("/open")];
    all.extend(steps);
    Scene {
        settings,
        steps: all,
        refused,
        code,
    }
}

fn draft(question: usize, set: usize, part: &str) -> Value {
    json!({"question": question, "set_number": set, "part": part, "based_on": 0, "response": "7"})
}

fn in_order(going_back: bool) -> Settings {
    changed(homework(), |s| s.navigation = Navigation::Linear { going_back })
}

fn with_solution(show: ShowSolution) -> Settings {
    changed(homework(), |s| s.show_solution = show)
}

fn one_try() -> Settings {
    changed(homework(), |s| s.max_attempts = Some(1))
}

fn towards(goal: Goal) -> Settings {
    Settings::towards(goal, ago(24), ago(-24))
}

/// What may be done, and when.
fn when_it_is_open() -> Vec<Scene> {
    let not_open = changed(homework(), |s| s.opens = ago(-1));
    let closed = changed(homework(), |s| {
        s.opens = ago(48);
        (s.due, s.closes) = (ago(1), ago(1));
    });
    let bare = |settings: Settings, refused, code| Scene {
        settings,
        steps: Vec::new(),
        refused,
        code,
    };
    let late = changed(homework(), |s| {
        (s.due, s.closes, s.late) = (ago(1), ago(-5), LateRule::NotAccepted);
    });
    vec![
        bare(not_open, post("/open"), "not_open_yet"),
        bare(closed, post("/open"), "closed"),
        bare(homework(), ("GET", "/board", Value::Null), "not_opened"),
        bare(homework(), send("/check", check("1")), "not_opened"),
        bare(homework(), post("/hand-in"), "not_opened"),
        after(
            late,
            vec![send("/check", check("1"))],
            post("/hand-in"),
            "late_not_accepted",
        ),
        bare(
            homework(),
            ("GET", "/practice/0/0", Value::Null),
            "not_closed_yet",
        ),
    ]
}

/// What there is to answer.
fn what_is_there() -> Vec<Scene> {
    let nothing = json!({"question": 0, "parts": [{"id": "a", "response": "  "}]});
    let elsewhere = json!({"question": 9, "parts": [{"id": "a", "response": "1"}]});
    let no_part = json!({"question": 0, "parts": [{"id": "z", "response": "1"}]});
    vec![
        opened(homework(), send("/check", elsewhere), "no_such_question"),
        opened(homework(), send("/check", no_part), "no_such_part"),
        opened(homework(), ("PUT", "/drafts", draft(0, 0, "z")), "no_such_part"),
        opened(homework(), ("PUT", "/drafts", draft(0, 4, "a")), "old_set"),
        opened(homework(), send("/check", nothing), "nothing_entered"),
        after(
            homework(),
            vec![send("/check", check("1"))],
            send("/check", check("1")),
            "already_tried",
        ),
        after(
            one_try(),
            vec![send("/check", check("1"))],
            send("/check", check("2")),
            "no_tries_left",
        ),
        after(
            homework(),
            vec![post("/questions/0/working")],
            send("/check", check("2")),
            "set_ended",
        ),
        opened(quiz(), send("/check", check("1")), "checked_at_hand_in"),
    ]
}

/// Questions one after the other.
fn the_order() -> Vec<Scene> {
    let move_to = |to: usize| send("/move-on", json!({ "to": to }));
    let second = json!({"question": 1, "parts": [{"id": "a", "response": "1"}]});
    let none_left_out = changed(in_order(true), |s| s.allow_skipping = false);
    vec![
        opened(homework(), move_to(1), "any_order"),
        opened(in_order(true), send("/check", second), "not_reached"),
        opened(in_order(true), move_to(2), "no_such_question"),
        opened(none_left_out, move_to(1), "answer_first"),
        after(
            in_order(false),
            vec![move_to(1)],
            send("/check", check("1")),
            "left_behind",
        ),
    ]
}

/// Hints, workings, fresh numbers, tools.
fn the_help() -> Vec<Scene> {
    let no_hints = changed(homework(), |s| s.hints = false);
    let one_set = changed(homework(), |s| s.max_sets = Some(1));
    let two_sets = changed(one_try(), |s| s.max_sets = Some(2));
    let no_example = changed(homework(), |s| s.worked_example = false);
    let no_calculator = changed(homework(), |s| s.tools.calculator = false);
    let fresh = || post("/questions/0/fresh-numbers");
    let working = || post("/questions/0/working");
    let wrong = |entry: &str| send("/check", check(entry));
    vec![
        opened(no_hints, post("/questions/0/hint"), "hints_off"),
        after(
            homework(),
            vec![post("/questions/0/hint")],
            post("/questions/0/hint"),
            "no_more_hints",
        ),
        opened(no_example, post("/questions/0/example"), "no_example"),
        opened(with_solution(ShowSolution::Never), working(), "no_solution"),
        opened(
            with_solution(ShowSolution::WhenTriesRunOut),
            working(),
            "solution_after_tries",
        ),
        opened(
            with_solution(ShowSolution::AfterFullCredit),
            working(),
            "solution_after_credit",
        ),
        opened(
            with_solution(ShowSolution::AfterDue),
            working(),
            "solution_after_due",
        ),
        opened(homework(), fresh(), "set_not_ended"),
        opened(one_set, fresh(), "no_fresh_numbers"),
        after(
            two_sets,
            vec![wrong("1"), fresh(), wrong("2")],
            fresh(),
            "no_sets_left",
        ),
        opened(
            no_calculator,
            send(
                "/calculate",
                json!({"question": 0, "entry": "1+1", "last": null, "last_exact": true}),
            ),
            "no_calculator",
        ),
    ]
}

/// Handing in, taking back, results.
fn the_hand_in() -> Vec<Scene> {
    let everything = changed(homework(), |s| {
        s.hand_in_needs = HandInNeeds::EveryQuestionAttempted
    });
    let once = changed(homework(), |s| s.hand_ins = Some(1));
    let at_hand_in = changed(quiz(), |s| {
        (s.hand_ins, s.checking) = (Some(2), Checking::Simultaneous);
    });
    let practice = || {
        towards(Goal::Right {
            skills: vec!["fractions".into()],
            right: 5,
        })
    };
    let reading = towards(Goal::Read {
        skills: vec!["fractions".into()],
    });
    let result = || ("GET", "/result", Value::Null);
    vec![
        opened(everything, post("/hand-in"), "questions_left"),
        after(
            once,
            vec![post("/hand-in"), send("/check", check("1"))],
            post("/hand-in"),
            "no_hand_ins_left",
        ),
        opened(homework(), post("/take-back"), "nothing_to_take_back"),
        after(
            at_hand_in,
            vec![post("/hand-in"), result(), send("/seen", json!({"result": true}))],
            post("/take-back"),
            "results_seen",
        ),
        opened(homework(), post("/practise"), "no_goal"),
        Scene {
            settings: reading,
            steps: Vec::new(),
            refused: post("/practise"),
            code: "only_reading",
        },
        Scene {
            settings: practice(),
            steps: vec![post("/practise")],
            refused: send("/check", check("1")),
            code: "no_such_question",
        },
    ]
}

/// What the rules refuse elsewhere, or cannot meet over the web; each with where it is looked at.
const ELSEWHERE: &[&str] = &[
    // to_mark.rs, and `coursework`
    "nothing_handed_in",
    "handed_in_again",
    "points_out_of_range",
    // start.rs
    "no_start",
    "placed_already",
    "start_first",
    // `practice::goals`
    "watch_first",
    // course.rs
    "something_first",
    // setting.rs, and `coursework`
    "empty_exception",
    "exception_out_of_range",
    "due_before_opening",
    // files.rs
    "marked_by_teacher",
    "numbers_stay",
    // help.rs, order.rs, results.rs, time_up.rs, races.rs
    "all_right",
    "incomplete",
    "too_many_unjudged",
    "time_up",
    "results_out",
    // practice.rs, goals.rs, hidden.rs
    "skill_locked",
    "nothing_to_practise",
    "no_other_numbers",
    "kept_for_quiz",
    "nothing_drawn",
    "answered",
    // The clock's own: `coursework` looks at it.
    "time_not_up",
];

async fn put(pool: &PgPool, number: usize, settings: &Settings) -> String {
    const WITH_HELP: &str = "
id: with-help
title: With help
points: 2
numbers: {n: {from: 100, to: 900}}
text: 'Twice {{n}}?'
parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '2*{{n}}'}}]
help: {hints: ['Double it.'], working: ['Add {{n}} to itself.']}
";
    let class = store::put_class(pool, "Site Practice").await.unwrap();
    let question = put_question(pool, WITH_HELP).await;
    let questions = if settings.goal.is_some() {
        Vec::new()
    } else {
        vec![question, question]
    };
    let slug = format!("scene-{number}");
    let (id, _) = store::put_assignment(pool, class, &slug, &slug, settings, &questions)
        .await
        .unwrap();
    id.to_string()
}

async fn events(pool: &PgPool, assignment: &str) -> Vec<Event> {
    let (ada, _) = store::find_credentials(pool, "ada").await.unwrap().unwrap();
    match store::find_work(pool, assignment.parse().unwrap(), ada.id)
        .await
        .unwrap()
    {
        Some(work) => store::events_of(pool, work)
            .await
            .unwrap()
            .into_iter()
            .map(|e| e.event)
            .collect(),
        None => Vec::new(),
    }
}

async fn play<S, B>(client: &Client<S>, pool: &PgPool, scenes: Vec<Scene>) -> BTreeSet<&'static str>
where
    S: actix_web::dev::Service<
            actix_http::Request,
            Response = actix_web::dev::ServiceResponse<B>,
            Error = actix_web::Error,
        >,
    B: actix_web::body::MessageBody,
{
    static COUNT: std::sync::atomic::AtomicUsize = std::sync::atomic::AtomicUsize::new(0);
    let ada = client.sign_in("ada").await;
    let mut met = BTreeSet::new();
    for scene in scenes {
        let number = COUNT.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
        let id = put(pool, number, &scene.settings).await;
        let body = |step: &Step| Some(step.2.clone()).filter(|b| !b.is_null());
        for step in &scene.steps {
            let (status, answer) = client
                .send(
                    step.0,
                    &format!("/api/assignments/{id}{}", step.1),
                    Some(&ada),
                    body(step),
                )
                .await;
            assert!(
                status.is_success(),
                "{}: {} {} is {answer}",
                scene.code,
                step.0,
                step.1
            );
        }
        let before = events(pool, &id).await;
        let (method, tail, _) = &scene.refused;
        let path = format!("/api/assignments/{id}{tail}");
        let (status, answer) = client.send(method, &path, Some(&ada), body(&scene.refused)).await;
        assert_eq!(answer["code"], scene.code, "{method} {tail}: {answer}");
        assert_eq!(status, 409, "{method} {tail}");
        assert_eq!(answer["status"], 409);
        let words = answer["detail"].as_str().unwrap();
        assert!(
            words.ends_with('.') && words.starts_with(char::is_uppercase),
            "{words}"
        );
        assert_eq!(
            events(pool, &id).await,
            before,
            "{} changed something",
            scene.code
        );
        met.insert(scene.code);
    }
    met
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn every_refusal_has_its_code_and_words_and_changes_nothing(pool: PgPool) {
    world(&pool).await;
    put_question(&pool, DOUBLED).await;
    let client = client!(pool);
    let mut met = BTreeSet::new();
    for scenes in [
        when_it_is_open(),
        what_is_there(),
        the_order(),
        the_help(),
        the_hand_in(),
    ] {
        met.extend(play(&client, &pool, scenes).await);
    }
    met.extend(ELSEWHERE);
    let all: BTreeSet<&str> = Refusal::ALL.iter().map(|r| r.code()).collect();
    assert_eq!(all.len(), Refusal::ALL.len(), "two refusals have one code");
    let unmet: Vec<&&str> = all.difference(&met).collect();
    assert!(unmet.is_empty(), "never met: {unmet:?}");
    let unknown: Vec<&&str> = met.difference(&all).collect();
    assert!(unknown.is_empty(), "no such refusals: {unknown:?}");
}

/// A goal is read from settings as a teacher's file has it.
#[test]
fn a_goal_and_its_settings_survive_a_file() {
    let settings = towards(Goal::Level {
        skills: vec!["fractions".into()],
        score: 95,
    });
    let text = serde_json::to_string(&settings).unwrap();
    assert_eq!(serde_json::from_str::<Settings>(&text).unwrap(), settings);
}
