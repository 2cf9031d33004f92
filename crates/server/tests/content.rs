//! Content as files: what `bank check` finds in skills and pages, and what a world may not ask for.

use std::path::{Path, PathBuf};

use school::{School, bank, seed};
use sqlx::PgPool;

/// A folder of content that goes away with the test.
struct Folder(PathBuf);

impl Folder {
    fn new(name: &str) -> Self {
        let path = std::env::temp_dir().join(format!("green-slate-content-{name}-{}", std::process::id()));
        let _ = std::fs::remove_dir_all(&path);
        for part in ["questions", "pages", "figures"] {
            std::fs::create_dir_all(path.join(part)).unwrap();
        }
        Folder(path)
    }

    fn put(&self, file: &str, text: &str) -> &Self {
        std::fs::write(self.0.join(file), text).unwrap();
        self
    }

    fn question(&self, id: &str, skill: &str, numbers: &str) -> &Self {
        let text = format!(
            "{{id: {id}, title: T, skills: [{skill}], points: 1, numbers: {{n: {numbers}}}, text: 'Twice {{{{n}}}}?',
              parts: [{{id: a, interaction: text_entry, answer: {{kind: number, key: '2*{{{{n}}}}'}}}}]}}"
        );
        self.put(&format!("questions/{id}.yaml"), &text)
    }

    fn faults(&self) -> Vec<String> {
        let files = bank::question_files(&[self.0.join("questions")]).unwrap();
        let shorter = |fault: String| fault.replace(&format!("{}/", self.0.display()), "");
        bank::check(&files).into_iter().map(shorter).collect()
    }
}

impl Drop for Folder {
    fn drop(&mut self) {
        let _ = std::fs::remove_dir_all(&self.0);
    }
}

const DRAWN: &str = "{from: 100, to: 900}";
const PAGE: &str = "## One\n\nText.\n\n![a bar](bar.svg)\n\n```check\nq1\n```\n\n## In short\n\nText.\n\n```terms\ntext: some words\n```\n";

/// One skill with three questions, a page and its figure: nothing is wrong with it.
fn sound(name: &str) -> Folder {
    let folder = Folder::new(name);
    folder.put("skills.yaml", "- {id: doubling, title: T, class: C, words: W}\n");
    for id in ["q1", "q2", "q3"] {
        folder.question(id, "doubling", DRAWN);
    }
    folder
        .put("pages/doubling.md", PAGE)
        .put("figures/bar.svg", "<svg/>");
    folder
}

#[test]
fn sound_content_has_no_faults() {
    assert_eq!(sound("sound").faults(), Vec::<String>::new());
}

#[test]
fn faults_of_pages_are_found_with_their_file() {
    let cases = [
        (
            "## One\n\nText.\n",
            "pages/doubling.md: the page needs a `## In short` as its last heading",
        ),
        (
            &PAGE.replace("bar.svg", "rod.svg"),
            "pages/doubling.md: there is no figure `rod.svg`",
        ),
        (
            &PAGE.replace("![a bar](bar.svg)", ""),
            "pages/doubling.md: it has no figure",
        ),
        (
            &PAGE.replace("\nq1\n", "\nq9\n"),
            "pages/doubling.md: there is no question `q9`",
        ),
        (
            &PAGE.replace("```check\nq1\n```", ""),
            "pages/doubling.md: it has no question to check oneself with",
        ),
        (
            &PAGE.replace("Text.\n\n!", "Half of $3 +$.\n\n!"),
            "pages/doubling.md: in the step `One`: the maths `3 +` can't be read as it would be typed",
        ),
        (
            &PAGE.replace("text: some words", "rotor: what turns"),
            "pages/doubling.md: no text uses the term `rotor`",
        ),
        (
            &PAGE.replace("text: some words\n", ""),
            "pages/doubling.md: it names no terms",
        ),
    ];
    let folder = sound("pages");
    for (page, fault) in cases {
        folder.put("pages/doubling.md", page);
        assert_eq!(folder.faults(), [fault]);
    }
}

#[test]
fn a_skill_without_a_page_and_a_page_without_a_skill_are_found() {
    let folder = sound("named");
    folder.put("pages/alchemy.md", PAGE);
    std::fs::remove_file(folder.0.join("pages/doubling.md")).unwrap();
    assert_eq!(
        folder.faults(),
        [
            "pages/alchemy.md: there is no skill `alchemy`",
            "pages/alchemy.md: the question `q1` is not on the skill `alchemy`",
            "pages/doubling.md: the skill `doubling` has no page",
        ]
    );
}

#[test]
fn too_few_questions_and_checks_without_other_numbers_are_found() {
    let folder = sound("few");
    std::fs::remove_file(folder.0.join("questions/q3.yaml")).unwrap();
    assert_eq!(
        folder.faults(),
        ["skills.yaml: only 2 questions practise the skill `doubling` with numbers drawn anew; 3 are needed"]
    );
    folder.question("q3", "doubling", DRAWN);
    let fixed = "{id: q1, title: T, skills: [doubling], points: 1, few_answers: true, text: 'Twice 4?', parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '8'}}]}";
    folder
        .question("q4", "doubling", DRAWN)
        .put("questions/q1.yaml", fixed);
    assert_eq!(
        folder.faults(),
        ["pages/doubling.md: the question `q1` has no other numbers"]
    );
}

#[test]
fn circles_of_skills_are_found() {
    let folder = sound("circle");
    folder.put(
        "skills.yaml",
        "- {id: doubling, title: T, class: C, words: W, requires: [halving]}\n- {id: halving, title: T, class: C, words: W, requires: [doubling]}\n",
    );
    assert_eq!(
        folder.faults(),
        ["skills.yaml: these skills require each other in a circle: doubling, halving"]
    );
}

/// What seeding a world with one assignment says.
async fn seeding(pool: &PgPool, assignment: &str) -> Result<(), String> {
    let text = format!(
        "school: S\npeople: [{{user_name: ada, name: Ada Quill, role: student}}]\nclasses:\n  - title: C\n    members: [ada]\n    assignments:\n      - {{slug: s, title: T, opens_in_days: -1, due_in_days: 1, {assignment}}}\n"
    );
    let name = format!(
        "green-slate-world-{}-{}.yaml",
        std::process::id(),
        pool.connect_options().get_database().unwrap_or("")
    );
    let file = std::env::temp_dir().join(name);
    std::fs::write(&file, text).unwrap();
    let world = seed::read_world(Path::new(&file));
    let _ = std::fs::remove_file(&file);
    let world = world.map_err(|e| e.to_string())?;
    seed::seed(&School::new(pool.clone()), &world)
        .await
        .map_err(|e| e.to_string())
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn goals_that_cannot_be_set_are_refused_with_their_assignment(pool: PgPool) {
    for (assignment, words) in [
        ("kind: practice", "it has neither questions nor a goal"),
        ("kind: reading", "reading needs a goal"),
        (
            "kind: practice, settings: {goal: {goal: level, skills: [], score: 80}}",
            "choose at least one skill or page",
        ),
        (
            "kind: practice, settings: {goal: {goal: level, skills: [alchemy], score: 80}}",
            "there is no skill `alchemy`",
        ),
        (
            "kind: practice, settings: {goal: {goal: right, skills: [ratios], right: 0}}",
            "a number right is 1 to 200, not 0",
        ),
        (
            "kind: homework, settings: {goal: {goal: read, skills: [ratios]}}",
            "reading has pages to read as its goal, and nothing else has",
        ),
        (
            "kind: practice, questions: [q], settings: {goal: {goal: right, skills: [ratios], right: 5}}",
            "it has a goal, so it has no questions of its own",
        ),
    ] {
        let said = seeding(&pool, assignment).await.unwrap_err();
        assert_eq!(said, format!("assignment `s`: {words}"));
    }
    seeding(
        &pool,
        "kind: practice, settings: {goal: {goal: right, skills: [ratios], right: 5}}",
    )
    .await
    .unwrap();
}

/// Every question of the bank that follows through, with earlier answers of all sorts beside each of several entries.
#[test]
fn in_no_question_of_the_bank_does_following_through_lower_a_score() {
    let content = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../content/questions");
    let (mut questions, mut raised) = (0, 0);
    for file in bank::question_files(&[content]).unwrap() {
        let question = marking::parse_question(&std::fs::read_to_string(&file).unwrap()).unwrap();
        if question.parts.iter().all(|p| p.follow.is_none()) {
            continue;
        }
        questions += 1;
        for seed in 0..25u64 {
            let item = marking::render(&question, seed).unwrap();
            for (part, shown) in question.parts.iter().zip(&item.parts) {
                let Some(follow) = &part.follow else { continue };
                for factor in ["2", "0.5", "1.1", "-1", "0"] {
                    // What came before, wrong by a factor; and what a student would carry on from it.
                    let earlier: Vec<(String, marking::Response)> = (follow.numbers.values())
                        .filter_map(|id| {
                            let key = item.find_part(id)?.posed.key();
                            let marking::Response::Text(key) = key else {
                                return None;
                            };
                            let number = key.split(' ').next()?.to_owned();
                            Some((
                                id.clone(),
                                marking::Response::Text(format!("{factor}*({number})")),
                            ))
                        })
                        .collect();
                    let entries = [
                        shown.typed_key(),
                        shown.posed.mistaken(),
                        marking::Response::Text("7".into()),
                    ];
                    let scaled = match shown.posed.key() {
                        marking::Response::Text(key) => {
                            let number = key.split(' ').next().unwrap_or("1");
                            Some(marking::Response::Text(format!("{factor}*({number})")))
                        }
                        _ => None,
                    };
                    for entry in entries.into_iter().chain(scaled) {
                        let alone = shown.mark(&entry).marking.score;
                        let beside = item.mark_beside(&part.id, &entry, &earlier, false).unwrap();
                        let score = beside.marking.score;
                        assert!(score >= alone, "{} {} {seed} {entry:?}", question.id, part.id);
                        raised += usize::from(score > alone);
                    }
                }
            }
        }
    }
    assert!(questions >= 6, "{questions} questions follow through");
    assert!(raised > 100, "{raised} entries followed from an earlier one");
}

/// Of a folder in which one file does not fit, nothing is loaded.
#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_recording_that_is_nowhere_is_named_before_anything_is_loaded(pool: PgPool) {
    let folder = Folder::new("nowhere");
    folder.question("alone", "doubling", DRAWN);
    let beside = |recording: &str| {
        let text = "id: beside\ntitle: T\nskills: [doubling]\npoints: 1\ntext: 'Four?'\nparts:\n  \
            - {id: a, interaction: text_entry, answer: {kind: number, key: '4'}}\nexhibits:\n  \
            - {id: seen, title: Seen, recording: ";
        folder.put("questions/beside.yaml", &format!("{text}{recording}}}\n"));
    };
    let files = || bank::question_files(&[folder.0.join("questions")]).unwrap();
    let loaded = async || -> i64 {
        let count = sqlx::query_scalar("select count(*) from questions");
        count.fetch_one(&pool).await.unwrap()
    };
    for nowhere in ["late-shift", "0194b2ce-7c3e-7cc2-b6f1-6f0d52a1a001"] {
        beside(nowhere);
        let refused = bank::load(&pool, &files()).await.unwrap_err().to_string();
        let wanted = format!("beside.yaml:9: there is no recording `{nowhere}`");
        assert!(refused.ends_with(&wanted), "{refused}");
        assert_eq!(loaded().await, 0);
    }
    beside("early-shift");
    assert_eq!(bank::load(&pool, &files()).await.unwrap(), 2);
    assert_eq!(loaded().await, 2);
}

/// The demo's whole world: every script in it can be played, and it gives a teacher what the README speaks of.
#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_demo_gives_a_teacher_classes_of_thirty_messages_and_a_doubtful_key(pool: PgPool) {
    let content = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../content");
    let folders = [content.join("questions"), content.join("more")];
    // The bank itself is checked elsewhere.
    let more = bank::question_files(&folders[1..]).unwrap();
    let faults = bank::check(&more);
    assert!(faults.iter().all(|f| f.contains("skill")), "{faults:?}");
    let files = bank::question_files(&folders).unwrap();
    bank::load(&pool, &files).await.unwrap();
    let school = School::new(pool.clone());
    for file in ["world.yaml", "classmates.yaml"] {
        let world = seed::read_world(&content.join(file)).unwrap();
        seed::seed(&school, &world).await.unwrap();
        // Once more: nothing comes twice.
        seed::seed(&school, &world).await.unwrap();
    }
    let (maren, _) = store::find_credentials(&pool, "maren").await.unwrap().unwrap();
    let classes = store::classes_taught(&pool, maren.id, school.now())
        .await
        .unwrap();
    assert_eq!(classes.len(), 4);
    assert!(classes.iter().all(|c| c.students >= 29), "{classes:?}");
    assert!(
        classes.iter().any(|c| c.waiting > 0),
        "something waits to be marked"
    );
    let threads = store::threads_of(&pool, maren.id, None).await.unwrap();
    assert_eq!(
        (threads.len(), threads.iter().filter(|t| t.is_query).count()),
        (3, 1)
    );
    assert_eq!(store::unread_messages(&pool, maren.id).await.unwrap(), 2);
    let bolts = threads.iter().find(|t| t.is_query).unwrap().assignment;
    let stored = school.assignment(bolts, None).await.unwrap();
    let began = school::went::who_began(&school, bolts).await.unwrap();
    let ids: Vec<store::PersonId> = began.iter().map(|p| p.id).collect();
    let went = school::went::went(&school, &stored, &ids).await.unwrap();
    let doubtful: Vec<bool> = went.iter().map(|q| q.parts.iter().any(|p| p.doubtful)).collect();
    assert_eq!(doubtful, [false, true, false, false]);
    let arm = &went[1].parts[0].groups;
    assert!(
        arm[0].students.len() >= 14 && arm.len() == 2,
        "0.6, 3/5 and 0.60 m are one group"
    );
}
