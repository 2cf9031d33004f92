//! QTI packages over HTTP: out of the bank and an assignment, into a bank; and a class taken out.

use std::io::{Cursor, Read, Write};

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;
use zip::write::SimpleFileOptions;
use zip::{ZipArchive, ZipWriter};

use crate::client::{DOUBLED, QUESTION, client, homework, teacher_of, world_with};

fn zipped(files: &[(&str, &[u8])]) -> Vec<u8> {
    let mut writer = ZipWriter::new(Cursor::new(Vec::new()));
    for (name, body) in files {
        let options = SimpleFileOptions::default().compression_method(zip::CompressionMethod::Deflated);
        writer.start_file(*name, options).unwrap();
        writer.write_all(body).unwrap();
    }
    writer.finish().unwrap().into_inner()
}

fn names(bytes: &[u8]) -> Vec<String> {
    let archive = ZipArchive::new(Cursor::new(bytes)).unwrap();
    archive.file_names().map(|n| n.unwrap().into_owned()).collect()
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_goes_out_as_qti_comes_back_as_it_was(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let class = teacher_of(&pool, &id).await;
    let client = client!(pool);
    let tam = client.sign_in("tam").await;
    let (status, whole) = client.file("/api/bank/qti.zip", &tam).await;
    assert_eq!(status, StatusCode::OK);
    assert!(names(&whole).contains(&"items/doubled.xml".to_owned()));
    // The first time its text is new to this bank, which was filled without; after that it is what is there.
    client.upload("/api/bank/import", &tam, whole).await;
    let (_, whole) = client.file("/api/bank/qti.zip", &tam).await;
    let (status, said) = client.upload("/api/bank/import", &tam, whole).await;
    assert_eq!(status, StatusCode::OK, "{said}");
    assert_eq!(
        (&said["files"][0]["name"], &said["files"][0]["is_new"]),
        (&json!("doubled"), &json!(false))
    );
    assert_eq!(said["told"], json!([]));
    // An assignment, with a test of its questions.
    let path = format!("/api/classes/{class}/assignments/{id}/qti.zip");
    let (_, one) = client.file(&path, &tam).await;
    assert!(names(&one).contains(&"tests/doubling.xml".to_owned()));
    let (_, said) = client.upload("/api/bank/import", &tam, one).await;
    assert!(
        said["told"][0]
            .as_str()
            .unwrap()
            .contains("“Doubling” has 1 questions"),
        "{said}"
    );
    let ada = client.sign_in("ada").await;
    for hidden in [
        "/api/bank/qti.zip",
        &path,
        &format!("/api/classes/{class}/everything.zip"),
    ] {
        assert_eq!(
            client.file(hidden, &ada).await.0,
            StatusCode::NOT_FOUND,
            "{hidden}"
        );
    }
}

const ITEM: &str = "<qti-assessment-item identifier='doubled' title='Another'><qti-response-declaration identifier='R' cardinality='single' \
    base-type='float'><qti-correct-response><qti-value>5</qti-value></qti-correct-response></qti-response-declaration><qti-item-body>\
    <p>What is five?</p><p>n = <qti-text-entry-interaction response-identifier='R'/></p></qti-item-body></qti-assessment-item>";
const MANIFEST: &str = "<manifest><resources><resource identifier='a' type='imsqti_item_xmlv3p0' href='a.xml'/></resources></manifest>";

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn an_item_of_another_writer_replaces_no_question(pool: PgPool) {
    let id = world_with(&pool, homework(), &[QUESTION]).await;
    teacher_of(&pool, &id).await;
    let client = client!(pool);
    let tam = client.sign_in("tam").await;
    let package = zipped(&[
        ("imsmanifest.xml", MANIFEST.as_bytes()),
        ("a.xml", ITEM.as_bytes()),
    ]);
    let (status, said) = client.upload("/api/bank/import", &tam, package).await;
    assert_eq!(status, StatusCode::OK, "{said}");
    assert_eq!(
        (&said["files"][0]["is_new"], &said["files"][0]["faults"]),
        (&json!(true), &json!([])),
        "{said}"
    );
    assert!(
        said["told"][0].as_str().unwrap().contains("it is doubled-2 here"),
        "{said}"
    );
    let look = json!({"seed": 1, "parts": [{"id": "a", "response": "5"}]});
    let (_, seen) = client
        .send("POST", "/api/bank/doubled-2/look", Some(&tam), Some(look))
        .await;
    assert_eq!(seen["question"]["all_right"], true, "{seen}");
    let (_, old) = client
        .send(
            "POST",
            "/api/bank/doubled/look",
            Some(&tam),
            Some(json!({"seed": 1})),
        )
        .await;
    assert_eq!(old["title"], "Doubled");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn hostile_packages_are_refused_with_a_reason(pool: PgPool) {
    let id = world_with(&pool, homework(), &[QUESTION]).await;
    teacher_of(&pool, &id).await;
    let client = client!(pool);
    let tam = client.sign_in("tam").await;
    let manifest = ("imsmanifest.xml", MANIFEST.as_bytes());
    // A thousand to one: far more than it says.
    let bomb = vec![b' '; 5 * 1024 * 1024];
    let many: Vec<(String, Vec<u8>)> = (0..8)
        .map(|n| (format!("{n}.xml"), vec![b' '; 4_000_000]))
        .collect();
    let mut heavy: Vec<(&str, &[u8])> = vec![manifest];
    heavy.extend(many.iter().map(|(n, b)| (n.as_str(), b.as_slice())));
    let crowd: Vec<(String, Vec<u8>)> = (0..1_001).map(|n| (format!("{n}.xml"), Vec::new())).collect();
    let mut crowded: Vec<(&str, &[u8])> = vec![manifest];
    crowded.extend(crowd.iter().map(|(n, b)| (n.as_str(), b.as_slice())));
    let mut broken = zipped(&[manifest]);
    broken.truncate(broken.len() / 2);
    let entities = "<!DOCTYPE x [<!ENTITY a SYSTEM 'file:///etc/passwd'>]><manifest>&a;</manifest>";
    let refused: [(Vec<u8>, &str); 7] = [
        (zipped(&[manifest, ("a.xml", &bomb)]), "too large"),
        (zipped(&heavy), "too large"),
        (zipped(&crowded), "too many files"),
        (
            zipped(&[manifest, ("../../a.xml", ITEM.as_bytes())]),
            "outside itself",
        ),
        (
            zipped(&[manifest, ("/etc/a.xml", ITEM.as_bytes())]),
            "outside itself",
        ),
        (broken, "no zip file"),
        (b"hello".to_vec(), "no zip file"),
    ];
    for (bytes, words) in refused {
        let (status, said) = client.upload("/api/bank/import", &tam, bytes).await;
        assert_eq!(status, StatusCode::BAD_REQUEST, "{words}: {said}");
        assert!(
            said["detail"].as_str().unwrap().contains(words),
            "{words}: {said}"
        );
    }
    let looked_up = zipped(&[("imsmanifest.xml", entities.as_bytes())]);
    let (status, said) = client.upload("/api/bank/import", &tam, looked_up).await;
    assert_eq!((status, &said["files"]), (StatusCode::OK, &json!([])));
    assert!(
        said["told"][0].as_str().unwrap().contains("document type"),
        "{said}"
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_class_is_taken_out_by_its_teacher(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let class = teacher_of(&pool, &id).await;
    let client = client!(pool);
    let (tam, ada) = (client.sign_in("tam").await, client.sign_in("ada").await);
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let check = json!({"question": 0, "parts": [{"id": "a", "response": "12345"}]});
    client
        .send("POST", &path("/check"), Some(&ada), Some(check))
        .await;
    let (status, bytes) = client
        .file(&format!("/api/classes/{class}/everything.zip"), &tam)
        .await;
    assert_eq!(status, StatusCode::OK);
    let mut archive = ZipArchive::new(Cursor::new(bytes)).unwrap();
    let mut text = String::new();
    archive
        .by_name("class.json")
        .unwrap()
        .read_to_string(&mut text)
        .unwrap();
    let all: Value = serde_json::from_str(&text).unwrap();
    assert_eq!(all["class"][0]["title"], "Site Practice");
    let names: Vec<_> = all["people"]
        .as_array()
        .unwrap()
        .iter()
        .map(|p| p["user_name"].as_str().unwrap())
        .collect();
    assert_eq!(names, ["ada", "cy", "tam"]);
    assert_eq!(all["assignments"][0]["questions"], json!(["doubled"]));
    assert!(text.contains("12345"));
    // Nothing that signs anybody in.
    assert!(!text.contains("password") && !text.contains("argon2"));
}
