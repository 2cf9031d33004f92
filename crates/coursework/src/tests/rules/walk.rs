//! Random settings, random moves, and the walk that makes them one after the other.

use std::collections::BTreeMap;
use std::sync::OnceLock;

use proptest::prelude::*;

use super::super::*;

#[derive(Clone, Debug)]
pub(in crate::tests) enum Move {
    Check(usize, Vec<(&'static str, usize)>),
    Draft(usize, &'static str, usize),
    Hint(usize),
    Example(usize),
    Solution(usize),
    Fresh(usize),
    GoOn(usize),
    HandIn,
    TakeBack,
    TimeUp,
    Wait(i64),
    Exception(i64, u32),
    Correct(usize, bool),
}

pub(in crate::tests) const ENTRIES: [&str; 9] = ["5", "4", "", "3 +", "2.5*2", "5.0", "-5", "1/0", "10/2"];

/// Marking is pure, so each entry is marked once.
pub(in crate::tests) fn verdict(part: &str, entry: usize) -> MarkedPart {
    static MARKED: OnceLock<Vec<MarkedPart>> = OnceLock::new();
    let all = MARKED.get_or_init(|| ENTRIES.iter().map(|e| marked("a", e)).collect());
    MarkedPart {
        part: part.into(),
        ..all[entry].clone()
    }
}

pub(in crate::tests) fn any_move() -> impl Strategy<Value = Move> {
    let entry = || 0..ENTRIES.len();
    let part = || prop::sample::select(vec!["a", "b", "c"]);
    let question = || 0..4usize;
    prop_oneof![
        8 => (question(), prop::collection::vec((part(), entry()), 0..3)).prop_map(|(q, e)| Move::Check(q, e)),
        4 => (question(), part(), entry()).prop_map(|(q, p, e)| Move::Draft(q, p, e)),
        1 => question().prop_map(Move::Hint),
        1 => question().prop_map(Move::Example),
        2 => question().prop_map(Move::Solution),
        2 => question().prop_map(Move::Fresh),
        2 => question().prop_map(Move::GoOn),
        2 => Just(Move::HandIn),
        1 => Just(Move::TakeBack),
        1 => Just(Move::TimeUp),
        3 => (0..600i64).prop_map(Move::Wait),
        1 => (-600..2000i64, 0..2u32).prop_map(|(minutes, more)| Move::Exception(minutes, more)),
        1 => (0..8usize, any::<bool>()).prop_map(|(nth, right)| Move::Correct(nth, right)),
    ]
}

prop_compose! {
    pub(in crate::tests) fn any_settings()(
        quiz: bool,
        late in prop_oneof![Just(LateRule::Flagged), (0..=100u8).prop_map(LateRule::PercentOff), Just(LateRule::NotAccepted)],
        navigation in prop_oneof![
            2 => Just(Navigation::Nonlinear),
            1 => any::<bool>().prop_map(|going_back| Navigation::Linear { going_back })
        ],
        allow_skipping: bool,
        max_attempts in prop::option::of(1..4u32),
        max_sets in prop::option::of(1..4u32),
        hint_cost in prop_oneof![Just(0u8), 1..60u8],
        hints: bool,
        show in 0..5usize,
        release in 0..3usize,
        hand_ins in prop::option::of(1..3u32),
        last: bool,
        needs: bool,
        time_limit in prop::option::of(1..400u32),
        hours in (1..40i64, 0..40i64),
        own_tries in prop::option::of(1..3u32),
    ) -> Settings {
        let due = noon() + Duration::hours(hours.0);
        let mut s = Settings::homework(noon() - Duration::hours(1), due);
        s.closes = due + Duration::hours(hours.1);
        if quiz {
            s.checking = Checking::Simultaneous;
        }
        s.late = late;
        s.navigation = navigation;
        s.allow_skipping = allow_skipping;
        s.max_attempts = max_attempts;
        s.max_sets = max_sets;
        s.hint_cost = hint_cost;
        s.hints = hints;
        s.show_solution = [
            ShowSolution::WhenTriesRunOut,
            ShowSolution::AfterFullCredit,
            ShowSolution::OnRequest,
            ShowSolution::AfterDue,
            ShowSolution::Never,
        ][show];
        s.release = [Release::AtOnce, Release::AtHandIn, Release::AfterDue][release];
        s.hand_ins = hand_ins;
        s.which_counts = if last { WhichCounts::Last } else { WhichCounts::Best };
        s.hand_in_needs = if needs { HandInNeeds::EveryQuestionAttempted } else { HandInNeeds::Nothing };
        s.time_limit = time_limit;
        s.question_attempts = own_tries.map(|n| BTreeMap::from([(1, n)])).unwrap_or_default();
        s
    }
}

pub(in crate::tests) fn items() -> Vec<ItemRef> {
    let part = |id: &str, max_attempts| PartRef {
        id: id.into(),
        share: 1,
        max_attempts,
        opens_after: None,
        by_hand: false,
    };
    vec![
        ItemRef {
            points: 2,
            parts: vec![part("a", None)],
            all_parts_needed: false,
        },
        ItemRef {
            points: 4,
            parts: vec![part("a", None), part("b", Some(1))],
            all_parts_needed: false,
        },
        ItemRef {
            points: 3,
            parts: vec![part("a", None), part("b", None)],
            all_parts_needed: true,
        },
    ]
}

/// What one move did.
pub(in crate::tests) struct Step<'a> {
    pub assignment: &'a Assignment,
    pub now: OffsetDateTime,
    pub before: &'a Work,
    pub after: &'a Work,
    /// The student's or the clock's command; `None` for waiting and for what teachers do.
    pub command: Option<&'a Command>,
    pub outcome: &'a Result<Vec<Event>, Refusal>,
}

impl Step<'_> {
    pub(in crate::tests) fn events(&self) -> &[Event] {
        self.outcome.as_deref().unwrap_or_default()
    }

    pub(in crate::tests) fn points(&self) -> (f64, f64) {
        (
            score_so_far(self.assignment, self.before).points,
            score_so_far(self.assignment, self.after).points,
        )
    }
}

/// Runs the moves and looks at each with `look`.
pub(in crate::tests) fn walk(
    settings: &Settings,
    moves: &[Move],
    mut look: impl FnMut(&Step) -> Result<(), TestCaseError>,
) -> Result<Bench, TestCaseError> {
    let mut bench = Bench {
        assignment: Assignment {
            settings: settings.clone(),
            items: items(),
        },
        events: Vec::new(),
        now: noon(),
    };
    let mut drafts: Vec<Entered> = Vec::new();
    bench
        .run(&Command::Open {
            seeds: vec![11, 12, 13],
        })
        .unwrap();
    for step in moves {
        let before = bench.work();
        let mark_drafts = |end: End| {
            let wanted = to_mark_at_end(&bench.assignment, &before, &drafts, end);
            wanted.into_iter().map(|w| MarkedQuestion {
                question: w.question,
                parts: w
                    .parts
                    .into_iter()
                    .map(|(part, response)| {
                        let Response::Text(text) = response else {
                            unreachable!()
                        };
                        verdict(&part, ENTRIES.iter().position(|e| *e == text).unwrap())
                    })
                    .collect(),
            })
        };
        let command = match step {
            Move::Check(question, entries) => Some(Command::Check {
                question: *question,
                set: before
                    .questions
                    .get(*question)
                    .map_or(0, |q| q.sets.len().saturating_sub(1)),
                parts: entries.iter().map(|(p, e)| verdict(p, *e)).collect(),
            }),
            Move::Hint(question) => Some(Command::TakeHint {
                question: *question,
                available: 2,
            }),
            Move::Example(question) => Some(Command::SeeExample {
                question: *question,
                available: true,
            }),
            Move::Solution(question) => Some(Command::ShowSolution { question: *question }),
            Move::Fresh(question) => Some(Command::FreshNumbers {
                question: *question,
                seed: 99,
            }),
            Move::GoOn(to) => Some(Command::MoveOn {
                to: *to,
                answered: false,
            }),
            Move::HandIn => Some(Command::HandIn {
                marked: mark_drafts(End::Student).collect(),
            }),
            Move::TakeBack => Some(Command::TakeBack),
            Move::TimeUp => Some(Command::TimeUp {
                marked: mark_drafts(End::Clock).collect(),
            }),
            Move::Draft(question, part, entry) => {
                let set = before
                    .questions
                    .get(*question)
                    .map_or(0, |q| q.sets.len().saturating_sub(1));
                if may_draft(&bench.assignment, &before, *question, set, part, bench.now).is_ok() {
                    drafts.retain(|d| (d.question, d.set, d.part.as_str()) != (*question, set, *part));
                    drafts.push(Entered {
                        question: *question,
                        set,
                        part: (*part).into(),
                        response: Response::Text(ENTRIES[*entry].into()),
                    });
                }
                None
            }
            Move::Wait(minutes) => {
                bench.now += Duration::minutes(*minutes);
                None
            }
            Move::Exception(minutes, more) => {
                bench.add(Event::ExceptionGiven(Exception {
                    due: Some(bench.now + Duration::minutes(*minutes)),
                    time_percent: Some(125),
                    more_hand_ins: *more,
                    more_sets: *more,
                    ..Exception::default()
                }));
                None
            }
            Move::Correct(nth, right) => {
                correct(&mut bench, *nth, *right);
                None
            }
        };
        let outcome = match &command {
            Some(command) => decide(&bench.assignment, &before, command, bench.now),
            None => Ok(Vec::new()),
        };
        for event in outcome.iter().flatten() {
            bench.add(event.clone());
        }
        let after = bench.work();
        look(&Step {
            assignment: &bench.assignment,
            now: bench.now,
            before: &before,
            after: &after,
            command: command.as_ref(),
            outcome: &outcome,
        })?;
    }
    Ok(bench)
}

/// A correction of the nth check there was.
pub(in crate::tests) fn correct(bench: &mut Bench, nth: usize, right: bool) {
    let mut checks = bench.events.iter().filter_map(|r| match &r.event {
        Event::Checked(c) => Some((r.number, c.clone())),
        _ => None,
    });
    let Some((event, checked)) = checks.nth(nth) else {
        return;
    };
    let mut parts = checked.parts;
    for part in &mut parts {
        (part.outcome, part.score) = if right {
            (Outcome::Correct, 1.0)
        } else {
            (Outcome::Incorrect, 0.0)
        };
    }
    bench.add(Event::KeyCorrected(Correction {
        question: checked.question,
        version: format!("v{}", bench.events.len()),
        remarked: vec![Remark {
            event,
            parts,
            used_a_try: checked.used_a_try,
        }],
        by: None,
        why: String::new(),
    }));
}

pub(in crate::tests) fn moves() -> impl Strategy<Value = Vec<Move>> {
    prop::collection::vec(any_move(), 0..45)
}

pub(in crate::tests) fn without_corrections(moves: &[Move]) -> Vec<Move> {
    let kept = moves.iter().filter(|m| !matches!(m, Move::Correct(..)));
    kept.cloned().collect()
}
