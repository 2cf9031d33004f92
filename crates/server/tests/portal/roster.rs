//! A class that fills itself from the portal's list.

use portal::Person;
use serde_json::json;
use sqlx::PgPool;

use crate::site::Site;

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_class_fills_itself_and_who_left_is_marked(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut teacher = site.browser("p-tam").await;
    site.click(&mut teacher, "l-1").await;
    let join = json!({"user_name": "tam", "password": "slate-and-chalk"});
    site.ask(&mut teacher, "POST", "/api/arrival/join", Some(join))
        .await;
    for n in 0..9 {
        site.portal.add_person(Person {
            id: format!("p-{n}"),
            name: format!("Student Number {n}"),
            teacher: false,
            left: false,
        });
    }
    let ask = format!("/api/classes/{}/portal/members", site.class);
    let taken = site.ask(&mut teacher, "POST", &ask, None).await;
    // Three pages of the list; Ada is here already, and signs in once.
    assert_eq!(taken["came"].as_array().unwrap().len(), 11, "{taken}");
    assert_eq!(taken["to_be_joined"], json!(["Ada Quill"]));
    let again = site.ask(&mut teacher, "POST", &ask, None).await;
    assert_eq!((&again["came"], &again["left"]), (&json!([]), &json!([])));
    let class = async || {
        let members = store::members_of(&pool, site.class).await.unwrap();
        let there = members.iter().filter(|m| m.left_at.is_none()).count();
        (members.len(), there)
    };
    assert_eq!(class().await, (14, 14));
    // Who left is marked, and comes back; who was taken out by hand does not.
    site.portal.leave("p-3");
    let taken = site.ask(&mut teacher, "POST", &ask, None).await;
    assert_eq!(taken["left"], json!(["Student Number 3"]));
    assert_eq!(class().await, (14, 13));
    site.portal.add_person(Person {
        id: "p-3".into(),
        name: "Student Number 3".into(),
        teacher: false,
        left: false,
    });
    let taken = site.ask(&mut teacher, "POST", &ask, None).await;
    assert_eq!(taken["came"], json!(["Student Number 3"]));
    let members = store::members_of(&pool, site.class).await.unwrap();
    let out = members
        .iter()
        .find(|m| m.person.display_name == "Student Number 5")
        .unwrap();
    store::set_left(&pool, site.class, out.person.id, Some(site.school.now()))
        .await
        .unwrap();
    let taken = site.ask(&mut teacher, "POST", &ask, None).await;
    assert_eq!(taken["came"], json!([]));
    assert_eq!(class().await, (14, 13));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_portal_is_its_class_teachers_matter(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut teacher = site.browser("p-tam").await;
    site.click(&mut teacher, "l-1").await;
    let join = json!({"user_name": "tam", "password": "slate-and-chalk"});
    site.ask(&mut teacher, "POST", "/api/arrival/join", Some(join))
        .await;
    let path = format!("/api/classes/{}/portal", site.class);
    let seen = site.ask(&mut teacher, "GET", &path, None).await;
    assert_eq!(seen["lines"][0]["title"], "Doubling");
    let course = seen["courses"][0]["id"].as_str().unwrap().to_owned();
    let mut student = site.browser("p-nia").await;
    site.click(&mut student, "l-1").await;
    for (method, tail) in [("GET", ""), ("POST", "/members"), ("POST", "/compare")] {
        let page = student
            .ask(method, &format!("{}{path}{tail}", site.base), None)
            .await;
        assert_eq!(page.status, 404, "{method} {tail}");
    }
    let ended = site
        .ask(&mut teacher, "DELETE", &format!("{path}/courses/{course}"), None)
        .await;
    assert_eq!(ended["courses"], json!([]));
    // Nothing is sent any more, and nobody lost anything.
    site.hand_in(&mut student, true).await;
    assert_eq!(site.send_due().await, 0);
    assert!(
        store::find_credentials(&pool, "nia.ferrow")
            .await
            .unwrap()
            .is_some()
    );
}
