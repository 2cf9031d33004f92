//! Setting work: drafts that nobody sees, what may still be changed, copies, and exceptions.

use actix_web::cookie::Cookie;
use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::classes::{member, teachers};
use crate::client::{Client, DOUBLED, check, client, homework, put_question, world_with};

const TRIPLED: &str = "
id: tripled
title: Tripled
points: 2
numbers: {n: {from: 100, to: 900}}
text: 'Three times {{n}}?'
parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '3*{{n}}'}}]
";

/// An edit made from an assignment's form.
fn edit_of(form: &Value) -> Value {
    let question = |q: &Value| json!({"id": q["id"], "points": q["points"], "tries": q["tries"]});
    let questions: Vec<Value> = form["questions"]
        .as_array()
        .unwrap()
        .iter()
        .map(question)
        .collect();
    json!({"title": form["title"], "settings": form["settings"], "questions": questions,
        "for_groups": form["for_groups"], "for_people": form["for_people"], "version": form["version"]})
}

/// Tor with his class and the one assignment in it, which Ada has begun and tried once.
macro_rules! begun {
    ($pool:expr) => {{
        let id = world_with(&$pool, homework(), &[DOUBLED]).await;
        put_question(&$pool, TRIPLED).await;
        teachers(&$pool).await;
        let client = client!($pool);
        let (tor, ada) = (client.sign_in("tor").await, client.sign_in("ada").await);
        let (_, all) = client.send("GET", "/api/classes", Some(&tor), None).await;
        let class = format!("/api/classes/{}", all["classes"][0]["id"].as_str().unwrap());
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
        (client, tor, ada, class, id)
    }};
}

async fn draft<S, B>(client: &Client<S>, tor: &Cookie<'static>, class: &str, kind: &str) -> (String, Value)
where
    S: actix_web::dev::Service<
            actix_http::Request,
            Response = actix_web::dev::ServiceResponse<B>,
            Error = actix_web::Error,
        >,
    B: actix_web::body::MessageBody,
{
    let new = json!({"title": "Blades", "kind": kind});
    let (_, made) = client
        .send("POST", &format!("{class}/assignments"), Some(tor), Some(new))
        .await;
    let path = format!("{class}/assignments/{}", made["id"].as_str().unwrap());
    let (_, form) = client.send("GET", &path, Some(tor), None).await;
    (path, form)
}

fn fields(list: &Value) -> Vec<&str> {
    list.as_array()
        .unwrap()
        .iter()
        .map(|f| f["field"].as_str().unwrap())
        .collect()
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_draft_is_seen_by_nobody_until_it_is_given_out(pool: PgPool) {
    let (client, tor, ada, class, _) = begun!(pool);
    for kind in ["homework", "quiz", "practice", "reading"] {
        let (path, form) = draft(&client, &tor, &class, kind).await;
        assert_eq!(form["given_out"], false);
        let missing = if kind == "reading" { "goal" } else { "questions" };
        assert_eq!(fields(&form["faults"]), [missing], "{kind}");
        let (status, _) = client
            .send("POST", &format!("{path}/give-out"), Some(&tor), None)
            .await;
        assert_eq!(status, StatusCode::BAD_REQUEST, "{kind} is not whole");
        client.send("DELETE", &path, Some(&tor), None).await;
        assert_eq!(
            client.send("GET", &path, Some(&tor), None).await.0,
            StatusCode::NOT_FOUND
        );
    }
    let (path, form) = draft(&client, &tor, &class, "homework").await;
    let id = form["id"].as_str().unwrap();
    let mut edit = edit_of(&form);
    edit["title"] = json!("Blades and hubs");
    edit["questions"] = json!([{"id": "tripled", "points": 5}, {"id": "doubled", "points": 1, "tries": 1}]);
    let (status, saved) = client.send("PUT", &path, Some(&tor), Some(edit.clone())).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    assert_eq!(
        (&saved["faults"], &saved["questions"][0]["own_points"]),
        (&json!([]), &json!(2))
    );
    // The version that was edited is gone: what was saved is not written over.
    let (status, _) = client.send("PUT", &path, Some(&tor), Some(edit)).await;
    assert_eq!(status, StatusCode::CONFLICT);
    let cover = format!("/api/assignments/{id}");
    assert_eq!(
        client.send("GET", &cover, Some(&ada), None).await.0,
        StatusCode::NOT_FOUND
    );
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert!(!week.to_string().contains("Blades"));
    // Tried as a student, which leaves nothing behind.
    client
        .send("POST", &format!("{class}/as-student"), Some(&tor), None)
        .await;
    client
        .send("POST", &format!("{cover}/open"), Some(&tor), None)
        .await;
    let (_, board) = client
        .send("GET", &format!("{cover}/board"), Some(&tor), None)
        .await;
    let points: Vec<&Value> = board["questions"]
        .as_array()
        .unwrap()
        .iter()
        .map(|q| &q["points"])
        .collect();
    assert_eq!(points, [&json!(5), &json!(1)], "{board}");
    assert_eq!(board["questions"][1]["max_tries"], 1);
    client.send("DELETE", "/api/as-student", Some(&tor), None).await;
    let (status, out) = client
        .send("POST", &format!("{path}/give-out"), Some(&tor), None)
        .await;
    assert_eq!(
        (status, &out["given_out"], &out["begun"]),
        (StatusCode::OK, &json!(true), &json!(0))
    );
    assert_eq!(
        client.send("GET", &cover, Some(&ada), None).await.0,
        StatusCode::OK
    );
    let (status, _) = client.send("DELETE", &path, Some(&tor), None).await;
    assert_eq!(status, StatusCode::BAD_REQUEST, "what was given out stays");
    // What does not fit is not saved any more.
    let (_, form) = client.send("GET", &path, Some(&tor), None).await;
    let mut edit = edit_of(&form);
    edit["questions"] = json!([]);
    let (status, said) = client.send("PUT", &path, Some(&tor), Some(edit)).await;
    assert_eq!(status, StatusCode::BAD_REQUEST, "{said}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn edits_that_make_no_sense_say_why(pool: PgPool) {
    let (client, tor, _, class, id) = begun!(pool);
    let path = format!("{class}/assignments/{id}");
    let (_, form) = client.send("GET", &path, Some(&tor), None).await;
    let stranger = "01900000-0000-7000-8000-000000000000";
    for (field, to, why) in [
        ("title", json!("  "), "title"),
        (
            "questions",
            json!([{"id": "nowhere", "points": 1}]),
            "no question",
        ),
        ("questions", json!([{"id": "doubled", "points": 0}]), "1 to 100"),
        (
            "questions",
            json!([{"id": "doubled", "points": 1}, {"id": "doubled", "points": 1}]),
            "twice",
        ),
        ("for_people", json!([stranger]), "not in this class"),
    ] {
        let mut edit = edit_of(&form);
        edit[field] = to;
        let (status, said) = client.send("PUT", &path, Some(&tor), Some(edit)).await;
        assert_eq!(status, StatusCode::BAD_REQUEST, "{field}");
        assert!(said["detail"].as_str().unwrap().contains(why), "{said}");
    }
    let mut edit = edit_of(&form);
    edit["settings"]["due"] = json!("soon");
    let (status, said) = client
        .send("POST", &format!("{path}/plan"), Some(&tor), Some(edit))
        .await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    assert!(
        said["detail"].as_str().unwrap().contains("no date and time"),
        "{said}"
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn once_work_has_begun_a_change_says_what_it_does_and_takes_nothing(pool: PgPool) {
    let (client, tor, ada, class, id) = begun!(pool);
    let path = format!("{class}/assignments/{id}");
    let (_, form) = client.send("GET", &path, Some(&tor), None).await;
    assert_eq!((&form["begun"], &form["handed_in"]), (&json!(1), &json!(0)));
    let plan = async |edit: &Value| {
        let (status, said) = client
            .send("POST", &format!("{path}/plan"), Some(&tor), Some(edit.clone()))
            .await;
        assert_eq!(status, StatusCode::OK, "{said}");
        said
    };
    let mut fewer = edit_of(&form);
    fewer["settings"]["max_attempts"] = json!(1);
    fewer["questions"] = json!([{"id": "tripled", "points": 2}]);
    let said = plan(&fewer).await;
    assert_eq!(fields(&said["refused"]), ["questions", "max_attempts"]);
    let (status, _) = client.send("PUT", &path, Some(&tor), Some(fewer)).await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    let mut more = edit_of(&form);
    more["settings"]["max_attempts"] = json!(5);
    more["settings"]["due"] = json!("2099-01-10T12:00");
    more["settings"]["closes"] = json!("2099-01-10T12:00");
    let said = plan(&more).await;
    assert_eq!(
        said["effects"],
        json!(["One student who has begun gets the later due date."])
    );
    let (status, _) = client.send("PUT", &path, Some(&tor), Some(more)).await;
    assert_eq!(status, StatusCode::OK);
    let (_, board) = client
        .send("GET", &format!("/api/assignments/{id}/board"), Some(&ada), None)
        .await;
    assert_eq!(
        board["questions"][0]["tries_left"], 4,
        "the try that was used stays used"
    );
    let (_, acts) = client
        .send("GET", &format!("{class}/acts"), Some(&tor), None)
        .await;
    assert_eq!(acts["acts"][0]["did"], "changed an assignment");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn work_for_a_group_or_a_student_is_theirs_alone(pool: PgPool) {
    let (client, tor, ada, class, id) = begun!(pool);
    let cy = client.sign_in("cy").await;
    let path = format!("{class}/assignments/{id}");
    let (_, people) = client.send("GET", &class, Some(&tor), None).await;
    let cy_id = member(&people, "Cy Fenn")["id"].as_str().unwrap().to_owned();
    let sees = async |who: &Cookie<'static>| {
        client
            .send("GET", &format!("/api/assignments/{id}"), Some(who), None)
            .await
            .0
            == StatusCode::OK
    };
    let set = async |groups: Value, people: Value| {
        let (_, form) = client.send("GET", &path, Some(&tor), None).await;
        let mut edit = edit_of(&form);
        edit["for_groups"] = groups;
        edit["for_people"] = people;
        let (status, said) = client.send("PUT", &path, Some(&tor), Some(edit)).await;
        assert_eq!(status, StatusCode::OK, "{said}");
    };
    set(json!([]), json!([cy_id])).await;
    assert_eq!((sees(&ada).await, sees(&cy).await), (false, true));
    let (_, sheet) = client
        .send("GET", &format!("{class}/sheet"), Some(&tor), None)
        .await;
    assert_eq!(
        sheet["students"][0]["cells"][0]["state"], "under_way",
        "what Ada did is still there"
    );
    set(json!(["North"]), json!([])).await;
    assert_eq!((sees(&ada).await, sees(&cy).await), (false, false));
    let change = format!("{class}/members/{cy_id}");
    client
        .send(
            "PUT",
            &change,
            Some(&tor),
            Some(json!({"group": "North", "left": false})),
        )
        .await;
    assert_eq!((sees(&ada).await, sees(&cy).await), (false, true));
    set(json!([]), json!([])).await;
    assert_eq!((sees(&ada).await, sees(&cy).await), (true, true));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_copy_has_its_dates_moved_and_is_a_draft(pool: PgPool) {
    let (client, tor, _, class, id) = begun!(pool);
    let new = json!({"title": "Next term", "time_zone": "Europe/Oslo"});
    let (_, made) = client.send("POST", "/api/classes", Some(&tor), Some(new)).await;
    let to = made["id"].as_str().unwrap().to_owned();
    let path = format!("{class}/assignments/{id}");
    let (_, form) = client.send("GET", &path, Some(&tor), None).await;
    let copy = |to: &str, due: &str| json!({"class": to, "due_on": due});
    for bad in [
        copy(&to, "some day"),
        copy(form["id"].as_str().unwrap(), "2099-06-01"),
    ] {
        let (status, _) = client
            .send("POST", &format!("{path}/copy"), Some(&tor), Some(bad))
            .await;
        assert!(status.is_client_error());
    }
    let (status, made) = client
        .send(
            "POST",
            &format!("{path}/copy"),
            Some(&tor),
            Some(copy(&to, "2099-06-01")),
        )
        .await;
    assert_eq!(status, StatusCode::OK, "{made}");
    let there = format!("/api/classes/{to}/assignments/{}", made["id"].as_str().unwrap());
    let (_, copied) = client.send("GET", &there, Some(&tor), None).await;
    let time = |form: &Value| form["settings"]["due"].as_str().unwrap()[10..].to_owned();
    assert!(
        copied["settings"]["due"]
            .as_str()
            .unwrap()
            .starts_with("2099-06-01"),
        "{copied}"
    );
    assert_eq!(time(&copied), time(&form), "the same time on the wall");
    assert_eq!(
        (&copied["given_out"], &copied["begun"]),
        (&json!(false), &json!(0))
    );
    assert_eq!(copied["questions"], form["questions"]);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn an_exception_is_told_without_its_reason(pool: PgPool) {
    let (client, tor, ada, class, id) = begun!(pool);
    let cy = client.sign_in("cy").await;
    let (_, people) = client.send("GET", &class, Some(&tor), None).await;
    let of = |name: &str| member(&people, name)["id"].as_str().unwrap().to_owned();
    let path = format!("{class}/assignments/{id}/exceptions");
    let give = |students: Vec<String>, with: Value| {
        let mut body = json!({"students": students, "why": "Was in hospital"});
        for (name, value) in with.as_object().unwrap() {
            body[name] = value.clone();
        }
        body
    };
    let both = || vec![of("Ada Quill"), of("Cy Fenn")];
    for (bad, status) in [
        (give(vec![], json!({"more_sets": 1})), StatusCode::BAD_REQUEST),
        (
            give(vec![of("tor Vane")], json!({"more_sets": 1})),
            StatusCode::BAD_REQUEST,
        ),
        (
            give(both(), json!({"why": " ", "more_sets": 1})),
            StatusCode::BAD_REQUEST,
        ),
        (give(both(), json!({"due": "soon"})), StatusCode::BAD_REQUEST),
        (give(both(), json!({})), StatusCode::CONFLICT),
        (give(both(), json!({"time_percent": 90})), StatusCode::CONFLICT),
        (
            give(both(), json!({"due": "2001-01-01T12:00"})),
            StatusCode::CONFLICT,
        ),
    ] {
        let (said, words) = client.send("POST", &path, Some(&tor), Some(bad)).await;
        assert_eq!(said, status, "{words}");
    }
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert!(
        !week.to_string().contains("due date"),
        "what was refused told nobody anything"
    );
    let later = give(
        both(),
        json!({"due": "2099-01-10T12:00", "closes": "2099-01-11T12:00", "more_sets": 2}),
    );
    let (status, given) = client.send("POST", &path, Some(&tor), Some(later)).await;
    assert_eq!((status, &given["given"]), (StatusCode::OK, &json!(2)));
    for who in [&ada, &cy] {
        let (_, week) = client.send("GET", "/api/week", Some(who), None).await;
        assert!(week.to_string().contains("2 more sets of numbers"), "{week}");
        assert!(!week.to_string().contains("hospital"));
        let (_, cover) = client
            .send("GET", &format!("/api/assignments/{id}"), Some(who), None)
            .await;
        assert!(
            cover["due"].as_str().unwrap().starts_with("2099-01-10"),
            "{cover}"
        );
    }
    let told = give(
        vec![of("Ada Quill")],
        json!({"more_hand_ins": 1, "tell_why": true}),
    );
    client.send("POST", &path, Some(&tor), Some(told)).await;
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert!(week.to_string().contains("Was in hospital"), "{week}");
    let (_, acts) = client
        .send("GET", &format!("{class}/acts"), Some(&tor), None)
        .await;
    let act = &acts["acts"][0];
    assert_eq!(
        (&act["did"], &act["why"], &act["student"], &act["by"]),
        (
            &json!("gave an exception"),
            &json!("Was in hospital"),
            &json!("Ada Quill"),
            &json!("tor Vane")
        )
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_teacher_sees_every_set_and_try_of_a_student(pool: PgPool) {
    let (client, tor, ada, class, id) = begun!(pool);
    let (_, people) = client.send("GET", &class, Some(&tor), None).await;
    let ada_id = member(&people, "Ada Quill")["id"].as_str().unwrap().to_owned();
    let path = format!("{class}/students/{ada_id}/{id}");
    let (_, seen) = client.send("GET", &path, Some(&tor), None).await;
    let tries = &seen["questions"][0]["sets"][0]["tries"];
    assert_eq!(tries[0]["parts"][0]["verdict"]["response"], "7", "{seen}");
    assert_eq!(
        (&seen["recorded"], &seen["state"]),
        (&Value::Null, &json!("under_way"))
    );
    client
        .send(
            "POST",
            &format!("/api/assignments/{id}/hand-in"),
            Some(&ada),
            None,
        )
        .await;
    let (_, seen) = client.send("GET", &path, Some(&tor), None).await;
    assert_eq!(
        (&seen["recorded"]["percent"], &seen["hand_ins"][0]["counts"]),
        (&json!(0.0), &json!(true))
    );
    // Notes and ink are hers until she lets them be seen.
    let workings = json!({"based_on": 0, "notes": "2 × 7?", "ink": [[[1.0, 2.0, 0.5], [3.0, 4.0, 0.5]]]});
    let of_ada = |tail: &str| format!("/api/assignments/{id}{tail}");
    client
        .send(
            "PUT",
            &of_ada("/questions/0/workings"),
            Some(&ada),
            Some(workings),
        )
        .await;
    for shared in [false, true, false] {
        if shared {
            client
                .send(
                    "PUT",
                    &of_ada("/workings-shared"),
                    Some(&ada),
                    Some(json!({"shared": true})),
                )
                .await;
            let (_, said) = client
                .send("GET", &of_ada("/workings-shared"), Some(&ada), None)
                .await;
            assert_eq!(said["shared"], true);
        } else {
            client
                .send(
                    "PUT",
                    &of_ada("/workings-shared"),
                    Some(&ada),
                    Some(json!({"shared": false})),
                )
                .await;
        }
        let (_, seen) = client.send("GET", &path, Some(&tor), None).await;
        let shown = &seen["questions"][0]["workings"];
        assert_eq!(
            shown["notes"] == "2 × 7?" && shown["ink"][0][1][0] == 3.0,
            shared,
            "{shown}"
        );
    }
    let una = client.sign_in("una").await;
    for who in [&ada, &una] {
        assert_eq!(
            client.send("GET", &path, Some(who), None).await.0,
            StatusCode::NOT_FOUND
        );
    }
    // A question of the bank is looked at, and tried out, by teachers alone.
    let look = json!({"seed": 3, "parts": [{"id": "a", "response": "7"}]});
    let (_, shown) = client
        .send("POST", "/api/bank/doubled/look", Some(&una), Some(look.clone()))
        .await;
    assert_eq!(
        shown["question"]["parts"][0]["verdict"]["outcome"], "not_yet",
        "{shown}"
    );
    assert!(
        shown["question"]["help"]["working"]
            .to_string()
            .contains("WORKING")
    );
    let (status, _) = client
        .send("POST", "/api/bank/doubled/look", Some(&ada), Some(look))
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (_, bank) = client.send("GET", "/api/bank", Some(&una), None).await;
    assert_eq!(
        (&bank["questions"][0]["id"], &bank["questions"][0]["uses"]),
        (&json!("doubled"), &json!(1))
    );
}
