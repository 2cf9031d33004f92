//! The starting point: its rules, and simulated students whose true states are known.

use marking::Dice;

use super::*;

/// Skills in the order of their names, each requiring one or two of the twelve before it, as a syllabus does.
fn syllabus(size: usize, seed: u64) -> Vec<(String, Vec<String>)> {
    let mut dice = Dice::new(seed);
    let name = |place: usize| format!("s{place:02}");
    (0..size)
        .map(|place| {
            let mut requires = Vec::new();
            if place > 0 {
                let window = place.min(12);
                for _ in 0..1 + dice.below(2) {
                    let back = 1 + usize::try_from(dice.below(u64::try_from(window).unwrap())).unwrap();
                    requires.push(name(place - back));
                }
            }
            (name(place), requires)
        })
        .collect()
}

fn graph_of(skills: &[(String, Vec<String>)]) -> SkillGraph {
    let lines: Vec<(&str, Vec<&str>)> = skills
        .iter()
        .map(|(name, requires)| (name.as_str(), requires.iter().map(String::as_str).collect()))
        .collect();
    SkillGraph::new(&lines).unwrap()
}

/// The graph of the demo's own skills: 26.
fn demo_graph() -> SkillGraph {
    let file = concat!(env!("CARGO_MANIFEST_DIR"), "/../../content/skills.yaml");
    let skills = marking::parse_skills(&std::fs::read_to_string(file).unwrap()).unwrap();
    let lines: Vec<(&str, Vec<&str>)> = skills
        .iter()
        .map(|s| (s.id.as_str(), s.requires.iter().map(String::as_str).collect()))
        .collect();
    SkillGraph::new(&lines).unwrap()
}

/// A state that the graph allows. Not drawn as the model draws its own: a student has come some way through the
/// syllabus, has left gaps before it and knows some things beyond.
fn student(graph: &SkillGraph, dice: &mut Dice) -> Vec<bool> {
    let way = dice.share();
    let size = f64::from(u32::try_from(graph.len()).unwrap());
    let mut known = vec![false; graph.len()];
    for place in 0..graph.len() {
        let before = f64::from(u32::try_from(place).unwrap()) < way * size;
        let chance = if before { 0.95 } else { 0.1 };
        let open = graph.requires(place).iter().all(|r| known[*r]);
        known[place] = open && dice.share() < chance;
    }
    known
}

struct Found {
    /// Skills placed right, of all.
    right: f64,
    /// Questions asked, student by student, sorted.
    asked: Vec<u32>,
}

/// Half of a student's skills have typed questions, the others choices among four, as banks do.
fn simulate(graph: &SkillGraph, students: u64, seed: u64) -> Found {
    let candidates: Vec<PlacingCandidate> = graph
        .names()
        .enumerate()
        .map(|(place, name)| PlacingCandidate {
            question: format!("q-{name}"),
            skills: vec![name.to_owned()],
            guess: if place % 2 == 0 { 0.05 } else { 0.25 },
        })
        .collect();
    let (mut right, mut all, mut asked) = (0_u32, 0_u32, Vec::new());
    for n in 0..students {
        let mut dice = Dice::new(seed + 7_919 * n);
        let truth = student(graph, &mut dice);
        let mut placing = Placing::default();
        let mut cloud = Cloud::new(graph, n);
        let picture = loop {
            match next_believing(graph, &candidates, &placing, &cloud.belief()) {
                PlacingNext::End { skills } => break skills,
                PlacingNext::Ask { place, skill } => {
                    let guess = candidates[place].guess;
                    let known = truth[graph.place_of(&skill).unwrap()];
                    let reply = match known {
                        true if dice.share() < 0.08 => Reply::Wrong,
                        true => Reply::Right,
                        // Half of those who don't know say so; the others try their luck.
                        false if dice.share() < 0.5 => Reply::NotLearned,
                        false if dice.share() < guess => Reply::Right,
                        false => Reply::Wrong,
                    };
                    cloud.take(graph.place_of(&skill).unwrap(), reply, guess);
                    placing.asked.push(Asked {
                        question: candidates[place].question.clone(),
                        version: String::new(),
                        seed: 0,
                        skill,
                        guess,
                        reply: Some(reply),
                    });
                }
            }
        };
        for (place, (_, p)) in picture.iter().enumerate() {
            all += 1;
            right += u32::from((*p >= KNOWN) == truth[place]);
        }
        asked.push(placing.answered());
    }
    asked.sort_unstable();
    Found {
        right: f64::from(right) / f64::from(all),
        asked,
    }
}

/// What `docs/starting-point.md` reports; run it with `--nocapture` to see the figures.
#[rstest]
#[case::ten(graph_of(&syllabus(10, 3)))]
#[case::the_demos_own(demo_graph())]
#[case::sixty(graph_of(&syllabus(60, 3)))]
fn made_up_students_are_placed_right(#[case] graph: SkillGraph) {
    let found = simulate(&graph, 3_000, 20_261_127);
    let at = |share: usize| found.asked[(found.asked.len() - 1) * share / 100];
    println!(
        "{} skills: {:.1} % placed right; questions: median {}, 90 of 100 students at most {}, most {}",
        graph.len(),
        100.0 * found.right,
        at(50),
        at(90),
        at(100)
    );
    assert!(found.right >= 0.9, "{:.3} placed right", found.right);
    assert!(at(50) <= 22, "a median of {} questions", at(50));
    assert!(at(100) <= MOST_ASKED);
}

fn chain() -> SkillGraph {
    SkillGraph::new(&[
        ("adding", vec![]),
        ("fractions", vec!["adding"]),
        ("ratios", vec!["fractions"]),
        ("gears", vec!["ratios", "elsewhere"]),
    ])
    .unwrap()
}

fn candidates(graph: &SkillGraph) -> Vec<PlacingCandidate> {
    graph
        .names()
        .map(|name| PlacingCandidate {
            question: format!("q-{name}"),
            skills: vec![name.to_owned()],
            guess: 0.05,
        })
        .collect()
}

fn asked(skill: &str, reply: Option<Reply>) -> Asked {
    Asked {
        question: format!("q-{skill}"),
        version: String::new(),
        seed: 0,
        skill: skill.into(),
        guess: 0.05,
        reply,
    }
}

#[test]
fn an_answer_speaks_for_what_it_rests_on_and_for_what_rests_on_it() {
    let graph = chain();
    let after = |skill: usize, reply| {
        Belief::after(&graph, [(skill, reply, 0.05)], 1)
            .known()
            .collect::<Vec<f64>>()
    };
    let before: Vec<f64> = Belief::after(&graph, [], 1).known().collect();
    let right = after(2, Reply::Right);
    assert!(
        right[0] > 0.95 && right[1] > 0.95 && right[3] > before[3],
        "{right:?}"
    );
    let unlearned = after(1, Reply::NotLearned);
    assert!(
        unlearned[1] < 0.1 && unlearned[2] < 0.1 && unlearned[3] < 0.1,
        "{unlearned:?}"
    );
    assert!(
        unlearned[0] > unlearned[1] + 0.1,
        "what it rests on may be known: {unlearned:?}"
    );
    // To say so tells more surely than a wrong answer that it is not known.
    assert!(unlearned[1] < after(1, Reply::Wrong)[1]);
    // Whatever was answered, nothing is surer than what it rests on.
    for known in [before, right, unlearned] {
        assert!(
            known.windows(2).all(|pair| pair[0] >= pair[1] - 1e-9),
            "{known:?}"
        );
    }
}

#[test]
fn the_same_answers_and_seed_always_ask_the_same() {
    let graph = demo_graph();
    let candidates = candidates(&graph);
    let run = |seed| {
        let mut placing = Placing::default();
        let mut order = Vec::new();
        while let PlacingNext::Ask { skill, .. } = next_in_placing(&graph, &candidates, &placing, seed) {
            let reply = if order.len() % 3 == 0 {
                Reply::Wrong
            } else {
                Reply::Right
            };
            placing.asked.push(asked(&skill, Some(reply)));
            order.push(skill);
        }
        (order, next_in_placing(&graph, &candidates, &placing, seed))
    };
    assert_eq!(run(5), run(5));
    assert!(run(5).0.len() > 3);
}

#[test]
fn a_skill_without_questions_is_not_asked_about_and_none_at_all_ends_it() {
    let graph = chain();
    let only: Vec<PlacingCandidate> = candidates(&graph).drain(1..2).collect();
    let mut placing = Placing::default();
    let mut count = 0;
    let picture = loop {
        match next_in_placing(&graph, &only, &placing, 4) {
            PlacingNext::Ask { skill, .. } => {
                assert_eq!(skill, "fractions");
                placing.asked.push(asked(&skill, Some(Reply::Right)));
                count += 1;
            }
            PlacingNext::End { skills } => break skills,
        }
    };
    assert!((1..=MOST_ASKED).contains(&count));
    assert!(picture[1].1 > 0.9);
    assert!(matches!(
        next_in_placing(&graph, &[], &Placing::default(), 4),
        PlacingNext::End { .. }
    ));
}

#[test]
fn strata_and_a_first_week_follow_from_what_is_known() {
    let graph = SkillGraph::new(&[
        ("adding", vec![]),
        ("fractions", vec!["adding"]),
        ("tables", vec!["adding"]),
        ("ratios", vec!["fractions"]),
        ("gears", vec!["ratios"]),
    ])
    .unwrap();
    let place = |name: &str| graph.place_of(name).unwrap();
    let mut known = vec![0.0; 5];
    known[place("adding")] = 0.8;
    let strata = strata_after(&graph, &known);
    assert_eq!(strata[place("adding")], Stratum::Known);
    assert_eq!(strata[place("fractions")], Stratum::Next);
    assert_eq!(strata[place("tables")], Stratum::Next);
    assert_eq!(strata[place("gears")], Stratum::FarOff);
    let week: Vec<(&str, bool)> = first_week(&graph, &known)
        .iter()
        .map(|d| (graph.name(d.skill), d.make_sure))
        .collect();
    // Two skills rest on fractions and none on tables; what they open follows, and what is known comes last.
    let wanted = ["fractions", "tables", "ratios", "gears"].map(|name| (name, false));
    assert_eq!(week, [wanted.as_slice(), &[("adding", true)]].concat());
}

#[test]
fn skills_in_a_circle_twice_or_too_many_are_refused() {
    let fault = |skills: &[(&str, Vec<&str>)]| SkillGraph::new(skills).unwrap_err();
    assert_eq!(fault(&[]), GraphFault::Empty);
    assert_eq!(fault(&[("a", vec!["b"]), ("b", vec!["a"])]), GraphFault::Circular);
    assert_eq!(
        fault(&[("a", vec![]), ("a", vec![])]),
        GraphFault::Twice("a".into())
    );
    let names: Vec<String> = (0..=MOST_SKILLS).map(|n| n.to_string()).collect();
    let many: Vec<(&str, Vec<&str>)> = names.iter().map(|n| (n.as_str(), vec![])).collect();
    assert_eq!(fault(&many), GraphFault::TooMany(MOST_SKILLS + 1));
    assert!(SkillGraph::new(&many[1..]).is_ok());
}

#[test]
fn what_can_t_be_read_uses_nothing_up_and_one_answer_is_all() {
    let mut placing = Placing {
        asked: vec![asked("ratios", None)],
        ..Placing::default()
    };
    let answer = |placing: &Placing, entry: &str| answer_in_placing(placing, &["a"], &[marked("a", entry)]);
    assert!(matches!(answer(&placing, "3 +").unwrap(), PlacingAnswer::Unread(parts) if parts.len() == 1));
    assert_eq!(answer(&placing, "").unwrap_err(), Refusal::NothingEntered);
    let reply = |given: PlacingAnswer| match given {
        PlacingAnswer::Taken(PlacingEvent::Answered { reply, .. }) => reply,
        other => panic!("{other:?}"),
    };
    assert_eq!(reply(answer(&placing, "5").unwrap()), Reply::Right);
    assert_eq!(reply(answer(&placing, "6").unwrap()), Reply::Wrong);
    assert!(matches!(
        not_learned(&placing).unwrap(),
        PlacingEvent::Answered {
            reply: Reply::NotLearned,
            ..
        }
    ));
    placing.asked[0].reply = Some(Reply::Right);
    assert_eq!(answer(&placing, "4").unwrap_err(), Refusal::Answered);
    assert_eq!(not_learned(&placing).unwrap_err(), Refusal::Answered);
}

fn reply() -> impl proptest::strategy::Strategy<Value = Reply> {
    proptest::prop_oneof![
        proptest::strategy::Just(Reply::Right),
        proptest::strategy::Just(Reply::Wrong),
        proptest::strategy::Just(Reply::NotLearned),
    ]
}

proptest::proptest! {
    #![proptest_config(proptest::prelude::ProptestConfig::with_cases(60))]

    /// Whatever the graph and the answers: it ends, asks each time of a skill that is there, and no skill is surer than what
    /// it rests on.
    #[test]
    fn it_ends_and_no_skill_is_surer_than_what_it_rests_on(
        size in 1_usize..40,
        seed in 0_u64..1_000_000,
        replies in proptest::collection::vec(reply(), 30),
    ) {
        let graph = graph_of(&syllabus(size, seed));
        let candidates = candidates(&graph);
        let mut placing = Placing::default();
        let mut cloud = Cloud::new(&graph, seed);
        for reply in replies {
            let next = next_believing(&graph, &candidates, &placing, &cloud.belief());
            let PlacingNext::Ask { place, skill } = next else { break };
            proptest::prop_assert_eq!(&candidates[place].skills[0], &skill);
            cloud.take(graph.place_of(&skill).unwrap(), reply, candidates[place].guess);
            placing.asked.push(asked(&skill, Some(reply)));
        }
        // Thirty at most; then it always ends.
        if placing.asked.len() == 30 {
            let last = next_believing(&graph, &candidates, &placing, &cloud.belief());
            proptest::prop_assert!(matches!(last, PlacingNext::End { .. }), "it ends at thirty");
        }
        let known: Vec<f64> = cloud.belief().known().collect();
        proptest::prop_assert!(known.iter().all(|p| (0.0..=1.0 + 1e-9).contains(p)));
        for place in 0..graph.len() {
            for below in graph.requires(place) {
                proptest::prop_assert!(known[place] <= known[*below] + 1e-9);
            }
        }
        // What is known is known with all below it, so that strata never contradict each other.
        let strata = strata_after(&graph, &known);
        for (place, stratum) in strata.iter().enumerate() {
            let below = graph.requires(place).iter().map(|b| strata[*b]);
            match stratum {
                Stratum::Known | Stratum::Next => proptest::prop_assert!(below.into_iter().all(|b| b == Stratum::Known)),
                Stratum::FarOff => proptest::prop_assert!(below.into_iter().any(|b| b != Stratum::Known)),
            }
        }
        // A week never proposes the same day twice.
        let week = first_week(&graph, &known);
        let skills: std::collections::BTreeSet<usize> = week.iter().map(|d| d.skill).collect();
        proptest::prop_assert_eq!(skills.len(), week.len());
        proptest::prop_assert_eq!(week.len(), FIRST_WEEK_DAYS.min(graph.len()));
    }
}
