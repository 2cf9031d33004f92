//! Whatever happens on the way, in the end the portal has exactly the newest score of each student.

use std::collections::BTreeMap;
use std::sync::Mutex;

use coursework::Event;
use lti::Score;
use proptest::prelude::*;
use proptest::strategy::ValueTree;
use proptest::test_runner::{Config, TestRunner};
use school::portal::{Deliver, Delivered, deliver_due, keep_delivering};
use school::{School, SchoolError};
use sqlx::PgPool;
use store::PortalPlace;
use time::OffsetDateTime;
use tokio::sync::mpsc::{UnboundedSender, unbounded_channel};
use uuid::Uuid;

use crate::client::{DOUBLED, Hands, add_event, homework, world_with};

/// What happens to one score on its way.
#[derive(Clone, Copy, Debug)]
enum Fate {
    Taken,
    /// The portal does not answer.
    Away,
    Refused,
    /// Taken, but the answer is lost: the server ends before it is written down.
    CrashAfter,
    CrashBefore,
    /// It is on its way for long, and arrives after what is sent later.
    Delayed,
}

/// A portal as AGS 2.0 has it: of two scores the one with the later timestamp stands.
#[derive(Default)]
struct GradeBook {
    has: BTreeMap<String, (OffsetDateTime, Option<f64>)>,
    on_the_way: Vec<Score>,
}

impl GradeBook {
    fn take(&mut self, score: &Score) -> bool {
        let newer = self
            .has
            .get(&score.user_id)
            .is_none_or(|(at, _)| *at < score.timestamp);
        if newer {
            let percent = score
                .score_given
                .zip(score.score_maximum)
                .map(|(g, m)| 100.0 * g / m);
            self.has.insert(score.user_id.clone(), (score.timestamp, percent));
        }
        newer
    }
}

struct Weather<'a> {
    book: &'a Mutex<GradeBook>,
    fates: &'a Mutex<Vec<Fate>>,
}

impl Deliver for Weather<'_> {
    async fn deliver(&self, _: &PortalPlace, score: &Score) -> Result<Delivered, SchoolError> {
        let fate = self.fates.lock().unwrap().pop().unwrap_or(Fate::Taken);
        let crash = || Err(SchoolError::Inside("the server ended".into()));
        let mut book = self.book.lock().unwrap();
        match fate {
            Fate::Taken => {
                let words = if book.take(score) {
                    "taken"
                } else {
                    "it has a newer one"
                };
                Ok(Delivered::There(words.into()))
            }
            Fate::Away => Ok(Delivered::Away("503".into())),
            Fate::Refused => Ok(Delivered::Refused("422".into())),
            Fate::CrashAfter => {
                book.take(score);
                crash()
            }
            Fate::CrashBefore => crash(),
            Fate::Delayed => {
                book.on_the_way.push(score.clone());
                crash()
            }
        }
    }
}

/// One thing that happens.
#[derive(Clone, Debug)]
enum Step {
    /// A student's score is another one.
    Scored(usize, u8),
    Handed(usize),
    TakenBack(usize),
    /// Servers send what is due, with these fates.
    Send(Vec<Fate>),
    /// Time goes on, by seconds.
    Wait(i64),
    /// What was delayed arrives.
    Arrive,
    Again,
}

fn fate() -> impl Strategy<Value = Fate> {
    prop_oneof![
        3 => Just(Fate::Taken),
        1 => Just(Fate::Away),
        1 => Just(Fate::Refused),
        1 => Just(Fate::CrashAfter),
        1 => Just(Fate::CrashBefore),
        2 => Just(Fate::Delayed),
    ]
}

fn step() -> impl Strategy<Value = Step> {
    prop_oneof![
        3 => (0..3usize, 0..=4u8).prop_map(|(s, q)| Step::Scored(s, q)),
        2 => (0..3usize).prop_map(Step::Handed),
        1 => (0..3usize).prop_map(Step::TakenBack),
        4 => prop::collection::vec(fate(), 0..4).prop_map(Step::Send),
        3 => (1..4_000i64).prop_map(Step::Wait),
        1 => Just(Step::Arrive),
        1 => Just(Step::Again),
    ]
}

const STUDENTS: [&str; 3] = ["ada", "bo", "cy"];

struct Bench {
    pool: PgPool,
    school: School,
    hands: Hands,
    assignment: String,
    class: Uuid,
    portal: Uuid,
}

/// A portal with a course for a class, in which students are known by their names; and its id.
async fn portal(pool: &PgPool, name: &str, class: Uuid, assignment: &str) -> Uuid {
    let issuer = format!("https://{name}.example");
    let portal = store::PortalChange {
        name,
        issuer: &issuer,
        client_id: "c",
        authorization_url: "https://p.example/a",
        token_url: "https://p.example/t",
        token_audience: None,
        jwks_url: "https://p.example/k",
        deployments: &["1".to_owned()],
        vouches_for_teachers: true,
    };
    let now = OffsetDateTime::now_utc();
    let portal = store::add_portal(pool, &portal, now).await.unwrap();
    let course = store::put_course(pool, portal, "1", "c-1", "Course", class)
        .await
        .unwrap();
    let url = Some("https://p.example/line");
    store::put_line(pool, course, assignment.parse().unwrap(), url, now)
        .await
        .unwrap();
    for name in STUDENTS {
        let (person, _) = store::find_credentials(pool, name).await.unwrap().unwrap();
        store::add_member(pool, class, person.id).await.unwrap();
        let linked = store::link_in_portal(pool, portal, name, person.id, now).await;
        assert!(linked.unwrap());
    }
    portal
}

impl Bench {
    async fn new(pool: &PgPool) -> Bench {
        let assignment = world_with(pool, homework(), &[DOUBLED]).await;
        let stored = store::find_assignment(pool, assignment.parse().unwrap())
            .await
            .unwrap();
        let class = stored.unwrap().head.class_id;
        let portal = portal(pool, "p", class, &assignment).await;
        let hands = Hands::new();
        Bench {
            school: School::new(pool.clone()).with_clock(hands.clock()),
            pool: pool.clone(),
            hands,
            assignment,
            class,
            portal,
        }
    }

    async fn clear(&self) {
        for statement in [
            "update portals set away_until = null, away_tries = 0",
            "delete from portal_scores",
            "delete from works",
        ] {
            sqlx::query(statement).execute(&self.pool).await.unwrap();
        }
    }

    async fn add(&self, student: usize, event: Event) {
        add_event(&self.pool, &self.assignment, STUDENTS[student], event).await;
    }

    async fn act(&self, step: &Step, book: &Mutex<GradeBook>, ahead: &mut i64) {
        match step {
            Step::Scored(student, quarters) => {
                let points = f64::from(*quarters) / 4.0;
                let event = Event::ScoredByTeacher {
                    question: 0,
                    points,
                    note: String::new(),
                    by: None,
                    parts: Vec::new(),
                };
                self.add(*student, event).await;
            }
            Step::Handed(student) => {
                let recorded = coursework::RecordedScore {
                    points: 0.25,
                    of: 1,
                    taken_off: 0,
                    waiting: 0.0,
                };
                let event = Event::HandedIn {
                    late: false,
                    recorded,
                    by_time: false,
                };
                self.add(*student, event).await;
            }
            Step::TakenBack(student) => self.add(*student, Event::TakenBack).await,
            Step::Send(fates) => {
                let fates = Mutex::new(fates.clone());
                let to = Weather { book, fates: &fates };
                deliver_due(&self.school, &to).await.unwrap();
            }
            Step::Wait(seconds) => {
                *ahead += seconds;
                self.hands.move_to(*ahead);
            }
            Step::Arrive => {
                let mut book = book.lock().unwrap();
                for late in std::mem::take(&mut book.on_the_way) {
                    book.take(&late);
                }
            }
            Step::Again => {
                store::note_scores_again(&self.pool, self.class, None, self.school.now())
                    .await
                    .unwrap();
            }
        }
    }

    /// What is recorded here, by the portal's names.
    async fn recorded(&self) -> BTreeMap<String, f64> {
        let rows: Vec<(String, f64)> = sqlx::query_as(
            "select p.user_name, w.recorded_percent from works w join people p on p.id = w.student_id
             where w.recorded_percent is not null",
        )
        .fetch_all(&self.pool)
        .await
        .unwrap();
        rows.into_iter().collect()
    }
}

async fn in_the_end_it_is_the_newest(bench: &Bench, steps: Vec<Step>) {
    bench.clear().await;
    let book = Mutex::new(GradeBook::default());
    let mut ahead = 0;
    bench.hands.move_to(0);
    for step in &steps {
        bench.act(step, &book, &mut ahead).await;
    }
    // The weather clears: within hours, everything is there, whatever arrives late.
    for hour in 1..=4 {
        bench.hands.move_to(ahead + hour * 3_700);
        bench.act(&Step::Send(Vec::new()), &book, &mut 0).await;
    }
    bench.act(&Step::Arrive, &book, &mut 0).await;
    let there: BTreeMap<String, f64> = book
        .lock()
        .unwrap()
        .has
        .iter()
        .filter_map(|(who, (_, percent))| Some((who.clone(), (*percent)?)))
        .collect();
    assert_eq!(there, bench.recorded().await, "{steps:?}");
    let waiting: i64 = sqlx::query_scalar("select count(*) from portal_scores where wanted > sent")
        .fetch_one(&bench.pool)
        .await
        .unwrap();
    assert_eq!(waiting, 0, "{steps:?}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn whatever_happens_the_portal_has_the_newest_score(pool: PgPool) {
    let bench = Bench::new(&pool).await;
    let mut runner = TestRunner::new(Config {
        cases: 60,
        failure_persistence: None,
        ..Config::default()
    });
    let steps = prop::collection::vec(step(), 1..30);
    for _ in 0..60 {
        let tree = steps.new_tree(&mut runner).unwrap();
        in_the_end_it_is_the_newest(&bench, tree.current()).await;
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_note_is_written_with_the_score_or_not_at_all(pool: PgPool) {
    let bench = Bench::new(&pool).await;
    bench.act(&Step::Handed(0), &Mutex::default(), &mut 0).await;
    let noted = async || {
        let found: Vec<(i64, OffsetDateTime)> = sqlx::query_as("select wanted, wanted_at from portal_scores")
            .fetch_all(&pool)
            .await
            .unwrap();
        found
    };
    let before = noted().await;
    assert_eq!(before.len(), 1);
    // It has the instant of what happened.
    let at: OffsetDateTime = sqlx::query_scalar("select max(at) from events")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(before[0].1, at);
    // A transaction that comes to nothing leaves no note.
    let mut tx = pool.begin().await.unwrap();
    sqlx::query("update works set recorded_percent = 90")
        .execute(&mut *tx)
        .await
        .unwrap();
    tx.rollback().await.unwrap();
    assert_eq!(noted().await, before);
    // The next one is later, even at the same instant.
    sqlx::query("update works set recorded_percent = 90")
        .execute(&pool)
        .await
        .unwrap();
    let after = noted().await;
    assert_eq!(after[0].0, before[0].0 + 1);
    assert!(after[0].1 > before[0].1);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn two_servers_do_not_take_the_same_score(pool: PgPool) {
    let bench = Bench::new(&pool).await;
    for student in 0..3 {
        bench.act(&Step::Handed(student), &Mutex::default(), &mut 0).await;
    }
    let now = bench.school.now();
    let until = now + time::Duration::seconds(60);
    let take = |most| store::take_due_scores(&pool, bench.portal, now, until, most);
    let (a, b) = tokio::join!(take(2), take(2));
    let (a, b) = (a.unwrap(), b.unwrap());
    assert_eq!(a.len() + b.len(), 3);
    assert!(a.iter().all(|x| b.iter().all(|y| x.student != y.student)));
    // Once the lease of one that ended is over, another takes it.
    let later = until + time::Duration::seconds(60);
    let later = store::take_due_scores(&pool, bench.portal, until, later, 10).await;
    assert_eq!(later.unwrap().len(), 3);
}

/// One portal never answers; what the others were sent is told.
struct OneHangs {
    hangs: Uuid,
    told: UnboundedSender<(Uuid, String)>,
}

impl Deliver for OneHangs {
    async fn deliver(&self, place: &PortalPlace, score: &Score) -> Result<Delivered, SchoolError> {
        self.told.send((place.portal, score.user_id.clone())).unwrap();
        if place.portal == self.hangs {
            std::future::pending::<()>().await;
        }
        Ok(Delivered::There("taken".into()))
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_portal_that_hangs_holds_up_no_other(pool: PgPool) {
    let bench = Bench::new(&pool).await;
    // The same class is in two portals: every score is due at both.
    let other = portal(&pool, "q", bench.class, &bench.assignment).await;
    let (told, mut said) = unbounded_channel();
    let to = OneHangs {
        hangs: bench.portal,
        told,
    };
    let watch = async {
        let (mut asked, mut there) = (0, Vec::new());
        for (student, name) in STUDENTS.iter().enumerate() {
            bench.act(&Step::Handed(student), &Mutex::default(), &mut 0).await;
            loop {
                let (portal, who) = said.recv().await.unwrap();
                if portal == other {
                    assert_eq!(who, *name);
                    there.push(who);
                    break;
                }
                asked += 1;
            }
        }
        (asked, there)
    };
    let soon = std::time::Duration::from_secs(40);
    let (asked, there) = tokio::select! {
        () = keep_delivering(&bench.school, &to) => panic!("it goes on"),
        seen = tokio::time::timeout(soon, watch) => seen.expect("the other portal has its scores"),
    };
    assert_eq!(there, STUDENTS);
    assert_eq!(asked, 1, "while it hangs, nothing more is sent to it");
}
