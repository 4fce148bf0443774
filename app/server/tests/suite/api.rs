//! The API as a client meets it, without a socket.

use axum::Router;
use axum::body::Body;
use axum::http::{HeaderMap, Method, Request, StatusCode};
use http_body_util::BodyExt;
use orthavis_store::Store;
use serde_json::{Value, json};
use tempfile::TempDir;
use tower::ServiceExt;

const TRIKE: &str = include_str!("../../../../core/model/demo/book-delivery-trike.json");

struct Client {
    app: Router,
    folder: TempDir,
}

struct Answer {
    status: StatusCode,
    headers: HeaderMap,
    body: Value,
}

impl Client {
    fn new() -> Self {
        let folder = TempDir::new().expect("folder");
        let store = Store::open(&folder.path().join("builds.db")).expect("store");
        Client { app: orthavis_server::app(store, ([127, 0, 0, 1], 7417).into()), folder }
    }

    async fn send(&self, request: Request<Body>) -> Answer {
        let response = self.app.clone().oneshot(request).await.expect("infallible");
        let (status, headers) = (response.status(), response.headers().clone());
        let bytes = response.into_body().collect().await.expect("a body").to_bytes();
        Answer { status, headers, body: serde_json::from_slice(&bytes).unwrap_or_else(|_| Value::String(String::from_utf8_lossy(&bytes).into_owned())) }
    }

    async fn call(&self, method: Method, path: &str, headers: &[(&str, &str)], body: Option<&str>) -> Answer {
        let mut request = Request::builder().method(method).uri(path).header("host", "127.0.0.1:7417");
        for (name, value) in headers {
            request = request.header(*name, *value);
        }
        if body.is_some() && headers.iter().all(|(name, _)| *name != "content-type") {
            request = request.header("content-type", "application/json");
        }
        self.send(request.body(body.map_or_else(Body::empty, |text| Body::from(text.to_owned()))).expect("a request")).await
    }

    async fn post(&self, path: &str, body: &Value) -> Answer {
        self.call(Method::POST, path, &[], Some(&body.to_string())).await
    }

    /// How mending a document ends.
    async fn mended(&self, document: &Value) -> Value {
        let taken = self.post("/api/v1/jobs", &json!({ "kind": "mend", "document": document })).await;
        let told = self.get(&format!("{}/events", taken.headers["location"].to_str().expect("a path"))).await;
        states(&told.body).pop().expect("a last word")
    }

    /// Keeps a part of one's own under its id.
    async fn keep(&self, part: &Value) -> Answer {
        let path = format!("/api/v1/parts/{}", part["id"].as_str().expect("an id"));
        self.call(Method::PUT, &path, &[], Some(&part.to_string())).await
    }

    async fn get(&self, path: &str) -> Answer {
        self.call(Method::GET, path, &[], None).await
    }

    /// A build on the shelf; its id.
    async fn created(&self) -> i64 {
        let answer = self.call(Method::POST, "/api/v1/builds", &[], Some(TRIKE)).await;
        assert_eq!(answer.status, StatusCode::CREATED);
        answer.body["id"].as_i64().expect("an id")
    }

    async fn save(&self, id: i64, on: &str, document: &Value) -> Answer {
        self.call(Method::PUT, &format!("/api/v1/builds/{id}"), &[("if-match", on)], Some(&document.to_string())).await
    }
}

fn trike() -> Value {
    serde_json::from_str(TRIKE).expect("json")
}

/// A refusal is a problem body that says what to do.
fn assert_problem(answer: &Answer, status: StatusCode, words: &str) {
    assert_eq!(answer.status, status, "{}", answer.body);
    assert_eq!(answer.headers["content-type"], "application/problem+json");
    assert_eq!(answer.body["status"], status.as_u16());
    let detail = answer.body["detail"].as_str().expect("a detail");
    assert!(detail.contains(words), "{detail}");
}

#[tokio::test]
async fn a_build_goes_through_its_life() {
    let client = Client::new();
    let id = client.created().await;
    let path = format!("/api/v1/builds/{id}");
    let opened = client.get(&path).await;
    assert_eq!(opened.headers["etag"], "\"1\"");
    assert_eq!(opened.body["document"]["name"], "Book-delivery trike");

    let mut edited = trike();
    edited["name"] = json!("Edited");
    assert_eq!(client.save(id, "\"1\"", &edited).await.body["revision"], 2);
    let stale = client.save(id, "\"1\"", &trike()).await;
    assert_problem(&stale, StatusCode::PRECONDITION_FAILED, "saved elsewhere");
    assert_eq!((&stale.body["current"]["revision"], &stale.body["current"]["document"]["name"]), (&json!(2), &json!("Edited")));

    let renamed = client.call(Method::POST, &format!("{path}/rename"), &[("if-match", "2")], Some(r#"{"name":"Renamed"}"#)).await;
    assert_eq!((&renamed.body["revision"], &renamed.body["document"]["name"]), (&json!(3), &json!("Renamed")));
    let restored = client.call(Method::POST, &format!("{path}/revisions/1/restore"), &[("if-match", "3")], None).await;
    assert_eq!((&restored.body["revision"], &restored.body["document"]["name"]), (&json!(4), &json!("Book-delivery trike")));
    assert_eq!(client.get(&format!("{path}/revisions")).await.body.as_array().map(Vec::len), Some(4));

    assert_eq!(client.call(Method::POST, &format!("{path}/duplicate"), &[], None).await.status, StatusCode::CREATED);
    assert_eq!(client.call(Method::DELETE, &path, &[], None).await.status, StatusCode::PRECONDITION_REQUIRED);
    assert_problem(&client.call(Method::DELETE, &path, &[("if-match", "3")], None).await, StatusCode::PRECONDITION_FAILED, "saved elsewhere");
    assert_eq!(client.call(Method::DELETE, &path, &[("if-match", "4")], None).await.status, StatusCode::NO_CONTENT);
    assert_problem(&client.get(&path).await, StatusCode::NOT_FOUND, "cannot find that build");
    let shelf = client.get("/api/v1/builds").await.body["builds"].clone();
    assert_eq!(shelf.as_array().map(Vec::len), Some(1));
    let shown = &shelf[0]["summary"];
    assert_eq!((&shown["stops"], &shown["lights"]), (&json!(1), &json!(2)));
    assert_eq!(shown["headline"], "Not safe to build yet");
    assert!(shown["glows"][0]["output"].as_f64().is_some_and(|output| output > 0.5), "{shelf}");
    assert_eq!(client.call(Method::POST, &format!("{path}/undelete"), &[("if-match", "4")], None).await.status, StatusCode::OK);
}

#[tokio::test]
async fn documents_are_solved_and_remedies_applied_without_being_kept() {
    let client = Client::new();
    let solved = client.post("/api/v1/solve", &json!({ "document": trike(), "scene": "parked", "state": "reserve" })).await;
    assert_eq!(solved.status, StatusCode::OK);
    assert_eq!((&solved.body["picture"]["scene"], &solved.body["picture"]["state"]), (&json!("parked"), &json!("reserve")));
    let finding = &solved.body["findings"][0];
    assert_eq!((&finding["code"], &finding["remedies"]), (&json!("fuse.missing"), &json!([])));
    assert_eq!(solved.body["states"], json!(["full", "half", "reserve", "under_way"]));
    assert!(solved.body["feeds"]["tail"][0]["used"].as_f64().is_some_and(|used| (0.0..1.0).contains(&used)), "{}", solved.body["feeds"]);
    let mended = client.post("/api/v1/remedies", &json!({ "document": trike() })).await.body;
    assert_eq!((&mended[0]["code"], &mended[0]["subject"]), (&finding["code"], &finding["subject"]));
    let whole = client.post("/api/v1/report", &json!({ "document": trike() })).await.body;
    assert_eq!((&whole["format"], &whole["findings"][0]["remedies"]), (&json!("orthavis.report/1"), &mended[0]["remedies"]));
    let applied = client.post("/api/v1/apply", &json!({ "document": trike(), "changes": mended[0]["remedies"][0]["changes"] })).await;
    assert_eq!(applied.body["document"]["converters"][0]["feed"]["fuse"]["rating_a"], 1.0);
    assert_eq!(applied.body["effect"]["cleared"][0]["title"], "No fuse at the battery");
    assert_eq!(applied.body["effect"]["headline_before"], "Not safe to build yet");
    let old = json!([{ "op": "test", "path": "/name", "value": "another" }]);
    assert_problem(&client.post("/api/v1/apply", &json!({ "document": trike(), "changes": old })).await, StatusCode::UNPROCESSABLE_ENTITY, "fresh report");
    assert_eq!(client.get("/api/v1/builds").await.body, json!({ "builds": [] }));
}

#[tokio::test]
async fn a_new_build_grows_part_by_part() {
    let client = Client::new();
    let start = json!({ "name": "New", "vehicle": "bicycle", "chemistry": "li_ion", "series": 10, "capacity_ah": 14.0 });
    let document = client.post("/api/v1/starter", &start).await.body;
    let document = client.post("/api/v1/add", &json!({ "document": document, "part": { "kind": "step_down", "set_v": 12.0 } })).await.body;
    let leds = json!({ "kind": "leds", "colour": "red", "count": 6, "place": "rear", "from": "step-down-12v", "length_m": 1.0 });
    let grown = client.post("/api/v1/add", &json!({ "document": document, "part": leds })).await;
    assert_eq!(grown.body["lights"][0]["id"], "rear");
    let wish = json!({ "kind": "leds", "colour": "red", "count": 6, "place": "rear", "from": "nowhere", "length_m": 1.0 });
    assert_problem(&client.post("/api/v1/add", &json!({ "document": grown.body, "part": wish })).await, StatusCode::UNPROCESSABLE_ENTITY, "not a supplier");
    let unknown = json!({ "name": "New", "vehicle": "zeppelin", "chemistry": "li_ion", "series": 10, "capacity_ah": 14.0 });
    assert_problem(&client.post("/api/v1/starter", &unknown).await, StatusCode::UNPROCESSABLE_ENTITY, "zeppelin");
}

#[tokio::test]
async fn bad_input_is_refused_in_words() {
    let client = Client::new();
    let id = client.created().await;
    let path = format!("/api/v1/builds/{id}");
    let mut bad = trike();
    bad["lights"][1]["load"]["sereis"] = json!(4);
    let refused = client.save(id, "\"1\"", &bad).await;
    assert_problem(&refused, StatusCode::UNPROCESSABLE_ENTITY, "sereis");
    assert_eq!(refused.body["errors"][0]["pointer"], "/lights/1/load/sereis");
    assert_problem(&client.call(Method::PUT, &path, &[], Some(TRIKE)).await, StatusCode::PRECONDITION_REQUIRED, "If-Match");
    assert_problem(
        &client.call(Method::POST, "/api/v1/builds", &[("content-type", "text/plain")], Some(TRIKE)).await,
        StatusCode::UNSUPPORTED_MEDIA_TYPE,
        "application/json",
    );
    assert_problem(&client.call(Method::POST, "/api/v1/solve", &[], Some("{")).await, StatusCode::BAD_REQUEST, "Mend");
    let twice = TRIKE.replacen("\"notes\"", "\"name\"", 1);
    assert_problem(&client.call(Method::POST, "/api/v1/builds", &[], Some(&twice)).await, StatusCode::UNPROCESSABLE_ENTITY, "twice");
    let deep = format!("{}{}", "[".repeat(5000), "]".repeat(5000));
    let nested = client.call(Method::POST, "/api/v1/builds", &[], Some(&deep)).await;
    assert!(nested.status.is_client_error(), "{}", nested.status);
    let long = format!("\"{}\"", "x".repeat(5 << 20));
    assert_problem(&client.call(Method::POST, "/api/v1/builds", &[], Some(&long)).await, StatusCode::PAYLOAD_TOO_LARGE, "4 MiB");
    assert_eq!(client.get("/api/v1/nowhere").await.status, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn a_page_elsewhere_can_neither_read_nor_write() {
    let client = Client::new();
    client.created().await;
    let request = |method: Method, host: &str, origin: Option<&str>| {
        let mut request = Request::builder().method(method).uri("/api/v1/builds").header("host", host).header("content-type", "application/json");
        if let Some(origin) = origin {
            request = request.header("origin", origin);
        }
        request.body(Body::from(TRIKE)).expect("a request")
    };
    for (host, origin, allowed) in [
        ("127.0.0.1:7417", None, true),
        ("localhost:7417", Some("http://localhost:7417"), true),
        ("[::1]:7417", Some("http://127.0.0.1:7417"), true),
        ("lights.example:7417", None, false),
        ("127.0.0.1:80", None, false),
        ("127.0.0.1:7417", Some("http://lights.example"), false),
        ("127.0.0.1:7417", Some("https://127.0.0.1:7417"), false),
        ("127.0.0.1:7417", Some("http://127.0.0.1:9999"), false),
        ("127.0.0.1:7417", Some("null"), false),
    ] {
        for method in [Method::GET, Method::POST] {
            let answer = client.send(request(method.clone(), host, origin)).await;
            assert_eq!(answer.status != StatusCode::FORBIDDEN, allowed, "{method} {host} {origin:?}");
        }
    }
    let nameless = Request::builder().uri("/api/v1/builds").body(Body::empty()).expect("a request");
    assert_eq!(client.send(nameless).await.status, StatusCode::FORBIDDEN);
}

#[tokio::test]
async fn every_answer_carries_its_guards() {
    let client = Client::new();
    for path in ["/", "/builds/1", "/api/v1/builds", "/api/v1/nowhere", "/nothing.js"] {
        let headers = client.get(path).await.headers;
        assert_eq!(headers["x-content-type-options"], "nosniff", "{path}");
        assert_eq!(headers["referrer-policy"], "no-referrer", "{path}");
        let policy = headers["content-security-policy"].to_str().expect("text");
        // The core in the page is compiled there; nothing else that is unsafe is allowed.
        let strict = policy.replacen("script-src 'self' 'wasm-unsafe-eval';", "", 1);
        assert!(policy.contains("default-src 'none'") && strict != policy && !strict.contains("unsafe"), "{path}: {policy}");
    }
}

#[test]
fn the_description_in_the_tree_is_the_one_the_code_gives() {
    let kept = include_str!("../../../../web/openapi.json");
    assert!(kept == orthavis_server::openapi(), "run `cargo xtask api` and commit what it writes");
}

#[tokio::test]
async fn helpers_answer_with_choices_that_can_be_applied() {
    let client = Client::new();
    let ask = |question: Value| json!({ "document": trike(), "question": question });
    for (question, least) in [
        (json!({ "kind": "strings", "light": "tail", "series": "e24" }), 4),
        (json!({ "kind": "supply", "light": "tail" }), 7),
        (json!({ "kind": "wire", "feed": "tail" }), 1),
        (json!({ "kind": "fuse", "feed": "step-down-12v" }), 3),
    ] {
        let answer = client.post("/api/v1/choose", &ask(question.clone())).await;
        assert_eq!(answer.status, StatusCode::OK, "{}", answer.body);
        let choices = answer.body.as_array().expect("choices");
        assert!(choices.len() >= least, "{question}: {} choices", choices.len());
        let changes = choices.iter().find(|choice| choice["works"] == true && !choice["changes"].is_null()).expect("a choice with changes")["changes"].clone();
        let applied = client.post("/api/v1/apply", &json!({ "document": trike(), "changes": changes })).await;
        assert_eq!(applied.status, StatusCode::OK, "{question}: {}", applied.body);
    }
    let wrong = client.post("/api/v1/choose", &ask(json!({ "kind": "pixels", "light": "tail" }))).await;
    assert_problem(&wrong, StatusCode::UNPROCESSABLE_ENTITY, "addressable pixels");
    let missing = client.post("/api/v1/choose", &ask(json!({ "kind": "wire", "feed": "moon" }))).await;
    assert_problem(&missing, StatusCode::UNPROCESSABLE_ENTITY, "moon");
}

#[tokio::test]
async fn parts_of_the_library_and_of_ones_own_become_lights() {
    let client = Client::new();
    let reference = client.get("/api/v1/reference").await.body;
    assert!(reference["glossary"].as_array().expect("words").len() > 40);
    let part = |id: &str| reference["parts"].as_array().expect("parts").iter().find(|p| p["id"] == id).expect(id).clone();
    let wish = |part: Value, piece: Option<f64>| json!({ "document": trike(), "part": { "kind": "light", "part": part, "piece_m": piece, "place": "frame", "length_m": 0.6 } });
    // 47 cm of a 12 V strip are nine segments of 5 cm, and the 12 V module that is there feeds them.
    let built = client.post("/api/v1/add", &wish(part("strip-12v-white-48"), Some(0.47))).await.body;
    let light = built["lights"].as_array().expect("lights").last().expect("the new one").clone();
    assert_eq!((light["load"]["length_m"].as_f64(), light["feeds"][0]["from"].as_str()), (Some(0.45), Some("step-down-12v")));
    // Nothing that is there feeds 5 V: the part brings its own module.
    let built = client.post("/api/v1/add", &wish(part("pixel-5v-30"), Some(1.0))).await.body;
    assert_eq!(built["converters"].as_array().expect("converters").len(), 2);
    let refused = client.post("/api/v1/add", &wish(part("fuse-blade-5"), None)).await;
    assert_problem(&refused, StatusCode::UNPROCESSABLE_ENTITY, "a light");

    let mut own = part("led-5mm-red");
    let taken = client.keep(&own).await;
    assert_problem(&taken, StatusCode::UNPROCESSABLE_ENTITY, "another id");
    own["id"] = json!("own-red");
    assert_eq!(client.keep(&own).await.status, StatusCode::OK);
    assert_eq!(client.get("/api/v1/parts").await.body, json!([own]));
    own["what"]["led"]["vf_v"] = json!(-2);
    assert_problem(&client.keep(&own).await, StatusCode::UNPROCESSABLE_ENTITY, "/what/led/vf_v");
    assert_eq!(client.call(Method::DELETE, "/api/v1/parts/own-red", &[], None).await.status, StatusCode::NO_CONTENT);
    assert_eq!(client.get("/api/v1/parts").await.body, json!([]));
}

#[tokio::test]
async fn labels_and_meters_are_read() {
    let client = Client::new();
    let label = client.post("/api/v1/label", &json!({ "text": "36V 504Wh li-ion" })).await.body;
    assert_eq!((label["source"]["series"].as_i64(), label["source"]["capacity_ah"].as_f64()), (Some(10), Some(14.0)));
    let label = client.post("/api/v1/label", &json!({ "text": "36V 14Ah" })).await.body;
    assert_eq!(label["question"]["choices"].as_array().map(Vec::len), Some(3));
    assert_problem(&client.post("/api/v1/label", &json!({ "text": "hello" })).await, StatusCode::UNPROCESSABLE_ENTITY, "Type what is printed");
    let half = client.post("/api/v1/measured", &json!({ "document": trike(), "volts": 37.2 })).await.body;
    assert!((half["soc"].as_f64().expect("a share") - 0.5).abs() < 1e-9, "{half}");
    let high = client.post("/api/v1/measured", &json!({ "document": trike(), "volts": 50 })).await.body;
    assert!(high["words"].as_str().expect("words").contains("check the number of cells"), "{high}");
    let sized = client.post("/api/v1/size", &json!({ "document": trike() })).await.body;
    assert_eq!(sized["lines"][0]["feed"], "step-down-12v", "{sized}");
    let solved = client.post("/api/v1/solve", &json!({ "document": trike() })).await.body;
    assert!(solved["cautions"].as_array().expect("cautions").iter().any(|c| c["step"] == "battery"));
    assert!(solved["source"]["taps"].as_array().expect("taps").iter().any(|t| t["tap"] == "balance_lead" && t["right"] == false));
}

/// A sample build by a part of its name.
fn sample(name: &str) -> Value {
    let all = orthavis_core::demo::BUILDS.iter().map(|text| serde_json::from_str::<Value>(text).expect("json"));
    all.into_iter().find(|build| build["name"].as_str().is_some_and(|known| known.contains(name))).expect("a sample build")
}

#[tokio::test]
async fn what_the_lights_cost_is_told() {
    let client = Client::new();
    let van = sample("puppet stage");
    let drained = client.post("/api/v1/drain", &json!({ "document": van })).await;
    assert_eq!(drained.status, StatusCode::OK);
    assert_eq!(drained.body["drain"]["headline"][0]["key"], "nights");
    assert_eq!(drained.body["audit"]["lines"].as_array().expect("bulbs").len(), 4);
    assert_eq!(client.post("/api/v1/drain", &json!({ "document": trike() })).await.body["audit"], Value::Null);
    let curve = client.post("/api/v1/discharge", &json!({ "document": van, "scene": "show" })).await.body;
    assert!(curve["marks"].as_array().expect("marks").iter().any(|mark| mark["event"] == "reserve"));
    assert_eq!(client.post("/api/v1/discharge", &json!({ "document": sample("hexacopter"), "scene": "transit" })).await.body, Value::Null);
    let unknown = client.post("/api/v1/discharge", &json!({ "document": van, "scene": "matinee" })).await;
    assert_problem(&unknown, StatusCode::UNPROCESSABLE_ENTITY, "Name one that is");
}

#[tokio::test]
async fn a_change_is_tried_beside_the_plan() {
    let client = Client::new();
    let ask = |brightness: f64| json!({ "document": trike(), "scene": "ride", "change": { "brightness_factor": brightness, "capacity_factor": 1.0, "temperature_c": 25.0, "hours_factor": 1.0 } });
    let tried = client.post("/api/v1/what-if", &ask(0.5)).await.body;
    let hours = tried["pairs"].as_array().expect("pairs").iter().find(|pair| pair["plan"]["key"] == "hours").expect("hours").clone();
    assert!(hours["changed"]["value"].as_f64() > hours["plan"]["value"].as_f64(), "{hours}");
    let applied = client.post("/api/v1/apply", &json!({ "document": trike(), "changes": tried["changes"] })).await;
    assert_eq!(applied.body["document"]["scenes"][0]["lights"]["front"]["level"], 0.5);
    let table = client.post("/api/v1/what-if/csv", &ask(0.5)).await.body;
    let lines: Vec<&str> = table.as_str().expect("text").lines().collect();
    assert_eq!(lines[0], "figure,label,plan,changed,difference,unit");
    assert!(lines[1].starts_with(&format!("hours,Time of light,{},{}", hours["plan"]["value"], hours["changed"]["value"])), "{}", lines[1]);
    assert_problem(&client.post("/api/v1/what-if", &ask(-1.0)).await, StatusCode::UNPROCESSABLE_ENTITY, "Give 0.01 to 10");
}

#[tokio::test]
async fn every_table_leaves_as_csv() {
    let client = Client::new();
    let van = sample("puppet stage");
    let tables = client.post("/api/v1/tables", &json!({ "document": van })).await.body;
    let names: Vec<&str> = tables.as_array().expect("tables").iter().map(|table| table["name"].as_str().expect("a name")).collect();
    for wanted in ["feeds", "lights", "endurance", "findings", "use", "scenes", "parked", "charging", "audit-bulbs", "audit-outcomes", "discharge"] {
        assert!(names.contains(&wanted), "{wanted} in {names:?}");
    }
    for table in tables.as_array().expect("tables") {
        let columns = table["columns"].as_array().expect("columns").len();
        assert!(table["rows"].as_array().expect("rows").iter().all(|row| row.as_array().is_some_and(|row| row.len() == columns)), "{}", table["name"]);
    }
    assert_problem(&client.post("/api/v1/csv", &json!({ "document": van, "table": "moods" })).await, StatusCode::UNPROCESSABLE_ENTITY, "It has:");
}

/// Feeds into one strip, or lights, in so many scenes.
fn large(feeds: usize, lights: usize, scenes: usize) -> Value {
    let feed = |at: usize| json!({ "from": "source", "at_m": 0.05 * at as f64, "length_m": 0.5, "gauge": { "awg": 18 }, "fuse": { "style": "blade_58v", "rating_a": 5.0 } });
    let strip = |id: String| {
        json!({ "id": id, "feeds": (0..feeds).map(feed).collect::<Vec<_>>(), "load": { "kind": "strip", "voltage_v": 36.0, "power_w_per_m": 10.0,
        "segment_m": 0.05, "leds_per_segment": 9, "led_vf_v": 3.1, "rail_ohm_per_m": 0.05, "length_m": 5.0 } })
    };
    let ids: Vec<String> = (0..lights).map(|n| format!("light-{n}")).collect();
    let lit: serde_json::Map<String, Value> = ids.iter().map(|id| (id.clone(), json!({ "duty": 0.5 }))).collect();
    json!({ "format": "orthavis.build/1", "name": "large", "vehicle": { "kind": "other", "mass_kg": 1.0 },
        "source": { "kind": "battery", "chemistry": "li_ion", "series": 10, "capacity_ah": 50.0, "max_current_a": 500.0 },
        "lights": ids.into_iter().map(strip).collect::<Vec<_>>(), "scenes": (0..scenes).map(|n| json!({ "id": format!("scene-{n}"), "lights": lit })).collect::<Vec<_>>() })
}

#[tokio::test]
async fn what_is_too_large_to_compute_is_refused_and_says_what_is_large() {
    let client = Client::new();
    let document = large(100, 1, 100);
    for (path, rest) in [
        ("verdict", json!({})),
        ("solve", json!({})),
        ("report", json!({})),
        ("remedies", json!({})),
        ("drain", json!({})),
        ("tables", json!({})),
        ("what-if", json!({ "scene": "scene-0", "change": { "brightness_factor": 0.5, "capacity_factor": 1.0, "temperature_c": 25.0, "hours_factor": 1.0 } })),
    ] {
        let mut body = rest;
        body["document"] = document.clone();
        let answer = client.post(&format!("/api/v1/{path}"), &body).await;
        assert_problem(&answer, StatusCode::UNPROCESSABLE_ENTITY, "large");
    }
    assert!(client.mended(&document).await["problem"]["detail"].as_str().is_some_and(|detail| detail.contains("large")));
    let mut chain = trike();
    let links: Vec<Value> = (0..40).map(|n| json!({ "id": format!("link-{n}"), "feed": { "from": if n == 0 { "source".into() } else { format!("link-{}", n - 1) }, "length_m": 0.1, "gauge": { "awg": 18 } } })).collect();
    chain["junctions"] = json!(links);
    assert_problem(&client.post("/api/v1/solve", &json!({ "document": chain })).await, StatusCode::UNPROCESSABLE_ENTITY, "in a row");
    let mut many = large(1, 400, 100);
    many["lights"][0]["load"]["segment_m"] = json!(1e-300);
    let refused = client.post("/api/v1/solve", &json!({ "document": many })).await;
    assert_problem(&refused, StatusCode::UNPROCESSABLE_ENTITY, "/lights/0/load/segment_m");
}

/// A build that cannot be solved is refused by what builds on solving it, in the same words.
#[tokio::test]
async fn what_has_no_steady_state_is_said_wherever_it_is_asked() {
    let client = Client::new();
    let mut hunting = trike();
    hunting["converters"][0]["feed"]["length_m"] = json!(900.0);
    hunting["converters"][0]["min_in_v"] = json!(36.0);
    let solved = client.post("/api/v1/solve", &json!({ "document": hunting })).await;
    assert_eq!(solved.status, StatusCode::OK);
    assert!(solved.body["cards"].as_array().is_some_and(|cards| cards.iter().any(|card| card["code"] == "source.collapses")), "{}", solved.body);
    let change = json!({ "brightness_factor": 0.01, "capacity_factor": 1.0, "temperature_c": 25.0, "hours_factor": 1.0 });
    // What a battery costs is told as far as it can be followed.
    for (path, rest) in [("drain", json!({})), ("what-if", json!({ "scene": "ride", "change": change })), ("discharge", json!({ "scene": "ride" }))] {
        let mut body = rest;
        body["document"] = hunting.clone();
        let answer = client.post(&format!("/api/v1/{path}"), &body).await;
        assert_eq!(answer.status, StatusCode::OK, "{path}: {}", answer.body);
    }
}

#[tokio::test]
async fn a_patch_bomb_is_refused() {
    let client = Client::new();
    let copies: Vec<Value> = (0..40).map(|n| json!({ "op": "copy", "from": "", "path": format!("/notes-{n}") })).collect();
    let answer = client.post("/api/v1/apply", &json!({ "document": trike(), "changes": copies })).await;
    assert_problem(&answer, StatusCode::UNPROCESSABLE_ENTITY, "larger than");
}

#[tokio::test]
async fn foreign_and_doubled_headers_are_refused_and_answers_not_stored() {
    let client = Client::new();
    let shelf = client.get("/api/v1/builds").await;
    assert_eq!(shelf.headers["cache-control"], "no-store");
    let request = |headers: &[(&str, &str)]| {
        let mut request = Request::builder().uri("/api/v1/builds");
        for (name, value) in headers {
            request = request.header(*name, *value);
        }
        request.body(Body::empty()).expect("a request")
    };
    let own = ("host", "127.0.0.1:7417");
    for (headers, status) in [
        (vec![own], StatusCode::OK),
        (vec![own, ("sec-fetch-site", "same-origin")], StatusCode::OK),
        (vec![own, ("sec-fetch-site", "cross-site")], StatusCode::FORBIDDEN),
        (vec![own, own], StatusCode::FORBIDDEN),
        (vec![own, ("host", "example.net")], StatusCode::FORBIDDEN),
        (vec![own, ("origin", "http://127.0.0.1:7417"), ("origin", "http://example.net")], StatusCode::FORBIDDEN),
    ] {
        assert_eq!(client.send(request(&headers)).await.status, status, "{headers:?}");
    }
}

/// Cells that are not charged have no time to charge in: no figure, and no zero in its place.
#[tokio::test]
async fn what_does_not_exist_is_absent() {
    let client = Client::new();
    let mut primary = trike();
    primary["source"]["chemistry"] = json!("alkaline");
    primary["source"]["series"] = json!(24);
    primary["source"]["charge_v"] = json!(1.65);
    primary["usage"]["charger_a"] = json!(1.0);
    let answer = client.post("/api/v1/drain", &json!({ "document": primary })).await;
    assert_eq!(answer.status, StatusCode::OK, "{}", answer.body);
    let charging = &answer.body["drain"]["charging"];
    assert!(charging["facts"].as_array().expect("facts").iter().all(|fact| fact["value"].is_number() && fact["key"] != "recharge_h"), "{charging}");
    assert!(charging["cautions"][0].as_str().is_some_and(|words| words.contains("no charging time")), "{charging}");
}

/// What a build of another version looks like to this one.
const FOREIGN: &str = r#"{"format":"orthavis.build/9","name":"Of tomorrow"}"#;

/// It is shown as what it is, read as text, taken away, put back, restored from its history and saved over; the others
/// on the shelf do not notice.
#[tokio::test]
async fn a_build_that_cannot_be_read_is_still_in_hand() {
    let client = Client::new();
    let (good, bad) = (client.created().await, client.created().await);
    let path = format!("/api/v1/builds/{bad}");
    let mut later = trike();
    later["name"] = json!("Later");
    assert_eq!(client.save(bad, "1", &later).await.status, StatusCode::OK);
    let beside = rusqlite::Connection::open(client.folder.path().join("builds.db")).expect("beside");
    let spoil = |revision: i64| beside.execute("UPDATE revisions SET document = ?1 WHERE build_id = ?2 AND revision = ?3", (FOREIGN, bad, revision));
    assert_eq!(spoil(2), Ok(1));

    let shelf = client.get("/api/v1/builds").await.body["builds"].clone();
    let shown = |id: i64| shelf.as_array().expect("a list").iter().find(|entry| entry["id"] == id).expect("on the shelf").clone();
    assert_eq!((&shown(bad)["name"], &shown(bad)["summary"]["readable"]), (&json!("Later"), &json!(false)));
    assert_eq!(shown(good)["summary"]["readable"], true);
    assert_eq!(shown(good)["summary"]["lights"], 2);

    let opened = client.get(&path).await;
    assert_problem(&opened, StatusCode::UNPROCESSABLE_ENTITY, "cannot be read");
    let text = client.get(&format!("{path}/text")).await;
    assert_eq!((text.status, &text.headers["etag"]), (StatusCode::OK, &"\"2\"".parse().expect("a tag")));
    assert_eq!((&text.body["text"], &text.body["errors"][0]["pointer"]), (&json!(FOREIGN), &json!("/format")));
    assert!(text.body["errors"][0]["remedy"].as_str().is_some_and(|remedy| remedy.contains("orthavis.build/1")), "{}", text.body);
    assert_eq!(client.get(&format!("/api/v1/builds/{good}/text")).await.body["errors"], json!([]));

    for ask in ["duplicate", "revisions/2/restore"] {
        assert_problem(
            &client.call(Method::POST, &format!("{path}/{ask}"), &[("if-match", "2")], None).await,
            StatusCode::UNPROCESSABLE_ENTITY,
            "cannot be read",
        );
    }
    let named = client.call(Method::POST, &format!("{path}/rename"), &[("if-match", "2")], Some(r#"{"name":"Other"}"#)).await;
    assert_problem(&named, StatusCode::UNPROCESSABLE_ENTITY, "cannot be read");
    assert_eq!(client.call(Method::DELETE, &path, &[("if-match", "2")], None).await.status, StatusCode::NO_CONTENT);
    assert_eq!(client.get("/api/v1/builds").await.body["builds"].as_array().map(Vec::len), Some(1));
    assert_eq!(client.call(Method::POST, &format!("{path}/undelete"), &[("if-match", "2")], None).await.status, StatusCode::NO_CONTENT);
    assert_eq!(client.get("/api/v1/builds").await.body["builds"].as_array().map(Vec::len), Some(2));

    assert_eq!(client.get(&format!("{path}/revisions")).await.body.as_array().map(Vec::len), Some(2));
    let restored = client.call(Method::POST, &format!("{path}/revisions/1/restore"), &[("if-match", "2")], None).await;
    assert_eq!((&restored.body["revision"], &restored.body["document"]["name"]), (&json!(3), &json!("Book-delivery trike")));
    assert_eq!(client.get(&path).await.status, StatusCode::OK);

    // Saving over one that cannot be read: the stale are told, the others go through.
    assert_eq!(spoil(3), Ok(1));
    let stale = client.save(bad, "2", &later).await;
    assert_problem(&stale, StatusCode::PRECONDITION_FAILED, "saved elsewhere");
    assert!(stale.body["detail"].as_str().is_some_and(|detail| detail.contains("revision 3")), "{}", stale.body);
    assert_eq!(client.save(bad, "3", &later).await.body["revision"], 4);
    let shelf = client.get("/api/v1/builds").await.body["builds"].clone();
    assert!(shelf.as_array().expect("a list").iter().all(|entry| entry["summary"]["readable"] == true), "{shelf}");
}

fn ride(number: usize, day: usize) -> Value {
    json!({
        "id": format!("01900000-0000-7000-8000-{number:012x}"), "at": format!("2026-05-{day:02}T18:40:00+02:00"),
        "kind": if number.is_multiple_of(2) { "ride" } else { "charge" }, "data": { "minutes": number },
    })
}

#[tokio::test]
async fn a_journal_is_appended_to_once_and_read_in_pages() {
    let client = Client::new();
    let journal = format!("/api/v1/builds/{}/journal", client.created().await);
    let events: Vec<Value> = (0..25).map(|number| ride(number, number / 2 + 1)).collect();
    // Out of order and partly sent twice, as a phone does that was away.
    let late = client.post(&journal, &json!({ "events": events[10..].iter().rev().collect::<Vec<_>>() })).await;
    assert_eq!((late.status, late.body), (StatusCode::OK, json!({ "kept": 15, "known": 0 })));
    assert_eq!(client.post(&journal, &json!({ "events": events[..20] })).await.body, json!({ "kept": 10, "known": 10 }));
    let (mut read, mut query) = (Vec::new(), String::from("limit=7"));
    loop {
        let page = client.get(&format!("{journal}?{query}")).await;
        assert_eq!(page.status, StatusCode::OK, "{}", page.body);
        read.extend(page.body["events"].as_array().expect("events").iter().cloned());
        match page.body["next"].as_str() {
            Some(next) => query = format!("limit=7&after={next}"),
            None => break,
        }
    }
    assert_eq!(read, events);
    let charges = client.get(&format!("{journal}?kind=charge&from=2026-05-03T00:00:00Z&to=2026-05-05T00:00:00Z")).await.body;
    assert_eq!(charges["events"].as_array().expect("events").iter().map(|event| &event["data"]["minutes"]).collect::<Vec<_>>(), [5, 7]);
}

#[tokio::test]
async fn a_journal_goes_out_and_comes_in_equal() {
    let client = Client::new();
    let [one, other, third] = [client.created().await, client.created().await, client.created().await].map(|id| format!("/api/v1/builds/{id}/journal"));
    let mut note = ride(3, 4);
    note["kind"] = json!("note");
    note["data"] = json!({ "text": "\"damp\", again; line\nbreak" });
    note["replaces"] = ride(2, 3)["id"].clone();
    client.post(&one, &json!({ "events": [ride(1, 2), ride(2, 3), note] })).await;
    let lines = client.get(&format!("{one}/export")).await;
    assert_eq!(lines.headers["content-type"], "application/jsonl");
    assert!(lines.headers["content-disposition"].to_str().is_ok_and(|name| name.contains(".jsonl")));
    let table = client.get(&format!("{one}/export?format=csv")).await;
    for (to, format, text) in [(&other, "jsonl", &lines.body), (&third, "csv", &table.body)] {
        let taken = client.post(&format!("{to}/import"), &json!({ "format": format, "text": text })).await;
        assert_eq!((taken.status, taken.body), (StatusCode::OK, json!({ "kept": 3, "known": 0, "bad": [] })), "{format}");
        assert_eq!(client.get(to).await.body, client.get(&one).await.body, "{format}");
    }
    // What a newer version wrote comes in whole, is listed, asked about without harm, and goes out again.
    let mut newer = ride(5, 6);
    (newer["kind"], newer["data"]) = (json!("repaint"), json!({ "coats": 2, "of": { "part": "frame" } }));
    let taken = client.post(&format!("{one}/import"), &json!({ "format": "jsonl", "text": newer.to_string() })).await;
    assert_eq!((taken.status, taken.body), (StatusCode::OK, json!({ "kept": 1, "known": 0, "bad": [] })));
    let all = client.get(&one).await.body["events"].clone();
    assert!(all.as_array().is_some_and(|all| all.contains(&newer)), "{all}");
    let lines = client.get(&format!("{one}/export")).await.body;
    let out: Vec<Value> = lines.as_str().into_iter().flat_map(str::lines).filter_map(|line| serde_json::from_str(line).ok()).collect();
    assert!(out.contains(&newer), "{lines}");
    let said = client.post("/api/v1/journal", &json!({ "document": trike(), "events": all, "now": "2026-07-01T12:00:00+02:00" })).await;
    assert_eq!(said.status, StatusCode::OK, "{}", said.body);
    let dot = said.body["events"].as_array().and_then(|all| all.iter().find(|one| one["kind"] == "repaint")).expect("it is among what happened");
    assert_eq!(dot["words"], "repaint, which a newer version wrote");
}

#[tokio::test]
async fn what_cannot_be_in_a_journal_is_refused_with_its_place() {
    let client = Client::new();
    let journal = format!("/api/v1/builds/{}/journal", client.created().await);
    client.post(&journal, &json!({ "events": [ride(1, 2)] })).await;
    let mut party = ride(2, 2);
    party["kind"] = json!("party");
    let refused = client.post(&journal, &json!({ "events": [ride(1, 2), party] })).await;
    assert_problem(&refused, StatusCode::UNPROCESSABLE_ENTITY, "kind");
    assert_eq!(refused.body["errors"][0]["pointer"], "/events/1/kind");
    let mut other = ride(1, 2);
    other["data"]["minutes"] = json!(99);
    assert_problem(&client.post(&journal, &json!({ "events": [other] })).await, StatusCode::CONFLICT, "replaces");
    let many: Vec<Value> = (0..10_001).map(|number| ride(number, 1)).collect();
    assert_problem(&client.post(&journal, &json!({ "events": many })).await, StatusCode::UNPROCESSABLE_ENTITY, "10000");
    assert_problem(&client.get(&format!("{journal}/export?format=pdf")).await, StatusCode::UNPROCESSABLE_ENTITY, "jsonl");
    assert_problem(&client.post("/api/v1/builds/99/journal", &json!({ "events": [] })).await, StatusCode::NOT_FOUND, "shelf");
    // Nothing of what was refused is there.
    assert_eq!(client.get(&journal).await.body["events"], json!([ride(1, 2)]));
}

#[tokio::test]
async fn a_revision_is_named_and_keeps_its_name() {
    let client = Client::new();
    let id = client.created().await;
    let mut document = trike();
    document["name"] = json!("Later");
    client.save(id, "\"1\"", &document).await;
    let label = format!("/api/v1/builds/{id}/revisions/1/label");
    let name = async |label: &str, text: &str| client.call(Method::PUT, label, &[("if-match", "2")], Some(&json!({ "label": text }).to_string())).await;
    assert_eq!(name(&label, "  as drawn first ").await.status, StatusCode::NO_CONTENT);
    let revisions = format!("/api/v1/builds/{id}/revisions");
    let history = client.get(&revisions).await.body;
    assert_eq!((&history[0]["label"], &history[1]["label"]), (&Value::Null, &json!("as drawn first")));
    assert_problem(&name(&label, &"x".repeat(101)).await, StatusCode::UNPROCESSABLE_ENTITY, "at most 100");
    assert_problem(&name(&format!("/api/v1/builds/{id}/revisions/9/label"), "none").await, StatusCode::NOT_FOUND, "shelf");
    assert_eq!(name(&label, " ").await.status, StatusCode::NO_CONTENT);
    assert_eq!(client.get(&revisions).await.body[1].get("label"), None);
}

#[tokio::test]
async fn every_check_is_told_with_its_step() {
    let client = Client::new();
    let reference = client.get("/api/v1/reference").await.body;
    let checks = reference["checks"].as_array().expect("checks");
    let step = |code: &str| checks.iter().find(|check| check["code"] == code).map(|check| check["step"].clone());
    for (code, place) in
        [("source.over", "battery"), ("place.slack", "places"), ("led.over_max", "lights"), ("converter.hot", "power"), ("fuse.missing", "wires")]
    {
        assert_eq!(step(code), Some(json!(place)), "{code}");
    }
    // Whatever the page can show of a build is among them.
    for name in ["puppet-stage", "trail-deck", "camp-rover"] {
        let text = std::fs::read_to_string(format!("{}/../../core/model/demo/{name}.json", env!("CARGO_MANIFEST_DIR"))).expect("a sample");
        let solved = client.post("/api/v1/solve", &json!({ "document": serde_json::from_str::<Value>(&text).expect("json") })).await.body;
        for finding in solved["findings"].as_array().expect("findings") {
            let check = checks.iter().find(|check| check["code"] == finding["code"]).unwrap_or_else(|| panic!("{name}: {}", finding["code"]));
            assert_eq!((&check["why"], &check["unit"]), (&finding["why"], &finding["unit"]), "{name}");
        }
    }
}

#[tokio::test]
async fn an_answer_says_where_a_new_build_is_and_under_which_number_it_was_asked() {
    let client = Client::new();
    let made = client.call(Method::POST, "/api/v1/builds", &[], Some(TRIKE)).await;
    let at = made.headers["location"].to_str().expect("a path").to_owned();
    assert_eq!(client.get(&at).await.body["id"], made.body["id"]);
    let copy = client.post(&format!("{at}/duplicate"), &json!(null)).await;
    assert_eq!(copy.headers["location"].to_str().ok(), Some(format!("/api/v1/builds/{}", copy.body["id"]).as_str()));
    let [one, two] = [client.get("/api/v1/builds/99").await, client.get("/api/v1/builds/99").await];
    assert_eq!(one.body["request"].as_str(), one.headers["x-request-id"].to_str().ok(), "{}", one.body);
    assert_ne!(one.body["request"], two.body["request"]);
    let foreign = client.call(Method::GET, "/api/v1/builds", &[("sec-fetch-site", "cross-site")], None).await;
    assert!(foreign.body["request"].is_string() && foreign.headers.contains_key("x-request-id"));
}

#[tokio::test]
async fn asking_twice_under_one_key_makes_one_build() {
    let client = Client::new();
    let ask = async |path: &str, key: &str, body: Option<&str>| client.call(Method::POST, path, &[("idempotency-key", key)], body).await;
    let once = ask("/api/v1/builds", "a-1", Some(TRIKE)).await;
    let again = ask("/api/v1/builds", "a-1", Some(TRIKE)).await;
    assert_eq!((once.status, again.status, &once.body["id"]), (StatusCode::CREATED, StatusCode::CREATED, &again.body["id"]));
    assert_eq!(once.headers["location"], again.headers["location"]);
    assert_ne!(ask("/api/v1/builds", "a-2", Some(TRIKE)).await.body["id"], once.body["id"]);
    let copies = format!("/api/v1/builds/{}/duplicate", once.body["id"]);
    let copy = ask(&copies, "c-1", None).await;
    assert_eq!(ask(&copies, "c-1", None).await.body["id"], copy.body["id"]);
    assert_eq!(client.get("/api/v1/builds").await.body["builds"].as_array().map(Vec::len), Some(3));
    assert_problem(&ask("/api/v1/builds", &"x".repeat(201), Some(TRIKE)).await, StatusCode::BAD_REQUEST, "Idempotency-Key");
}

#[tokio::test]
async fn a_part_is_kept_under_its_own_id_only() {
    let client = Client::new();
    let parts = client.get("/api/v1/reference").await.body["parts"].clone();
    let mut part = parts.as_array().expect("parts").iter().find(|part| part["id"] == "led-5mm-red").expect("a part").clone();
    assert_problem(&client.keep(&part).await, StatusCode::UNPROCESSABLE_ENTITY, "library that ships");
    part["id"] = json!("mine");
    let elsewhere = client.call(Method::PUT, "/api/v1/parts/yours", &[], Some(&part.to_string())).await;
    assert_problem(&elsewhere, StatusCode::UNPROCESSABLE_ENTITY, "both the same");
    assert_eq!(client.keep(&part).await.status, StatusCode::OK);
}

/// The states that a job went through, from its events.
fn states(events: &Value) -> Vec<Value> {
    let text = events.as_str().expect("events");
    text.split("\n\n")
        .filter_map(|event| event.lines().find_map(|line| line.strip_prefix("data: ")))
        .map(|data| serde_json::from_str(data).expect("json"))
        .collect()
}

#[tokio::test]
async fn long_work_is_taken_in_told_of_and_answered() {
    let client = Client::new();
    let taken = client.post("/api/v1/jobs", &json!({ "kind": "mend", "document": trike() })).await;
    assert_eq!((taken.status, &taken.body["state"]), (StatusCode::ACCEPTED, &json!("running")));
    let at = taken.headers["location"].to_str().expect("a path").to_owned();
    let told = client.get(&format!("{at}/events")).await;
    assert_eq!(told.headers["content-type"], "text/event-stream");
    let last = states(&told.body).pop().expect("a last word");
    assert_eq!(last["state"], "done", "{last}");
    assert!(last["answer"]["steps"].as_array().is_some_and(|steps| !steps.is_empty()), "{last}");
    // Whoever comes late is told the same.
    assert_eq!(client.get(&at).await.body, last);
    assert_eq!(states(&client.get(&format!("{at}/events")).await.body), [last]);
    assert_eq!(client.call(Method::DELETE, &at, &[], None).await.status, StatusCode::NO_CONTENT);
    assert_problem(&client.get(&at).await, StatusCode::NOT_FOUND, "called off");
    assert_problem(&client.post("/api/v1/jobs", &json!({ "kind": "mend", "document": {} })).await, StatusCode::UNPROCESSABLE_ENTITY, "missing");
}

#[tokio::test]
async fn a_job_that_cannot_be_done_says_why() {
    let client = Client::new();
    let mut heavy = trike();
    // A battery that nothing can be drawn from: it is said what is left, and why.
    heavy["source"]["resistance_ohm"] = json!(1e9);
    let last = client.mended(&heavy).await;
    assert_eq!(last["state"], "done", "{last}");
    assert!(
        last["answer"]["left"].as_array().is_some_and(|left| left.iter().any(|one| one["advice"].as_str().is_some_and(|advice| !advice.is_empty()))),
        "{last}"
    );
}

#[tokio::test]
async fn the_drawer_is_the_workshops_and_is_taken_off_what_is_bought() {
    let client = Client::new();
    let stock = |body: &'static str| client.call(Method::PUT, "/api/v1/stock", &[("content-type", "application/json")], Some(body));
    assert_eq!(client.call(Method::GET, "/api/v1/stock", &[], None).await.body, json!({}));
    assert_eq!(stock(r#"{"part":"cable tie","count":80}"#).await.body, json!({ "cable tie": 80.0 }));
    assert_eq!(stock(r#"{"part":"wire 20 AWG, red","count":2.5}"#).await.body["wire 20 AWG, red"], json!(2.5));
    assert_eq!(stock(r#"{"part":"cable tie","count":0}"#).await.body, json!({ "wire 20 AWG, red": 2.5 }), "none left is none there");
    for (body, words) in [
        (r#"{"part":"clip","count":-1}"#, "Give 0 to a million"),
        (r#"{"part":"","count":1}"#, "names nothing"),
        (r#"{"part":"clip","count":1e9}"#, "Give 0 to a million"),
    ] {
        let refused = stock(body).await;
        assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY, "{body}");
        assert!(refused.body["detail"].as_str().is_some_and(|detail| detail.contains(words)), "{}", refused.body);
    }
    assert_eq!(stock(r#"{"part":"clip"}"#).await.status, StatusCode::BAD_REQUEST);
    let kept = client.call(Method::GET, "/api/v1/stock", &[], None).await.body;
    let trike: Value = serde_json::from_str(TRIKE).expect("json");
    let body = json!({ "document": trike, "stock": kept }).to_string();
    let list = client.call(Method::POST, "/api/v1/shopping", &[("content-type", "application/json")], Some(&body)).await;
    assert_eq!(list.status, StatusCode::OK);
    assert!(list.body["lines"].as_array().is_some_and(|lines| lines.len() > 5));
}

#[tokio::test]
async fn a_plan_of_the_work_leaves_as_calendar_and_drawing() {
    let client = Client::new();
    let trike: Value = serde_json::from_str(TRIKE).expect("json");
    let ask = async |path: &str, body: Value| client.call(Method::POST, path, &[("content-type", "application/json")], Some(&body.to_string())).await;
    let work = json!({ "document": trike, "day": "2026-11-27", "now": 1110 });
    let calendar = ask("/api/v1/make/calendar", json!({ "work": work, "made": "20261127T180000Z" })).await;
    assert_eq!(calendar.headers["content-type"], "text/calendar; charset=utf-8");
    assert!(calendar.body.as_str().is_some_and(|text| text.contains("DTSTART:20261127T183000")));
    let svg = ask("/api/v1/diagram/svg", json!({ "document": trike })).await;
    assert_eq!(svg.headers["content-type"], "image/svg+xml");
    let made = ask("/api/v1/make", work).await;
    assert_eq!(made.status, StatusCode::OK);
    assert!(!made.body["stops"].as_array().expect("stops").is_empty(), "the trike is not safe to build yet");
    for (path, body, words) in [
        ("/api/v1/make", json!({ "document": trike, "day": "soon" }), "2026-11-27"),
        ("/api/v1/make", json!({ "document": trike, "day": "2026-11-27", "done": [{ "step": "fit", "at": 1e12 }] }), "hundred years"),
        ("/api/v1/make/calendar", json!({ "work": { "document": trike, "day": "2026-11-27" }, "made": "now" }), "20261127T180000Z"),
    ] {
        let refused = ask(path, body).await;
        assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY, "{path}");
        assert!(refused.body["detail"].as_str().is_some_and(|detail| detail.contains(words)), "{}", refused.body);
    }
}

#[tokio::test]
async fn good_lines_of_a_journal_are_taken_and_bad_ones_named() {
    let client = Client::new();
    let id = client.created().await;
    let journal = format!("/api/v1/builds/{id}/journal");
    client.post(&journal, &json!({ "events": [ride(1, 2)] })).await;
    let (mut changed, mut other, mut never) = (ride(1, 2), ride(2, 2), ride(3, 2));
    changed["data"]["minutes"] = json!(99);
    other["build"] = json!(id + 1);
    never["at"] = json!("2026-02-30T10:00:00Z");
    let mut ours = ride(4, 2);
    ours["build"] = json!(id);
    let lines = [ride(1, 2), changed, json!("a word"), other.clone(), never, ours].map(|line| line.to_string()).join("\n");
    let taken = client.post(&format!("{journal}/import"), &json!({ "format": "jsonl", "text": lines })).await;
    assert_eq!((taken.status, &taken.body["kept"], &taken.body["known"]), (StatusCode::OK, &json!(1), &json!(1)), "{}", taken.body);
    let bad = taken.body["bad"].as_array().expect("bad lines");
    let named: Vec<i64> = bad.iter().filter_map(|bad| bad["line"].as_i64()).collect();
    assert_eq!(named, [2, 3, 4, 5], "{}", taken.body);
    assert!(bad[2]["problem"].as_str().is_some_and(|problem| problem.contains(&format!("build {}", id + 1))), "{}", bad[2]);
    assert!(bad.iter().all(|bad| bad["remedy"].as_str().is_some_and(|remedy| !remedy.is_empty())));
    // Sent, an event of another build is refused with its place.
    let refused = client.post(&journal, &json!({ "events": [other] })).await;
    assert_problem(&refused, StatusCode::UNPROCESSABLE_ENTITY, "events");
    assert_eq!(refused.body["errors"][0]["pointer"], "/events/0/build");
}

#[tokio::test]
async fn a_picture_is_kept_with_its_event() {
    let client = Client::new();
    let id = client.created().await;
    let at = |event: &str| format!("/api/v1/builds/{id}/photos/{event}");
    let event = ride(1, 2)["id"].as_str().expect("an id").to_owned();
    let octets = [("content-type", "application/octet-stream")];
    let png = "\u{89}PNG";
    assert_problem(&client.call(Method::PUT, &at(&event), &octets, Some(png)).await, StatusCode::UNPROCESSABLE_ENTITY, "JPEG");
    assert_problem(&client.call(Method::PUT, &at("one"), &octets, Some("RIFF1234WEBP")).await, StatusCode::UNPROCESSABLE_ENTITY, "UUID");
    assert_problem(&client.call(Method::PUT, &at(&event), &octets, Some(&"x".repeat(3 << 20))).await, StatusCode::PAYLOAD_TOO_LARGE, "2 MB");
    assert_problem(&client.get(&at(&event)).await, StatusCode::NOT_FOUND, "");
    assert_eq!(client.call(Method::PUT, &at(&event), &octets, Some("RIFF1234WEBP")).await.status, StatusCode::NO_CONTENT);
    let kept = client.get(&at(&event)).await;
    assert_eq!((kept.status, &kept.headers["content-type"], &kept.body), (StatusCode::OK, &"image/webp".parse().expect("a value"), &json!("RIFF1234WEBP")));
}

#[tokio::test]
async fn what_is_due_follows_the_journal() {
    let client = Client::new();
    let id = client.created().await;
    let due = format!("/api/v1/builds/{id}/due?now=2026-05-20T08:00:00Z");
    assert_eq!(client.get(&due).await.body, json!([]));
    let mut charge = ride(1, 18);
    (charge["kind"], charge["data"]) = (json!("charge"), json!({ "to_v": 34.0 }));
    client.post(&format!("/api/v1/builds/{id}/journal"), &json!({ "events": [charge] })).await;
    let all = client.get(&due).await;
    assert_eq!((all.body[0]["id"].as_str(), all.body[0]["title"].as_str()), (Some("charge"), Some("Charge now")), "{}", all.body);
    assert_problem(&client.get(&format!("/api/v1/builds/{id}/due?now=today")).await, StatusCode::UNPROCESSABLE_ENTITY, "2026-05-02T18:40:00+02:00");
}

#[tokio::test]
async fn a_drawer_goes_out_and_comes_in_as_a_table() {
    let client = Client::new();
    let text = "name,count\nclip,3\nwire,many\n";
    let taken = client.post("/api/v1/drawer/csv", &json!({ "text": text })).await;
    assert_eq!((&taken.body["parts"], &taken.body["counted"], &taken.body["bad"][0]["line"]), (&json!(0), &json!(1), &json!(3)), "{}", taken.body);
    let out = client.get("/api/v1/drawer/csv").await.body;
    assert!(out.as_str().is_some_and(|out| out.lines().nth(1) == Some(",clip,3,,,,,,,,,")), "{out}");
}

#[tokio::test]
async fn a_workshop_goes_out_and_comes_back_by_the_page() {
    let client = Client::new();
    let id = client.created().await;
    client.post(&format!("/api/v1/builds/{id}/journal"), &json!({ "events": [ride(1, 2)] })).await;
    let whole = client.get("/api/v1/workshop/export").await.body;
    assert_eq!((&whole["format"], whole["builds"].as_array().map(Vec::len)), (&json!("orthavis.workshop/1"), Some(1)));
    let other = Client::new();
    let came = other.post("/api/v1/workshop/import", &whole).await;
    assert_eq!(came.body, json!({ "builds": 1, "events": 1, "parts": 0, "known": 0 }));
    assert_eq!(other.get("/api/v1/workshop/export").await.body, whole);
    assert_problem(&other.post("/api/v1/workshop/import", &json!({ "format": "x" })).await, StatusCode::UNPROCESSABLE_ENTITY, "the file");
    let octets = [("content-type", "application/octet-stream")];
    for path in ["look", "restore"] {
        let refused = other.call(Method::POST, &format!("/api/v1/workshop/{path}"), &octets, Some("Dear aunt")).await;
        assert_problem(&refused, StatusCode::UNPROCESSABLE_ENTITY, "not a backup");
    }
    assert_eq!(other.get("/api/v1/workshop/export").await.body, whole, "nothing was changed");
}
