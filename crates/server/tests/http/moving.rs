//! A whole installation moved to another database, and a person deleted for good.

use std::io::Cursor;

use school::installation::{MoveError, export, import};
use serde_json::json;
use sqlx::PgPool;
use time::{Duration, OffsetDateTime};

use crate::classes::teachers;
use crate::client::{DOUBLED, check, client, homework, world_with};

/// Ada and Cy have worked, asked and practised; Tor teaches them.
async fn lived_in(pool: &PgPool) -> String {
    let id = world_with(pool, homework(), &[DOUBLED]).await;
    teachers(pool).await;
    let client = client!(pool);
    for (name, entry) in [("ada", "765432"), ("cy", "7")] {
        let who = client.sign_in(name).await;
        let at = |tail: &str| format!("/api/assignments/{id}{tail}");
        client.send("POST", &at("/open"), Some(&who), None).await;
        client
            .send("POST", &at("/check"), Some(&who), Some(check(entry)))
            .await;
        let asked = json!({"question": 0, "body": "Was ist daran falsch? ½"});
        client
            .send("POST", &at("/threads"), Some(&who), Some(asked))
            .await;
        let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "888999"});
        client.send("PUT", &at("/drafts"), Some(&who), Some(draft)).await;
        let notes = json!({"based_on": 0, "notes": "my own notes 4711", "ink": []});
        client
            .send("PUT", &at("/questions/0/workings"), Some(&who), Some(notes))
            .await;
        client.send("POST", &at("/hand-in"), Some(&who), None).await;
        let goal = json!({"skills": ["fractions"], "right": 2});
        client.send("POST", "/api/practice", Some(&who), Some(goal)).await;
        client
            .send(
                "PUT",
                "/api/skills/ratios/wish",
                Some(&who),
                Some(json!({"on": true})),
            )
            .await;
        client.send("POST", "/api/own/calendar", Some(&who), None).await;
    }
    id
}

async fn dumped(pool: &PgPool) -> Vec<String> {
    let mut all = Vec::new();
    let each = |table: &str, row: &str| {
        all.push(format!("{table} {row}"));
        Ok::<(), ()>(())
    };
    store::read_all(pool, each).await.unwrap().unwrap();
    all
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn every_table_moves_or_is_named_as_left_behind(pool: PgPool) {
    let mut named: Vec<&str> = store::TABLES.iter().chain(store::LEFT_BEHIND).copied().collect();
    named.sort_unstable();
    assert_eq!(store::tables(&pool).await.unwrap(), named);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn an_installation_moves_whole_and_only_into_an_empty_one(pool: PgPool) {
    let id = lived_in(&pool).await;
    let before = dumped(&pool).await;
    let mut file = Cursor::new(Vec::new());
    let rows = export(&pool, &mut file).await.unwrap();
    assert_eq!(rows, before.len());
    assert!(rows > 20);
    file.set_position(0);
    assert!(matches!(import(&pool, &mut file).await, Err(MoveError::NotEmpty)));

    let empty = format!("truncate {} cascade", store::TABLES.join(", "));
    sqlx::query(sqlx::AssertSqlSafe(empty))
        .execute(&pool)
        .await
        .unwrap();
    file.set_position(0);
    assert_eq!(import(&pool, &mut file).await.unwrap(), rows);
    assert_eq!(dumped(&pool).await, before);
    // It is worked on as before: the same numbers, the same score.
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let (_, board) = client
        .send("GET", &format!("/api/assignments/{id}/board"), Some(&ada), None)
        .await;
    assert!(board.to_string().contains("765432"), "{board}");

    // Something else, something damaged, or of another version puts nothing in.
    let again = format!("truncate {} cascade", store::TABLES.join(", "));
    sqlx::query(sqlx::AssertSqlSafe(again))
        .execute(&pool)
        .await
        .unwrap();
    let packed = |files: &[(&str, &str)]| {
        let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
        for (name, text) in files {
            let options = zip::write::SimpleFileOptions::default();
            writer.start_file(*name, options).unwrap();
            std::io::Write::write_all(&mut writer, text.as_bytes()).unwrap();
        }
        let mut file = writer.finish().unwrap();
        file.set_position(0);
        file
    };
    let version = store::schema_version();
    let manifest =
        |format: &str, schema: i64| json!({"format": format, "schema": schema, "tables": []}).to_string();
    let ours = manifest("green-slate/installation/1", version);
    for (file, words) in [
        (Cursor::new(b"nonsense".to_vec()), "no Green Slate installation"),
        (packed(&[("a.txt", "a")]), "no manifest"),
        (packed(&[("manifest.json", "{}")]), "no Green Slate installation"),
        (
            packed(&[("manifest.json", &manifest("other/1", version))]),
            "other/1",
        ),
        (
            packed(&[("manifest.json", &manifest("green-slate/installation/1", 7))]),
            "made with version 7",
        ),
        (
            packed(&[
                ("manifest.json", &ours),
                (
                    "classes.jsonl",
                    "{\"id\": \"01900000-0000-7000-8000-000000000000\", \"title\": \"A\"}\nbroken",
                ),
            ]),
            "the database",
        ),
    ] {
        let said = import(&pool, file).await.unwrap_err().to_string();
        assert!(said.contains(words), "{said}");
    }
    assert!(store::is_untouched(&pool).await.unwrap());
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn who_is_deleted_leaves_scores_of_a_term_that_is_over_and_no_name(pool: PgPool) {
    let id = lived_in(&pool).await;
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    sqlx::query("update classes set ends_on = current_date - 10 where id = $1")
        .bind(class)
        .execute(&pool)
        .await
        .unwrap();
    let assignment: uuid::Uuid = id.parse().unwrap();
    let scores = async || store::recorded_scores(&pool, &[assignment]).await.unwrap();
    let before = scores().await;
    assert_eq!(before[&assignment].len(), 2);
    let (ada, _) = store::find_credentials(&pool, "ada").await.unwrap().unwrap();
    // What she wrote on paper, and what a portal calls her.
    let work = store::find_work(&pool, assignment, ada.id)
        .await
        .unwrap()
        .unwrap();
    let ink = store::PaperInk {
        question: 0,
        revision: 0,
        marks: serde_json::json!([{"kind": "text", "block": 0, "x": 1.0, "y": 1.0, "text": "765432"}]),
    };
    let now = OffsetDateTime::now_utc();
    store::save_paper_ink(&pool, work, &ink, now).await.unwrap();
    let portal = store::PortalChange {
        name: "P",
        issuer: "https://p.example",
        client_id: "c",
        authorization_url: "https://p.example/a",
        token_url: "https://p.example/t",
        token_audience: None,
        jwks_url: "https://p.example/k",
        deployments: &["1".to_owned()],
        vouches_for_teachers: true,
    };
    let portal = store::add_portal(&pool, &portal, now).await.unwrap();
    assert!(
        store::link_in_portal(&pool, portal, "s-8822-ada", ada.id, now)
            .await
            .unwrap()
    );
    let done = store::forget_person(&pool, ada.id, OffsetDateTime::now_utc())
        .await
        .unwrap();
    assert_eq!((done.works_kept, done.works_deleted), (1, 0));
    assert_eq!(scores().await, before, "the class's scores are what they were");
    let of_ada = |row: &&String| row.contains(&ada.id.0.to_string());
    let left = dumped(&pool).await;
    for gone in ["Ada Quill", "\"ada\"", "765432", "s-8822-ada"] {
        assert!(!left.iter().any(|r| r.contains(gone)), "{gone} is still there");
    }
    for table in [
        "messages",
        "threads",
        "practice_runs",
        "wished_skills",
        "calendars",
        "drafts",
    ] {
        let hers = left
            .iter()
            .filter(of_ada)
            .filter(|r| r.starts_with(&format!("{table} ")));
        assert_eq!(hers.count(), 0, "{table}");
    }
    assert!(
        left.iter().any(|r| r.contains("Cy Fenn") || r.contains("4711")),
        "others keep theirs"
    );
    // Nobody signs in as her, and the same name may come again.
    assert!(store::find_credentials(&pool, "ada").await.unwrap().is_none());
    // Her work is still worth what it was when it is worked out anew.
    let school = school::School::new(pool.clone());
    let desk = school::Desk::load(&school, assignment, ada.id).await.unwrap();
    let counting = desk.work.counting_hand_in(&desk.assignment).unwrap();
    assert!((counting.recorded.percent() - before[&assignment][0]).abs() < 1e-9);

    // In a term that goes on everything goes.
    sqlx::query("update classes set ends_on = current_date + 10")
        .execute(&pool)
        .await
        .unwrap();
    let (cy, _) = store::find_credentials(&pool, "cy").await.unwrap().unwrap();
    let later = OffsetDateTime::now_utc() + Duration::seconds(1);
    let done = store::forget_person(&pool, cy.id, later).await.unwrap();
    assert_eq!((done.works_kept, done.works_deleted), (0, 1));
    assert_eq!(scores().await[&assignment].len(), 1);
}
