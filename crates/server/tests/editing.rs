//! Pages and skills edited in the browser, and the bank as a zip. In a process of its own: what is edited is held by the
//! process, for every database that its tests use.

#[path = "http/client.rs"]
#[allow(dead_code, unused_macros, unused_imports)]
mod client;

/// What was edited is the process's: one test at a time.
static ALONE: tokio::sync::Mutex<()> = tokio::sync::Mutex::const_new(());

use actix_web::http::StatusCode;
use actix_web::test;
use client::{DOUBLED, client, homework, put_question, world_with};
use serde_json::{Value, json};
use sqlx::PgPool;
use std::io::{Cursor, Read, Write};

/// Tor teaches; Ada is in the class.
macro_rules! desk {
    ($pool:expr) => {{
        let id = world_with(&$pool, homework(), &[DOUBLED]).await;
        let hash = school::sign_in::hash_password("slate-and-chalk").unwrap();
        let class = store::put_class(&$pool, "Site Practice").await.unwrap();
        let tor = store::put_person(&$pool, "tor", "Tor Vane", &hash, store::Role::Teacher)
            .await
            .unwrap();
        store::add_member(&$pool, class, tor).await.unwrap();
        let client = client!($pool);
        let (tor, ada) = (client.sign_in("tor").await, client.sign_in("ada").await);
        (client, tor, ada, id)
    }};
}

fn page(words: &str, figure: &str, check: &str) -> String {
    format!(
        "## Parts\n\n{words}\n\n![A bar in four parts]({figure})\n\n```check\n{check}\n```\n\n## In short\n\nShare evenly.\n"
    )
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_page_is_edited_and_students_read_it(pool: PgPool) {
    let _alone = ALONE.lock().await;
    let (client, tor, ada, _) = desk!(pool);
    let text = "/api/bank/pages/measuring/text";
    let (_, shipped) = client.send("GET", text, Some(&tor), None).await;
    assert!(shipped["text"].as_str().unwrap().contains("## In short"));
    assert_eq!(shipped["versions"], json!([]));
    let figure = shipped["text"]
        .as_str()
        .unwrap()
        .split("](")
        .nth(1)
        .and_then(|rest| rest.split(')').next())
        .unwrap()
        .to_owned();
    let on_measuring = DOUBLED
        .replace("id: doubled", "id: measured")
        .replace("[fractions]", "[measuring]");
    put_question(&pool, &on_measuring).await;

    let try_it = "/api/bank/pages/measuring/try";
    for (bad, words, line) in [
        ("no heading".to_owned(), "before its first", 1),
        (
            page("Measure.", "gone.svg", "measured"),
            "there is no figure `gone.svg`",
            5,
        ),
        (
            page("Measure.", &figure, "nothing"),
            "there is no question `nothing`",
            8,
        ),
        (
            page("Measure.", &figure, "doubled"),
            "is not on the skill `measuring`",
            8,
        ),
        ("x".repeat(60_001), "too long", 1),
    ] {
        let (_, tried) = client
            .send("POST", try_it, Some(&tor), Some(json!({"text": bad})))
            .await;
        let fault = &tried["faults"][0];
        assert!(fault["words"].as_str().unwrap().contains(words), "{tried}");
        assert_eq!(fault["line"], line, "{fault}");
        let put = client
            .send(
                "PUT",
                "/api/bank/pages/measuring",
                Some(&tor),
                Some(json!({"text": bad})),
            )
            .await;
        assert_eq!(put.1["faults"], tried["faults"], "it is not saved either");
    }
    let good = page("Read the scale twice.", &figure, "measured");
    let (_, tried) = client
        .send("POST", try_it, Some(&tor), Some(json!({"text": good})))
        .await;
    assert_eq!(
        (tried["faults"].clone(), tried["steps"][0]["title"].clone()),
        (json!([]), json!("Parts"))
    );
    let read = async || {
        let (_, page) = client.send("GET", "/api/pages/measuring", Some(&ada), None).await;
        page.to_string()
    };
    assert!(
        !read().await.contains("Read the scale twice"),
        "trying keeps nothing"
    );
    let (status, saved) = client
        .send(
            "PUT",
            "/api/bank/pages/measuring",
            Some(&tor),
            Some(json!({"text": good})),
        )
        .await;
    assert_eq!((status, saved["faults"].clone()), (StatusCode::OK, json!([])));
    assert!(read().await.contains("Read the scale twice"));
    let (_, now) = client.send("GET", text, Some(&tor), None).await;
    assert_eq!(now["text"], good.as_str());
    assert_eq!(now["versions"][0]["by"], "Tor Vane");
    // A student edits nothing, and there is no page of a skill that is none.
    for (who, path, status) in [
        (&ada, "/api/bank/pages/measuring", StatusCode::NOT_FOUND),
        (&tor, "/api/bank/pages/juggling", StatusCode::NOT_FOUND),
    ] {
        let (found, _) = client
            .send("PUT", path, Some(who), Some(json!({"text": good})))
            .await;
        assert_eq!(found, status);
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn skills_are_edited_and_none_that_was_worked_on_is_lost(pool: PgPool) {
    let _alone = ALONE.lock().await;
    let (client, tor, ada, _) = desk!(pool);
    let (_, stands) = client
        .send("GET", "/api/bank/skills/text", Some(&tor), None)
        .await;
    let text = stands["text"].as_str().unwrap().to_owned();
    let save = async |text: &str| {
        let (_, saved) = client
            .send("PUT", "/api/bank/skills", Some(&tor), Some(json!({"text": text})))
            .await;
        saved["faults"].to_string()
    };
    let line = |id: &str| {
        text.lines()
            .find(|l| l.contains(&format!("id: {id},")))
            .unwrap()
            .to_owned()
    };
    let without = text.replace(&line("safety"), "");
    assert!(
        save(&without)
            .await
            .contains("`safety` is there already and can't be taken out")
    );
    let circle = text.replace(
        &line("fractions"),
        "- {id: fractions, title: Fractions, class: A, requires: [ratios], words: W}",
    );
    assert!(save(&circle).await.contains("circle"));
    assert!(save("- nonsense: [").await.contains("words"));
    let shouting = format!("{text}\n- {{id: Knots, title: Knots, class: Site Practice, words: W}}\n");
    assert!(save(&shouting).await.contains("is no name for a skill"));
    let untitled = format!("{text}\n- {{id: knots, title: ' ', class: Site Practice, words: W}}\n");
    assert!(save(&untitled).await.contains("needs a title"));

    let more = format!(
        "{text}\n- {{id: knots, title: Knots, class: Site Practice, requires: [safety], words: 'What holds, and what comes undone.'}}\n"
    );
    let (_, tried) = client
        .send(
            "POST",
            "/api/bank/skills/try",
            Some(&tor),
            Some(json!({"text": more})),
        )
        .await;
    let knots = tried["skills"].as_array().unwrap().last().unwrap();
    assert_eq!(
        (&knots["stratum"], &knots["has_page"]),
        (&json!(1), &json!(false))
    );
    assert_eq!(save(&more).await, "[]");
    let (_, skills) = client.send("GET", "/api/skills", Some(&ada), None).await;
    let shown = skills["skills"].as_array().unwrap();
    assert!(shown.iter().any(|s| s["title"] == "Knots"));
    // Another server reads it from the database.
    let elsewhere = school::School::new(pool.clone());
    school::refresh_content(&elsewhere).await.unwrap();
    assert!(school::find_skill("knots").is_some());
}

fn zip_of(files: &[(&str, &str)]) -> Vec<u8> {
    let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let options = zip::write::SimpleFileOptions::default();
    for (name, text) in files {
        writer.start_file(*name, options).unwrap();
        writer.write_all(text.as_bytes()).unwrap();
    }
    writer.finish().unwrap().into_inner()
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_bank_goes_out_and_comes_in_as_a_zip(pool: PgPool) {
    let _alone = ALONE.lock().await;
    let (client, tor, ada, _) = desk!(pool);
    let send = async |who: &actix_web::cookie::Cookie<'static>, bytes: Vec<u8>| {
        let request = test::TestRequest::post()
            .uri("/api/bank/import")
            .peer_addr("127.0.0.1:5000".parse().unwrap())
            .cookie(who.clone())
            .insert_header(("Content-Type", "application/zip"))
            .set_payload(bytes);
        let response = test::call_service(&client.app, request.to_request()).await;
        let status = response.status();
        let said: Value = serde_json::from_slice(&test::read_body(response).await).unwrap_or_default();
        (status, said)
    };
    let tripled = DOUBLED.replace("doubled", "tripled").replace("2*", "3*");
    let faulty = tripled.replace("tripled", "faulty").replace("{{n}}'}", "{{m}}'}");
    let (status, said) = send(
        &tor,
        zip_of(&[
            ("mine/tripled.yaml", &tripled),
            ("mine/faulty.yaml", &faulty),
            ("pages/juggling.md", "## A\n\nB\n"),
            ("readme.txt", "hello"),
        ]),
    )
    .await;
    assert_eq!(status, StatusCode::OK, "{said}");
    assert_eq!(said["others"], json!(["readme.txt"]));
    let of = |name: &str| {
        let files = said["files"].as_array().unwrap();
        files.iter().find(|f| f["name"] == name).unwrap().clone()
    };
    assert_eq!(
        of("mine/tripled.yaml"),
        json!({"name": "mine/tripled.yaml", "is_new": true, "faults": []})
    );
    assert_eq!(of("mine/faulty.yaml")["is_new"], false);
    assert!(of("mine/faulty.yaml")["faults"].to_string().contains('m'));
    assert!(
        of("pages/juggling.md")["faults"]
            .to_string()
            .contains("no skill `juggling`")
    );
    for (bytes, words) in [
        (b"nonsense".to_vec(), "no zip file"),
        (Vec::new(), "no zip file"),
        (zip_of(&[("readme.txt", "a")]), "no question"),
    ] {
        let (status, said) = send(&tor, bytes).await;
        assert_eq!(status, StatusCode::BAD_REQUEST);
        assert!(said["detail"].as_str().unwrap().contains(words), "{said}");
    }
    assert_eq!(
        send(&ada, zip_of(&[("a.yaml", &tripled)])).await.0,
        StatusCode::NOT_FOUND
    );

    // What goes out comes back as it was.
    let request = test::TestRequest::get()
        .uri("/api/bank/export.zip")
        .cookie(tor.clone())
        .to_request();
    let response = test::call_service(&client.app, request).await;
    assert_eq!(response.status(), StatusCode::OK);
    let bytes = test::read_body(response).await.to_vec();
    let mut archive = zip::ZipArchive::new(Cursor::new(bytes.clone())).unwrap();
    let mut text = String::new();
    archive
        .by_name("questions/fractions/tripled.yaml")
        .unwrap()
        .read_to_string(&mut text)
        .unwrap();
    assert_eq!(text, tripled, "with its layout");
    let (_, said) = send(&tor, bytes).await;
    let files = said["files"].as_array().unwrap();
    assert!(files.len() > 20, "questions, pages and skills");
    let questions = files
        .iter()
        .filter(|f| f["name"].as_str().unwrap().starts_with("questions/"));
    // That one was put there by the test, under another digest.
    for file in questions.filter(|f| f["name"] != "questions/fractions/doubled.yaml") {
        assert_eq!(
            (&file["is_new"], &file["faults"]),
            (&json!(false), &json!([])),
            "{file}"
        );
    }
    let skills = files.iter().find(|f| f["name"] == "skills.yaml").unwrap();
    assert_eq!(skills["is_new"], false);
}
