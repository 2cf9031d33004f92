//! Classes: who may, how students come in, and that nothing of theirs is lost when they are taken out.

use actix_web::cookie::Cookie;
use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{Client, DOUBLED, check, client, homework, world_with};

/// Tor teaches Ada's class, Una another one.
pub async fn teachers(pool: &PgPool) {
    let hash = school::sign_in::hash_password("slate-and-chalk").unwrap();
    let mine = store::put_class(pool, "Site Practice").await.unwrap();
    let other = store::put_class(pool, "Other").await.unwrap();
    for (name, class) in [("tor", mine), ("una", other)] {
        let person = store::put_person(pool, name, &format!("{name} Vane"), &hash, store::Role::Teacher)
            .await
            .unwrap();
        store::add_member(pool, class, person).await.unwrap();
    }
}

/// A client with Tor signed in, the one assignment, and Tor's class.
macro_rules! desk {
    ($pool:expr) => {{
        let id = world_with(&$pool, homework(), &[DOUBLED]).await;
        teachers(&$pool).await;
        let client = client!($pool);
        let tor = client.sign_in("tor").await;
        let (_, all) = client.send("GET", "/api/classes", Some(&tor), None).await;
        let class = all["classes"][0]["id"].as_str().unwrap().to_owned();
        (client, tor, class, id)
    }};
}

pub fn member<'a>(class: &'a Value, name: &str) -> &'a Value {
    let members = class["members"].as_array().unwrap();
    members.iter().find(|m| m["name"] == name).unwrap()
}

/// Signs in as somebody with a link; gives the status and the cookie.
async fn use_link<S, B>(
    client: &Client<S>,
    link: &str,
    password: &str,
) -> (StatusCode, Option<Cookie<'static>>)
where
    S: actix_web::dev::Service<
            actix_http::Request,
            Response = actix_web::dev::ServiceResponse<B>,
            Error = actix_web::Error,
        >,
    B: actix_web::body::MessageBody,
{
    let request = actix_web::test::TestRequest::post()
        .uri("/api/welcome")
        .peer_addr("127.0.0.1:5000".parse().unwrap())
        .set_json(json!({"link": link, "password": password}));
    let response = actix_web::test::call_service(&client.app, request.to_request()).await;
    let cookie = response.response().cookies().next().map(Cookie::into_owned);
    (response.status(), cookie)
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn an_empty_installation_gets_its_first_teacher_class_and_students(pool: PgPool) {
    let client = client!(pool);
    let (_, start) = client.send("GET", "/api/start", None, None).await;
    assert_eq!(start["empty"], true);
    let school = school::School::new(pool.clone());
    let added = school::classes::add_teacher(&school, "Maren Oldacre", "maren", None)
        .await
        .unwrap()
        .unwrap();
    let link = added.link.unwrap();
    let again = school::classes::add_teacher(&school, "Maren Oldacre", "maren", None)
        .await
        .unwrap();
    assert!(again.is_none(), "the user name is taken");
    let (_, start) = client.send("GET", "/api/start", None, None).await;
    assert_eq!(start["empty"], false);
    // Looking at a link does not use it up; a bad password neither.
    for _ in 0..2 {
        let (_, look) = client
            .send("POST", "/api/welcome/look", None, Some(json!({"link": link})))
            .await;
        assert_eq!(look["display_name"], "Maren Oldacre");
    }
    assert_eq!(use_link(&client, &link, "short").await.0, StatusCode::BAD_REQUEST);
    let (status, maren) = use_link(&client, &link, "slate-and-chalk").await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    assert_eq!(
        use_link(&client, &link, "slate-and-chalk").await.0,
        StatusCode::BAD_REQUEST
    );
    let maren = maren.unwrap();
    let (_, me) = client.send("GET", "/api/me", Some(&maren), None).await;
    assert_eq!((&me["role"], &me["welcomed"]), (&json!("teacher"), &json!(false)));
    client.send("POST", "/api/me/welcomed", Some(&maren), None).await;
    let (_, me) = client.send("GET", "/api/me", Some(&maren), None).await;
    assert_eq!(me["welcomed"], true);
    let made = json!({"title": "Workshop Mathematics", "starts_on": "2026-09-01", "ends_on": "2027-01-29", "time_zone": "Europe/Oslo"});
    for (field, bad) in [
        ("title", json!(" ")),
        ("time_zone", json!("Skerry/Sound")),
        ("ends_on", json!("2026-08-01")),
        ("word", json!("x".repeat(2_001))),
    ] {
        let mut body = made.clone();
        body[field] = bad;
        let (status, said) = client
            .send("POST", "/api/classes", Some(&maren), Some(body))
            .await;
        assert_eq!(status, StatusCode::BAD_REQUEST, "{field}: {said}");
    }
    let (_, class) = client
        .send("POST", "/api/classes", Some(&maren), Some(made))
        .await;
    let class = format!("/api/classes/{}", class["id"].as_str().unwrap());
    let list = json!({"list": "name;user name;group\nEbba Tornvik;ebba;North\nJoss Harrowell;;\n;nobody;\n"});
    let (_, said) = client
        .send(
            "POST",
            &format!("{class}/students"),
            Some(&maren),
            Some(list.clone()),
        )
        .await;
    assert_eq!(said["added"].as_array().unwrap().len(), 2, "{said}");
    assert_eq!(said["added"][1]["user_name"], "joss.harrowell");
    assert_eq!(
        (
            &said["refused"][0]["line"],
            said["refused"].as_array().unwrap().len()
        ),
        (&json!(4), 1)
    );
    let link = said["added"][0]["link"].as_str().unwrap().to_owned();
    let (_, ebba) = use_link(&client, &link, "lichen-and-41").await;
    let (_, me) = client.send("GET", "/api/me", ebba.as_ref(), None).await;
    assert_eq!(me["user_name"], "ebba");
    // The same list once more: nobody twice, and nobody gets a link to an account that is there.
    let (_, again) = client
        .send("POST", &format!("{class}/students"), Some(&maren), Some(list))
        .await;
    assert_eq!(again["added"][0]["link"], Value::Null, "{again}");
    let (_, shown) = client.send("GET", &class, Some(&maren), None).await;
    assert_eq!(member(&shown, "Ebba Tornvik")["group"], "North");
    assert_eq!(member(&shown, "Ebba Tornvik")["has_password"], true);
    assert_eq!(member(&shown, "Joss Harrowell")["has_password"], false);
    assert_eq!(shown["groups"], json!(["North"]));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn who_is_taken_out_sees_nothing_and_loses_nothing(pool: PgPool) {
    let (client, tor, class, id) = desk!(pool);
    let ada = client.sign_in("ada").await;
    let board = format!("/api/assignments/{id}/board");
    client
        .send("POST", &format!("/api/assignments/{id}/open"), Some(&ada), None)
        .await;
    client
        .send(
            "POST",
            &format!("/api/assignments/{id}/check"),
            Some(&ada),
            Some(check("7")),
        )
        .await;
    let path = format!("/api/classes/{class}");
    let (_, shown) = client.send("GET", &path, Some(&tor), None).await;
    let ada_id = member(&shown, "Ada Quill")["id"].as_str().unwrap().to_owned();
    let change = format!("{path}/members/{ada_id}");
    let (_, out) = client
        .send(
            "PUT",
            &change,
            Some(&tor),
            Some(json!({"left": true, "group": "North"})),
        )
        .await;
    assert!(member(&out, "Ada Quill")["left_at"].is_string());
    for (method, tail) in [("GET", "/board"), ("GET", ""), ("POST", "/open")] {
        let (status, _) = client
            .send(method, &format!("/api/assignments/{id}{tail}"), Some(&ada), None)
            .await;
        assert_eq!(status, StatusCode::NOT_FOUND, "{method} {tail}");
    }
    let entry = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "8"});
    for (method, tail, body) in [("PUT", "/drafts", entry), ("POST", "/check", check("8"))] {
        let (status, said) = client
            .send(
                method,
                &format!("/api/assignments/{id}{tail}"),
                Some(&ada),
                Some(body),
            )
            .await;
        assert_eq!(status, StatusCode::NOT_FOUND, "{method} {tail}: {said}");
    }
    let (_, sheet) = client
        .send("GET", &format!("{path}/sheet"), Some(&tor), None)
        .await;
    assert_eq!(sheet["students"].as_array().unwrap().len(), 1, "{sheet}");
    client
        .send("PUT", &change, Some(&tor), Some(json!({"left": false})))
        .await;
    let (_, back) = client.send("GET", &board, Some(&ada), None).await;
    assert_eq!(back["questions"][0]["tries_left"], 2, "the try is still used");
    let (_, acts) = client
        .send("GET", &format!("{path}/acts"), Some(&tor), None)
        .await;
    let did: Vec<&str> = acts["acts"]
        .as_array()
        .unwrap()
        .iter()
        .map(|a| a["did"].as_str().unwrap())
        .collect();
    assert_eq!(
        did,
        [
            "brought back",
            "taken out of a group",
            "taken out of the class",
            "put in the group North"
        ]
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_code_lets_students_in_until_it_is_ended(pool: PgPool) {
    let (client, tor, class, _) = desk!(pool);
    let code_path = format!("/api/classes/{class}/join-code");
    let (_, made) = client
        .send("PUT", &code_path, Some(&tor), Some(json!({"on": true})))
        .await;
    let code = made["join_code"]
        .as_str()
        .unwrap()
        .to_lowercase()
        .replace('-', "");
    let (_, look) = client
        .send("POST", "/api/join/look", None, Some(json!({"code": code})))
        .await;
    assert_eq!(look["class_title"], "Site Practice");
    let new = |user: &str, password: &str| json!({"code": code, "name": "Inka  Vesterby", "user_name": user, "password": password});
    for (body, why) in [
        (new("ada", "slate-and-chalk"), "taken"),
        (new("in ka", "slate-and-chalk"), "letters"),
        (new("inka", "kurz"), "8 characters"),
    ] {
        let (status, said) = client.send("POST", "/api/join", None, Some(body)).await;
        assert_eq!(status, StatusCode::BAD_REQUEST);
        assert!(said["detail"].as_str().unwrap().contains(why), "{said}");
    }
    let (status, _) = client
        .send("POST", "/api/join", None, Some(new("Inka", "slate-and-chalk")))
        .await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let inka = client.sign_in("inka").await;
    let (_, week) = client.send("GET", "/api/week", Some(&inka), None).await;
    assert!(week.to_string().contains("Doubling"), "{week}");
    // Bo has an account already, and joins with it; a teacher does not join as a student.
    let bo = client.sign_in("bo").await;
    let join = |who: Cookie<'static>| {
        let code = code.clone();
        let client = &client;
        async move {
            client
                .send("POST", "/api/me/classes", Some(&who), Some(json!({"code": code})))
                .await
                .0
        }
    };
    assert_eq!(join(bo.clone()).await, StatusCode::OK);
    assert_eq!(join(tor.clone()).await, StatusCode::BAD_REQUEST);
    client
        .send("PUT", &code_path, Some(&tor), Some(json!({"on": false})))
        .await;
    assert_eq!(join(bo).await, StatusCode::BAD_REQUEST, "it was ended");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn no_teacher_gets_hold_of_an_account_of_another_class(pool: PgPool) {
    let (client, tor, class, _) = desk!(pool);
    let una = client.sign_in("una").await;
    let (_, all) = client.send("GET", "/api/classes", Some(&una), None).await;
    let other = format!("/api/classes/{}", all["classes"][0]["id"].as_str().unwrap());
    // Una knows Ada's user name, but not who she is; with both she can only add her.
    let add = |list: &str| json!({"list": list});
    let (_, said) = client
        .send(
            "POST",
            &format!("{other}/students"),
            Some(&una),
            Some(add("Somebody Else,ada\nUna Vane,tor")),
        )
        .await;
    assert_eq!(
        (
            said["added"].as_array().unwrap().len(),
            said["refused"].as_array().unwrap().len()
        ),
        (0, 2)
    );
    client
        .send(
            "POST",
            &format!("{other}/students"),
            Some(&una),
            Some(add("ada quill,ADA")),
        )
        .await;
    let (_, shown) = client.send("GET", &other, Some(&una), None).await;
    let ada = member(&shown, "Ada Quill");
    assert_eq!(ada["may_reset"], false);
    let ada = ada["id"].as_str().unwrap();
    for (method, tail, body) in [
        ("POST", "link", None),
        ("PUT", "password", Some(json!({"password": "mine-from-now-on"}))),
    ] {
        let at = |class: &str| format!("{class}/members/{ada}/{tail}");
        let (status, said) = client.send(method, &at(&other), Some(&una), body.clone()).await;
        assert_eq!(status, StatusCode::BAD_REQUEST, "{said}");
        let (status, _) = client
            .send(method, &at(&format!("/api/classes/{class}")), Some(&una), body)
            .await;
        assert_eq!(status, StatusCode::NOT_FOUND, "not her class");
    }
    // Tor may, and Ada is signed out everywhere; nobody sets a teacher's password.
    let ada_signed_in = client.sign_in("ada").await;
    let mine = format!("/api/classes/{class}");
    let new = json!({"password": "harbour-and-gull"});
    let (status, _) = client
        .send(
            "PUT",
            &format!("{mine}/members/{ada}/password"),
            Some(&tor),
            Some(new.clone()),
        )
        .await;
    assert_eq!(status, StatusCode::OK);
    let (status, _) = client.send("GET", "/api/week", Some(&ada_signed_in), None).await;
    assert_eq!(status, StatusCode::UNAUTHORIZED);
    let (_, shown) = client.send("GET", &mine, Some(&tor), None).await;
    let himself = member(&shown, "tor Vane")["id"].as_str().unwrap();
    let (status, _) = client
        .send(
            "PUT",
            &format!("{mine}/members/{himself}/password"),
            Some(&tor),
            Some(new),
        )
        .await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    let (status, _) = client
        .send(
            "PUT",
            &format!("{mine}/members/{himself}"),
            Some(&tor),
            Some(json!({"left": true})),
        )
        .await;
    assert_eq!(status, StatusCode::BAD_REQUEST, "nobody takes themselves out");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_second_teacher_sees_the_class_and_a_teacher_looks_as_a_student(pool: PgPool) {
    let (client, tor, class, id) = desk!(pool);
    let path = format!("/api/classes/{class}");
    let una = client.sign_in("una").await;
    assert_eq!(
        client.send("GET", &path, Some(&una), None).await.0,
        StatusCode::NOT_FOUND
    );
    let second = json!({"name": "una Vane", "user_name": "una"});
    let (_, said) = client
        .send("POST", &format!("{path}/teachers"), Some(&tor), Some(second))
        .await;
    assert_eq!(said["added"][0]["link"], Value::Null, "{said}");
    assert_eq!(
        client.send("GET", &path, Some(&una), None).await.0,
        StatusCode::OK
    );
    for wrong in [
        json!({"name": "Ada Quill", "user_name": "ada"}),
        json!({"name": "", "user_name": "x"}),
    ] {
        let (status, _) = client
            .send("POST", &format!("{path}/teachers"), Some(&tor), Some(wrong))
            .await;
        assert_eq!(status, StatusCode::BAD_REQUEST);
    }
    // As a student: the student's pages work, the teacher's are not there, and nothing of it is in the sheet.
    let opens = format!("/api/assignments/{id}/open");
    assert_eq!(
        client.send("POST", &opens, Some(&tor), None).await.0,
        StatusCode::NOT_FOUND
    );
    let begin = format!("{path}/as-student");
    assert_eq!(
        client.send("POST", &begin, Some(&tor), None).await.0,
        StatusCode::NO_CONTENT
    );
    let (_, me) = client.send("GET", "/api/me", Some(&tor), None).await;
    assert_eq!(
        (&me["role"], &me["as_student"]),
        (&json!("student"), &json!(true))
    );
    assert_eq!(
        client.send("POST", &opens, Some(&tor), None).await.0,
        StatusCode::NO_CONTENT
    );
    let (status, checked) = client
        .send(
            "POST",
            &format!("/api/assignments/{id}/check"),
            Some(&tor),
            Some(check("7")),
        )
        .await;
    assert_eq!(status, StatusCode::OK, "{checked}");
    assert_eq!(
        client.send("GET", &path, Some(&tor), None).await.0,
        StatusCode::NOT_FOUND
    );
    let (_, sheet) = client
        .send("GET", &format!("{path}/sheet"), Some(&una), None)
        .await;
    assert_eq!(sheet["students"].as_array().unwrap().len(), 2, "{sheet}");
    let (_, shown) = client.send("GET", &path, Some(&una), None).await;
    assert!(!shown.to_string().contains("made-up"), "{shown}");
    assert_eq!(
        client.send("DELETE", "/api/as-student", Some(&tor), None).await.0,
        StatusCode::NO_CONTENT
    );
    assert_eq!(
        client.send("GET", &path, Some(&tor), None).await.0,
        StatusCode::OK
    );
    let left: i64 = sqlx::query_scalar("select count(*) from works")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(left, 0, "nothing of it is kept");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_sheet_says_where_everybody_stands(pool: PgPool) {
    let (client, tor, class, id) = desk!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let right = (2 * crate::client::number_in(&board)).to_string();
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("7")))
        .await;
    client
        .send("POST", &path("/check"), Some(&ada), Some(check(&right)))
        .await;
    let sheet_path = format!("/api/classes/{class}/sheet");
    let (_, sheet) = client.send("GET", &sheet_path, Some(&tor), None).await;
    let cell = &sheet["students"][0]["cells"][0];
    assert_eq!(
        (&cell["state"], &cell["recorded"], &cell["so_far"], &cell["tries"]),
        (&json!("under_way"), &Value::Null, &json!(100.0), &json!(2)),
        "{sheet}"
    );
    assert_eq!(sheet["students"][1]["cells"][0]["state"], "not_opened");
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let (_, sheet) = client.send("GET", &sheet_path, Some(&tor), None).await;
    assert_eq!(sheet["students"][0]["cells"][0]["recorded"], 100.0);
    assert_eq!(sheet["students"][0]["cells"][0]["state"], "handed_in");
    // With other settings it is worked out anew.
    sqlx::query(
        "update assignments set version = version + 1, settings = jsonb_set(settings, '{pass_mark}', '60')",
    )
    .execute(&pool)
    .await
    .unwrap();
    let (_, sheet) = client.send("GET", &sheet_path, Some(&tor), None).await;
    assert_eq!(sheet["students"][0]["cells"][0]["recorded"], 100.0);
    assert_eq!(sheet["assignments"][0]["pass_mark"], 60);
    let file = format!("{sheet_path}.csv");
    let request = actix_web::test::TestRequest::get()
        .uri(&file)
        .peer_addr("127.0.0.1:5000".parse().unwrap())
        .cookie(tor.clone());
    let response = actix_web::test::call_service(&client.app, request.to_request()).await;
    let csv = String::from_utf8(actix_web::test::read_body(response).await.to_vec()).unwrap();
    let mut lines = csv.lines();
    assert!(
        lines
            .next()
            .unwrap()
            .starts_with("Name,Group,Doubling: state,Doubling: recorded %")
    );
    assert_eq!(lines.next().unwrap(), "Ada Quill,,Handed in,100.0,,2,0");
    assert_eq!(lines.next().unwrap(), "Cy Fenn,,Not opened,,,0,0");
}
