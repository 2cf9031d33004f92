//! The eleven rules of an assignment, each under random settings and random orders of what students, teachers and the
//! clock do. Every part's key is 5, on every set; the numbers themselves are tested where they are drawn.

pub(super) mod walk;

use proptest::prelude::*;

use super::*;
use walk::{any_settings, moves, walk, without_corrections};

proptest! {
    #![proptest_config(ProptestConfig::with_cases(2_000))]

    #[test]
    fn rule_1_what_is_right_stays_right_and_scores_do_not_fall(settings in any_settings(), moves in moves()) {
        walk(&settings, &without_corrections(&moves), |step| {
            // What is taken back before its result could be seen was never a score.
            if step.assignment.is_simultaneous() && matches!(step.command, Some(Command::TakeBack)) {
                return Ok(());
            }
            for (before, after) in step.before.questions.iter().zip(&step.after.questions) {
                for (was, is) in before.sets.iter().zip(&after.sets) {
                    for (p, q) in was.parts.iter().zip(&is.parts) {
                        prop_assert!(q.right || !p.right);
                        prop_assert!(q.best >= p.best);
                    }
                }
            }
            let (before, after) = step.points();
            prop_assert!(after >= before);
            let score = score_so_far(step.assignment, step.after);
            for (question, item) in score.questions.iter().zip(&step.assignment.items) {
                prop_assert!(question.points >= 0.0 && question.points <= f64::from(item.points) + 1e-9);
            }
            Ok(())
        })?;
    }

    #[test]
    fn rule_2_a_right_answer_earns_full_credit_on_any_try_and_set(settings in any_settings(), moves in moves()) {
        walk(&settings, &without_corrections(&moves), |step| {
            let score = score_so_far(step.assignment, step.after);
            for (state, scored) in step.after.questions.iter().zip(&score.questions) {
                let right_without_cost = state
                    .sets
                    .iter()
                    .any(|s| s.is_right() && (step.assignment.settings.hint_cost == 0 || s.hints == 0));
                prop_assert!(!right_without_cost || (scored.points - f64::from(scored.of)).abs() < 1e-9);
            }
            Ok(())
        })?;
    }

    #[test]
    fn rule_3_only_what_was_read_and_is_new_costs_a_try(settings in any_settings(), moves in moves()) {
        walk(&settings, &without_corrections(&moves), |step| {
            let (before, after) = (step.before.tries_used(), step.after.tries_used());
            if after > before {
                let Some(Event::Checked(checked)) = step.events().iter().find(|e| matches!(e, Event::Checked(c) if c.used_a_try)) else {
                    return Err(TestCaseError::fail("a try went without a check"));
                };
                let set = &step.before.questions[checked.question].sets[checked.set];
                let counted = |p: &&CheckedPart| {
                    p.outcome.costs_a_try() && !p.response.is_empty() && !set.has_tried(&p.part, &p.response)
                };
                prop_assert!(checked.parts.iter().any(|p| counted(&p)));
                let item = &step.assignment.items[checked.question];
                let open = set.parts.iter().filter(|p| !p.right).count();
                prop_assert!(!item.all_parts_needed || step.assignment.is_simultaneous() || checked.at_hand_in || checked.parts.len() == open);
            }
            Ok(())
        })?;
    }

    #[test]
    fn rule_4_no_try_left_means_no_more_checking(settings in any_settings(), moves in moves()) {
        walk(&settings, &without_corrections(&moves), |step| {
            for (i, state) in step.after.questions.iter().enumerate() {
                let max = step.assignment.max_attempts(i);
                for set in &state.sets {
                    prop_assert!(max.is_none_or(|m| set.tries_used <= m));
                }
                let sets = terms(step.assignment, step.after).max_sets;
                prop_assert!(sets.is_none_or(|m| state.sets.len() <= m as usize));
                prop_assert!(state.sets.iter().rev().skip(1).all(|s| set_is_over(step.assignment, i, s)));
            }
            if let (Some(Command::Check { question, .. }), Ok(_)) = (step.command, step.outcome) {
                let set = step.before.questions[*question].current().unwrap();
                prop_assert!(!set_is_over(step.assignment, *question, set));
                prop_assert!(set.tries_left(step.assignment.max_attempts(*question)) != Some(0));
            }
            Ok(())
        })?;
    }

    #[test]
    fn rule_6_folding_again_gives_the_same(settings in any_settings(), moves in moves()) {
        let bench = walk(&settings, &moves, |_| Ok(()))?;
        let stored: Vec<Recorded> = bench
            .events
            .iter()
            .map(|r| {
                let json = serde_json::to_string(&r.event).unwrap();
                Recorded { event: serde_json::from_str(&json).unwrap(), ..r.clone() }
            })
            .collect();
        prop_assert_eq!(fold(&bench.assignment, &stored), bench.work());
        let seeds: Vec<u64> = bench.work().questions.iter().map(|q| q.sets[0].seed).collect();
        prop_assert_eq!(seeds, vec![11, 12, 13]);
    }

    #[test]
    fn rule_7_nothing_is_handed_in_but_by_the_student_or_the_clock(settings in any_settings(), moves in moves()) {
        walk(&settings, &moves, |step| {
            let handed_in = step.after.hand_ins.len() > step.before.hand_ins.len();
            let by_student = matches!(step.command, Some(Command::HandIn { .. }));
            let by_clock = matches!(step.command, Some(Command::TimeUp { .. } | Command::Check { .. }))
                && step.after.hand_ins.last().is_some_and(|h| h.by_time);
            prop_assert!(!handed_in || by_student || by_clock);
            Ok(())
        })?;
    }

    #[test]
    fn rule_8_order_and_release_hold_against_any_request(settings in any_settings(), moves in moves()) {
        walk(&settings, &without_corrections(&moves), |step| {
            if let Navigation::Linear { going_back } = step.assignment.settings.navigation {
                prop_assert!(step.after.reached <= step.before.reached + 1);
                let touched = |w: &Work, q: usize| {
                    w.questions[q].sets.iter().map(|s| s.tries.len() + s.hints).sum::<usize>() + w.questions[q].sets.len()
                };
                for q in 0..3 {
                    // Handing in marks every question, and taking back takes those marks away again, but nothing else.
                    let taken_back = matches!(step.command, Some(Command::TakeBack));
                    prop_assert!(!taken_back || touched(step.after, q) <= touched(step.before, q));
                    let while_working = !taken_back
                        && !matches!(step.command, Some(Command::HandIn { .. } | Command::TimeUp { .. }));
                    if while_working && touched(step.before, q) != touched(step.after, q) {
                        prop_assert!(q <= step.before.reached && (going_back || q == step.before.reached));
                    }
                }
            }
            if step.assignment.is_simultaneous() {
                let ended = step.after.standing_hand_ins().next().is_some();
                prop_assert!(ended || !verdicts_visible(step.assignment, step.after, step.now));
                if !verdicts_visible(step.assignment, step.before, step.now) {
                    let shows = |e: &Event| matches!(e, Event::SolutionShown { .. } | Event::FreshNumbers { .. });
                    prop_assert!(!step.events().iter().any(shows));
                }
                // What was seen cannot be taken back and guessed again.
                if verdicts_visible(step.assignment, step.before, step.now) {
                    prop_assert!(!step.events().contains(&Event::TakenBack));
                }
            }
            if step.assignment.settings.release == Release::AfterDue && step.now < terms(step.assignment, step.after).due {
                prop_assert!(!results_released(step.assignment, step.after, step.now));
            }
            Ok(())
        })?;
    }

    #[test]
    fn rule_9_the_servers_clock_decides(settings in any_settings(), moves in moves()) {
        walk(&settings, &moves, |step| {
            let terms = terms(step.assignment, step.before);
            let over = step.now >= terms.closes || terms.time_ends.is_some_and(|end| step.now >= end);
            let by_student = !matches!(step.command, None | Some(Command::TimeUp { .. }));
            prop_assert!(!(over && by_student) || step.outcome.is_err());
            if let Some(Command::TimeUp { .. }) = step.command {
                prop_assert_eq!(step.outcome.is_ok(), time_up_due(step.assignment, step.before).is_some_and(|end| end <= step.now));
                if step.outcome.is_ok() {
                    prop_assert_eq!(time_up_due(step.assignment, step.after), None, "the clock hands in once");
                }
            }
            for hand_in in step.after.hand_ins.iter().skip(step.before.hand_ins.len()) {
                let at = if hand_in.by_time { terms.time_ends.unwrap().min(step.now) } else { step.now };
                prop_assert_eq!(hand_in.late, at > terms.due);
                prop_assert!(!(hand_in.late && step.assignment.settings.late == LateRule::NotAccepted));
            }
            Ok(())
        })?;
    }

    #[test]
    fn rule_10_every_score_explains_itself(settings in any_settings(), moves in moves()) {
        walk(&settings, &moves, |step| {
            for hand_in in &step.after.hand_ins {
                let sum: f64 = hand_in.score.questions.iter().map(|q| q.points).sum();
                let kept = f64::from(100 - hand_in.recorded.taken_off) / 100.0;
                prop_assert!((sum * kept - hand_in.recorded.points).abs() < 1e-9, "the questions and what was taken off make the score");
                prop_assert!(hand_in.recorded.points <= f64::from(hand_in.recorded.of) + 1e-9);
            }
            let score = score_so_far(step.assignment, step.after);
            for (i, question) in score.questions.iter().enumerate().filter(|(_, q)| q.points > 0.0) {
                let set = &step.after.questions[i].sets[question.set.unwrap()];
                let record = &set.tries[question.on_try.unwrap() as usize - 1];
                prop_assert!(record.parts.iter().any(|p| p.score > 0.0));
                prop_assert!(question.hint_points >= 0.0 && question.points + question.hint_points <= f64::from(question.of) + 1e-9);
                prop_assert!(question.hint_points == 0.0 || step.assignment.settings.hint_cost > 0);
            }
            Ok(())
        })?;
    }

    #[test]
    fn rule_11_a_refusal_says_why_and_changes_nothing(settings in any_settings(), moves in moves()) {
        walk(&settings, &moves, |step| {
            if let Err(refusal) = step.outcome {
                prop_assert_eq!(step.before, step.after);
                prop_assert!(refusal.to_string().ends_with('.') && !refusal.code().is_empty());
            }
            Ok(())
        })?;
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    /// On real questions of random ranges: the sets that [`marking::next_seed`] draws differ in what the answer is, as
    /// long as there is room, and none shows what the worked example shows.
    #[test]
    fn rule_5_every_set_asks_for_another_answer(base: u64, low in 2..6u32, width in 5..40u32, sum: bool) {
        let high = low + width;
        let sign = if sum { '+' } else { '*' };
        let yaml = format!(
            "id: roomy\ntitle: t\npoints: 1\nnumbers: {{a: {{from: {low}, to: {high}}}, b: {{from: {low}, to: {high}}}}}\n\
             text: '{{{{a}}}} and {{{{b}}}}'\nhelp: {{working: ['It begins with {{{{a}}}}']}}\n\
             parts: [{{id: a, interaction: text_entry, answer: {{kind: number, key: '{{{{a}}}}{sign}{{{{b}}}}'}}}}]\n"
        );
        let question = marking::parse_question(&yaml).unwrap();
        let example = marking::worked_example(&question).unwrap().unwrap();
        let mut seeds: Vec<u64> = Vec::new();
        for _ in 0..5 {
            let seed = marking::next_seed(&question, base, &seeds).unwrap();
            prop_assert_eq!(seed, marking::next_seed(&question, base, &seeds).unwrap());
            let item = marking::render(&question, seed).unwrap();
            prop_assert!(!example.item.has_answers_of(&item), "the worked example gives nothing away");
            for earlier in &seeds {
                let earlier = marking::render(&question, *earlier).unwrap();
                prop_assert!(!earlier.has_answers_of(&item), "{:?}", item.answers());
            }
            seeds.push(seed);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    /// Where numbers come ever anew with nothing recorded: no round repeats one of the four before it in its row of
    /// sixteen, nor one's own sets, nor one that stands in an open homework, and each comes out the same when asked again.
    #[test]
    fn rounds_of_practice_repeat_neither_each_other_nor_what_is_recorded(base: u64, low in 2..50u32, width in 20..40u32) {
        let high = low + width;
        let yaml = format!(
            "id: narrow\ntitle: t\npoints: 1\nnumbers: {{a: {{from: {low}, to: {high}}}}}\ntext: '{{{{a}}}}'\n\
             parts: [{{id: a, interaction: text_entry, answer: {{kind: number, key: '3*{{{{a}}}}'}}}}]\n"
        );
        let question = marking::parse_question(&yaml).unwrap();
        let own = [marking::next_seed(&question, base, &[]).unwrap()];
        let own = [own[0], marking::next_seed(&question, base, &own).unwrap()];
        let open = [marking::next_seed(&question, !base, &own).unwrap()];
        let answers_of = |seed: u64| marking::render(&question, seed).unwrap().answers();
        let never: Vec<_> = own.iter().chain(&open).map(|s| answers_of(*s)).collect();
        let mut row = Vec::new();
        for round in 0..32 {
            if round % 16 == 0 {
                row.clear();
            }
            let seed = marking::round_seed(&question, base, round, &own, &open).unwrap().unwrap();
            if round == 20 {
                prop_assert_eq!(Some(seed), marking::round_seed(&question, base, round, &own, &open).unwrap());
            }
            let answers = answers_of(seed);
            prop_assert!(!never.contains(&answers), "round {round}: {answers:?} is recorded or open");
            prop_assert!(!row.iter().rev().take(4).any(|a| *a == answers), "round {round}: {answers:?} again in {row:?}");
            row.push(answers);
        }
    }
}

#[test]
fn rule_5_a_question_without_room_still_gives_another_set() {
    let narrow = "id: narrow\ntitle: t\npoints: 1\nfew_answers: true\nnumbers: {a: {from: 2, to: 90}}\ntext: 'Is {{a}} more than 1?'\nparts: [{id: a, interaction: choice, choices: [{id: yes, text: 'Yes', correct: true}, {id: no, text: 'No'}]}]\n";
    let question = marking::parse_question(narrow).unwrap();
    let first = marking::next_seed(&question, 7, &[]).unwrap();
    let second = marking::next_seed(&question, 7, &[first]).unwrap();
    let text = |seed| marking::render(&question, seed).unwrap().text;
    assert_ne!(text(first), text(second));
}
