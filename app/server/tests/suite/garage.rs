//! A phone on the local network: let in by a code, held to its role, shut out.

use axum::Router;
use axum::body::Body;
use axum::http::{Method, Request, StatusCode};
use http_body_util::BodyExt;
use orthavis_store::Store;
use serde_json::{Value, json};
use tempfile::TempDir;
use tower::ServiceExt;

const TRIKE: &str = include_str!("../../../../core/model/demo/book-delivery-trike.json");
const NEAR: &str = "127.0.0.1:7417";
const PHONE: &str = "127.0.0.2:7417";

struct Workshop {
    owner: Router,
    garage: Router,
    _folder: TempDir,
}

struct Answer {
    status: StatusCode,
    cookie: Option<String>,
    body: Value,
}

async fn ask(app: &Router, host: &str, cookie: Option<&str>, method: &str, path: &str, body: Option<Value>, more: &[(&str, &str)]) -> Answer {
    let mut request = Request::builder().method(Method::from_bytes(method.as_bytes()).expect("a method")).uri(path).header("host", host);
    for (name, value) in more.iter().copied().chain(cookie.map(|cookie| ("cookie", cookie))) {
        request = request.header(name, value);
    }
    let body = body.map_or_else(Body::empty, |body| Body::from(body.to_string()));
    let request = request.header("content-type", "application/json").body(body).expect("a request");
    let response = app.clone().oneshot(request).await.expect("infallible");
    let cookie = response.headers().get("set-cookie").map(|value| value.to_str().expect("text").to_owned());
    let status = response.status();
    let bytes = response.into_body().collect().await.expect("a body").to_bytes();
    Answer { status, cookie, body: serde_json::from_slice(&bytes).unwrap_or_default() }
}

impl Workshop {
    async fn new() -> Self {
        let folder = TempDir::new().expect("folder");
        let store = Store::open(&folder.path().join("builds.db")).expect("store");
        let (owner, garage) = orthavis_server::apps_with_door(store, NEAR.parse().expect("an address"), PHONE.parse().expect("an address"));
        let workshop = Workshop { owner, garage, _folder: folder };
        let made = workshop.owner("POST", "/api/v1/builds", Some(serde_json::from_str(TRIKE).expect("a build"))).await;
        assert_eq!(made.status, StatusCode::CREATED);
        workshop
    }

    async fn owner(&self, method: &str, path: &str, body: Option<Value>) -> Answer {
        ask(&self.owner, NEAR, None, method, path, body, &[]).await
    }

    async fn phone(&self, cookie: Option<&str>, method: &str, path: &str, body: Option<Value>) -> Answer {
        ask(&self.garage, PHONE, cookie, method, path, body, &[("if-match", "\"1\"")]).await
    }

    async fn code(&self) -> String {
        let made = self.owner("POST", "/api/v1/garage/code", None).await;
        assert_eq!(made.status, StatusCode::CREATED);
        let code = made.body["code"].as_str().expect("a code").to_owned();
        assert_eq!(made.body["address"], json!(format!("http://{PHONE}/pair#{code}")));
        assert!(made.body["qr"].as_str().expect("a picture").contains("<svg"));
        code
    }

    /// Lets a phone in; the cookie that it shows, and the number it is listed under.
    async fn paired(&self) -> (String, i64) {
        let code = self.code().await;
        let let_in = self.phone(None, "POST", "/api/v1/garage/pair", Some(json!({ "code": code, "name": "Phone" }))).await;
        assert_eq!((let_in.status, &let_in.body["role"]), (StatusCode::CREATED, &json!("reader")));
        let cookie = let_in.cookie.expect("a cookie");
        assert!(["HttpOnly", "SameSite=Strict", "Path=/"].iter().all(|word| cookie.contains(word)), "{cookie}");
        let devices = self.owner("GET", "/api/v1/garage", None).await.body["devices"].clone();
        (cookie.split(';').next().expect("a pair").to_owned(), devices[0]["id"].as_i64().expect("an id"))
    }
}

fn ride() -> Value {
    json!({ "events": [{ "id": "01900000-0000-7000-8000-000000000001", "at": "2026-05-02T18:40:00+02:00", "kind": "ride", "data": { "minutes": 40 } }] })
}

#[tokio::test]
async fn a_stranger_sees_the_page_and_nothing_else() {
    let workshop = Workshop::new().await;
    for path in ["/api/v1/builds", "/api/v1/builds/1", "/api/v1/reference", "/api/v1/openapi.json", "/api/v1/garage", "/api/v1/nowhere"] {
        for cookie in [None, Some("orthavis_device=guessed"), Some("orthavis_device=")] {
            let answer = workshop.phone(cookie, "GET", path, None).await;
            assert_eq!((answer.status, &answer.body["type"]), (StatusCode::UNAUTHORIZED, &json!("unpaired")), "{path}");
        }
    }
    assert_eq!(workshop.phone(None, "GET", "/api/v1/me", None).await.body, json!({ "role": "stranger" }));
    for page in ["/", "/pair", "/builds/1", "/pair.js", "/pair.css"] {
        assert_eq!(workshop.phone(None, "GET", page, None).await.status, StatusCode::OK, "{page}");
    }
    // Nothing large, and nothing of the workshop's, before it is let in.
    for file in ["/assets/index.js", "/core.wasm", "/favicon.ico", "/index.html"] {
        assert_eq!(workshop.phone(None, "GET", file, None).await.status, StatusCode::UNAUTHORIZED, "{file}");
    }
    let long = json!({ "code": "A".repeat(2000), "name": "Phone" });
    assert_eq!(workshop.phone(None, "POST", "/api/v1/garage/pair", Some(long)).await.status, StatusCode::PAYLOAD_TOO_LARGE);
    assert_eq!(workshop.owner("GET", "/api/v1/me", None).await.body, json!({ "role": "owner" }));
}

#[tokio::test]
async fn a_device_reads_computes_and_writes_the_journal_and_edits_only_when_it_may() {
    let workshop = Workshop::new().await;
    let (cookie, id) = workshop.paired().await;
    let trike: Value = serde_json::from_str(TRIKE).expect("a build");
    let asked = |method, path: &'static str, body| {
        let (workshop, cookie) = (&workshop, cookie.clone());
        async move { workshop.phone(Some(&cookie), method, path, body).await.status }
    };
    let edits: [(&str, &str, Option<Value>, StatusCode); 6] = [
        ("PUT", "/api/v1/builds/1", Some(trike.clone()), StatusCode::OK),
        ("POST", "/api/v1/builds", Some(trike.clone()), StatusCode::CREATED),
        ("POST", "/api/v1/builds/1/duplicate", None, StatusCode::CREATED),
        ("POST", "/api/v1/builds/1/rename", Some(json!({ "name": "Ours" })), StatusCode::PRECONDITION_FAILED),
        ("DELETE", "/api/v1/parts/none", None, StatusCode::NOT_FOUND),
        ("DELETE", "/api/v1/builds/1", None, StatusCode::PRECONDITION_FAILED),
    ];
    for (method, path, body, _) in edits.clone() {
        assert_eq!(asked(method, path, body).await, StatusCode::FORBIDDEN, "{method} {path}");
    }
    assert_eq!(asked("GET", "/api/v1/builds/1", None).await, StatusCode::OK);
    assert_eq!(asked("POST", "/api/v1/solve", Some(json!({ "document": trike }))).await, StatusCode::OK);
    assert_eq!(asked("POST", "/api/v1/builds/1/journal", Some(ride())).await, StatusCode::OK);
    assert_eq!(asked("POST", "/api/v1/jobs", Some(json!({ "kind": "mend", "document": trike }))).await, StatusCode::ACCEPTED);

    let allowed = workshop.owner("PUT", &format!("/api/v1/garage/devices/{id}"), Some(json!({ "may_edit": true }))).await;
    assert_eq!(allowed.body["may_edit"], json!(true));
    for (method, path, body, expected) in edits {
        assert_eq!(asked(method, path, body).await, expected, "{method} {path}");
    }
    // The door itself, and the workshop as a whole, stay the owner's.
    for (method, path) in [
        ("GET", "/api/v1/garage"),
        ("POST", "/api/v1/garage/code"),
        ("POST", "/api/v1/garage/door"),
        ("DELETE", "/api/v1/garage/door"),
        ("DELETE", "/api/v1/garage/devices/1"),
        ("GET", "/api/v1/workshop/backup"),
        ("GET", "/api/v1/workshop/export"),
        ("POST", "/api/v1/workshop/restore"),
    ] {
        assert_eq!(asked(method, path, None).await, StatusCode::FORBIDDEN, "{method} {path}");
    }
}

#[tokio::test]
async fn a_device_that_is_shut_out_is_a_stranger() {
    let workshop = Workshop::new().await;
    let (cookie, id) = workshop.paired().await;
    let path = format!("/api/v1/garage/devices/{id}");
    assert_eq!(workshop.owner("DELETE", &path, None).await.status, StatusCode::NO_CONTENT);
    assert_eq!(workshop.phone(Some(&cookie), "GET", "/api/v1/builds", None).await.status, StatusCode::UNAUTHORIZED);
    assert_eq!(workshop.owner("DELETE", &path, None).await.status, StatusCode::NOT_FOUND);
    assert_eq!(workshop.owner("PUT", &path, Some(json!({ "may_edit": true }))).await.status, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn a_code_is_good_once_and_five_wrong_ones_close_the_door() {
    let workshop = Workshop::new().await;
    let knock = |code: String, name: &'static str| {
        let workshop = &workshop;
        async move { workshop.phone(None, "POST", "/api/v1/garage/pair", Some(json!({ "code": code, "name": name }))).await }
    };
    let code = workshop.code().await;
    assert_eq!(knock(code.clone(), " ").await.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(knock(code.clone(), "Phone").await.status, StatusCode::CREATED);
    let fresh = workshop.code().await;
    for _ in 0..4 {
        let answer = knock(code.clone(), "Phone").await;
        assert_eq!((answer.status, &answer.body["type"]), (StatusCode::FORBIDDEN, &json!("code")));
    }
    for code in [code, fresh] {
        let answer = knock(code, "Phone").await;
        assert_eq!((answer.status, &answer.body["type"]), (StatusCode::TOO_MANY_REQUESTS, &json!("closed")));
    }
}

#[tokio::test]
async fn only_the_address_listened_on_is_answered() {
    let workshop = Workshop::new().await;
    let (cookie, _) = workshop.paired().await;
    for (host, origin, allowed) in [
        (PHONE, None, true),
        (PHONE, Some("http://127.0.0.2:7417"), true),
        (NEAR, None, false),
        ("lights.example:7417", None, false),
        ("127.0.0.2", None, false),
        (PHONE, Some("http://127.0.0.1:7417"), false),
        (PHONE, Some("http://lights.example"), false),
    ] {
        let more: Vec<_> = origin.map(|origin| ("origin", origin)).into_iter().collect();
        let answer = ask(&workshop.garage, host, Some(&cookie), "GET", "/api/v1/builds", None, &more).await;
        assert_eq!(answer.status == StatusCode::OK, allowed, "{host} {origin:?}");
    }
    assert_eq!(ask(&workshop.owner, PHONE, None, "GET", "/api/v1/builds", None, &[]).await.status, StatusCode::FORBIDDEN);
}

#[tokio::test]
async fn without_a_door_there_is_no_code() {
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&folder.path().join("builds.db")).expect("store");
    let app = orthavis_server::app(store, NEAR.parse().expect("an address"));
    let answer = ask(&app, NEAR, None, "POST", "/api/v1/garage/code", None, &[]).await;
    assert_eq!((answer.status, &answer.body["type"]), (StatusCode::CONFLICT, &json!("closed")));
    assert_eq!(ask(&app, NEAR, None, "GET", "/api/v1/garage", None, &[]).await.body, json!({ "addresses": [], "devices": [] }));
    let answer = ask(&app, NEAR, None, "POST", "/api/v1/garage/pair", Some(json!({ "code": "AAAAAA", "name": "Phone" })), &[]).await;
    assert_eq!(answer.body["type"], json!("near"));
}

#[tokio::test]
async fn the_door_is_opened_at_an_address_of_this_machine_and_closed_again() {
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&folder.path().join("builds.db")).expect("store");
    let app = orthavis_server::app(store, NEAR.parse().expect("an address"));
    let door = |method: &'static str, body: Option<Value>| {
        let app = &app;
        async move { ask(app, NEAR, None, method, "/api/v1/garage/door", body, &[]).await }
    };
    for (address, status, words) in [
        (json!("0.0.0.0"), StatusCode::CONFLICT, "is not an address on a local network"),
        (json!("127.0.0.1"), StatusCode::CONFLICT, "is not an address on a local network"),
        (json!("192.0.2.77"), StatusCode::CONFLICT, "give an address of this machine"),
        (json!("kitchen"), StatusCode::BAD_REQUEST, "IP address"),
    ] {
        let refused = door("POST", Some(json!({ "address": address }))).await;
        assert_eq!(refused.status, status, "{address}: {}", refused.body);
        assert!(refused.body["detail"].as_str().is_some_and(|detail| detail.contains(words)), "{address}: {}", refused.body);
    }
    assert_eq!(door("DELETE", None).await.body["addresses"], json!([]), "what is closed stays closed");
    let open = door("POST", Some(json!({ "address": "127.0.0.2" }))).await;
    assert_eq!((open.status, open.body["addresses"].as_array().map(Vec::len)), (StatusCode::OK, Some(1)), "{}", open.body);
    // Now there is a code, good for that address; with the door it goes.
    let code = ask(&app, NEAR, None, "POST", "/api/v1/garage/code", None, &[]).await;
    assert_eq!(code.status, StatusCode::CREATED);
    assert!(code.body["address"].as_str().is_some_and(|address| address.starts_with("http://127.0.0.2:")), "{}", code.body);
    assert_eq!(door("DELETE", None).await.body["addresses"], json!([]));
    assert_eq!(ask(&app, NEAR, None, "POST", "/api/v1/garage/code", None, &[]).await.status, StatusCode::CONFLICT);
}
