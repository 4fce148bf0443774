//! Devices of the local network: let in by a code, listed, allowed to edit, shut out; and what each may ask.

use crate::door::{CLOSED_FOR, Door, GOOD_FOR, Knock};
use crate::problem::{Answer, Problem};
use crate::request::{Body, Id};
use crate::seats::{Peer, Seats};
use crate::services::Services;
use crate::who::Who;
use axum::Json;
use axum::extract::{Extension, Request, State};
use axum::http::{HeaderMap, HeaderValue, Method, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use orthavis_operations::operation;
use orthavis_store::{Device, Store};
use qrcode::QrCode;
use qrcode::render::svg;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::net::IpAddr;
use std::sync::Arc;
use std::time::{Duration, Instant};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// Name of the cookie that a device shows.
const COOKIE: &str = "orthavis_device";
/// How long a browser keeps it, seconds: a year. Revoking ends it at once.
const KEPT_S: u32 = 365 * 24 * 3600;
/// Characters that a device may call itself by.
const NAME: usize = 60;
/// Devices at most: each has its row and its line on the page. Where one more comes, the one that was not seen for longest leaves.
const DEVICES: usize = 50;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Services> {
    OpenApiRouter::new()
        .routes(routes!(garage))
        .routes(routes!(open_door, close_door))
        .routes(routes!(new_code))
        .routes(routes!(pair))
        .routes(routes!(me))
        .routes(routes!(allow, shut_out))
}

/// A device that was let in.
#[derive(Serialize, ToSchema)]
struct DeviceEntry {
    id: i64,
    /// What it calls itself.
    name: String,
    /// Whether it may change builds.
    may_edit: bool,
    /// RFC 3339, UTC.
    paired_at: String,
    /// When it last asked for something; RFC 3339, UTC.
    seen_at: String,
}

impl From<Device> for DeviceEntry {
    fn from(Device { id, name, may_edit, paired_at, seen_at }: Device) -> Self {
        DeviceEntry { id, name, may_edit, paired_at, seen_at }
    }
}

/// The door to the local network.
#[derive(Serialize, ToSchema)]
struct Garage {
    /// Where a phone finds this server; empty while the door is closed.
    addresses: Vec<String>,
    /// The newest first.
    devices: Vec<DeviceEntry>,
}

async fn as_it_is(store: &Store, door: &Door) -> Answer<Json<Garage>> {
    let addresses = door.addresses().iter().map(|address| format!("http://{address}")).collect();
    Ok(Json(Garage { addresses, devices: store.devices().await?.into_iter().map(DeviceEntry::from).collect() }))
}

/// Where the workshop can be reached from the local network, and by whom.
#[utoipa::path(get, path = "/api/v1/garage", responses((status = 200, body = Garage)))]
async fn garage(State(store): State<Store>, State(door): State<Arc<Door>>) -> Answer<Json<Garage>> {
    as_it_is(&store, &door).await
}

/// Where to listen.
#[derive(Deserialize, ToSchema)]
struct DoorAt {
    /// An address of this machine on the local network; without one, every private address that it has.
    #[schema(value_type = Option<String>)]
    address: Option<IpAddr>,
}

/// Listens on the local network too, until the server stops or the door is closed; a device still needs a code.
#[utoipa::path(post, path = "/api/v1/garage/door", request_body = DoorAt,
    responses((status = 200, body = Garage), (status = 409, body = Problem, content_type = "application/problem+json"), (status = 422, body = Problem)))]
async fn open_door(State(store): State<Store>, State(door): State<Arc<Door>>, Body(opening): Body<DoorAt>) -> Answer<Json<Garage>> {
    if let Err(shut) = door.open(opening.address).await {
        let said = shut.to_string();
        let detail = said[..1].to_uppercase() + &said[1..] + ".";
        return Err(Problem::new(StatusCode::CONFLICT, "no_door", "A phone cannot come in", detail));
    }
    as_it_is(&store, &door).await
}

/// Listens on this machine only again; who came in is cut off, and may come back once the door is open.
#[utoipa::path(delete, path = "/api/v1/garage/door", responses((status = 200, body = Garage)))]
async fn close_door(State(store): State<Store>, State(door): State<Arc<Door>>) -> Answer<Json<Garage>> {
    door.serve(Vec::new()).await.map_err(|_| Problem::internal())?;
    as_it_is(&store, &door).await
}

/// A code that lets one device in.
#[derive(Serialize, ToSchema)]
struct Code {
    code: String,
    /// How long it is good, s.
    good_for_s: u64,
    /// What to open on the phone.
    address: String,
    /// The same as a picture to point the phone at, SVG.
    qr: String,
}

/// A new code; the one before is good for nothing any more.
#[utoipa::path(post, path = "/api/v1/garage/code", responses((status = 201, body = Code), (status = 409, body = Problem, content_type = "application/problem+json")))]
async fn new_code(State(door): State<Arc<Door>>) -> Answer<Response> {
    if door.addresses().is_empty() {
        let detail = "Orthavis listens on this computer only. Press “Let my phone in” first.";
        return Err(Problem::new(StatusCode::CONFLICT, "closed", "No phone can come in yet", detail));
    }
    let code = door.new_code(Instant::now()).map_err(|_| Problem::internal())?;
    let address = door.address_for(&code).unwrap_or_default();
    // Dark on light whatever the theme: readers of such pictures expect it so.
    let drawn = QrCode::new(&address).map_err(|_| Problem::internal())?.render::<svg::Color>().min_dimensions(240, 240).build();
    let code = Code { code, good_for_s: GOOD_FOR.as_secs(), address, qr: drawn };
    Ok((StatusCode::CREATED, Json(code)).into_response())
}

/// A code, and what the device calls itself.
#[derive(Deserialize, ToSchema)]
struct Pairing {
    code: String,
    /// At most 60 characters.
    name: String,
}

/// Lets a device in by its code and gives it the cookie that it shows from then on.
#[utoipa::path(post, path = "/api/v1/garage/pair", request_body = Pairing,
    responses((status = 201, body = Me), (status = 403, body = Problem, content_type = "application/problem+json"), (status = 409, body = Problem, content_type = "application/problem+json"), (status = 422, body = Problem), (status = 429, body = Problem, content_type = "application/problem+json")))]
async fn pair(State(store): State<Store>, State(door): State<Arc<Door>>, Extension(who): Extension<Who>, Body(pairing): Body<Pairing>) -> Answer<Response> {
    if who == Who::Owner {
        return Err(Problem::new(
            StatusCode::CONFLICT,
            "near",
            "Nothing to let in",
            "This browser is on the workshop's own machine; open the code on the phone.",
        ));
    }
    let name = pairing.name.trim();
    if name.is_empty() || name.chars().count() > NAME {
        return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "name", "The name cannot be used", format!("Give `name` 1 to {NAME} characters.")));
    }
    match door.knock(&pairing.code, Instant::now()) {
        Knock::In => {}
        Knock::Wrong => {
            let detail = "The code is wrong, used or older than five minutes. Ask for a new one at the workshop's own screen.";
            return Err(Problem::new(StatusCode::FORBIDDEN, "code", "Not the code", detail));
        }
        Knock::Closed(left) => {
            let seconds = left.as_secs().max(1);
            let detail =
                format!("Five codes were wrong. Wait {} seconds and ask for a new one at the workshop's own screen.", seconds.min(CLOSED_FOR.as_secs()));
            let problem = Problem::new(StatusCode::TOO_MANY_REQUESTS, "closed", "The door is closed", detail);
            return Ok(([(header::RETRY_AFTER, seconds.to_string())], problem).into_response());
        }
    }
    let mut bytes = [0u8; 32];
    getrandom::fill(&mut bytes).map_err(|_| Problem::internal())?;
    let token: String = bytes.iter().map(|byte| format!("{byte:02x}")).collect();
    let device = store.let_in(name.to_owned(), hashed(&token), DEVICES).await?;
    let cookie = format!("{COOKIE}={token}; Path=/; HttpOnly; SameSite=Strict; Max-Age={KEPT_S}");
    Ok((StatusCode::CREATED, [(header::SET_COOKIE, cookie)], Json(Me::from(Who::Let(device)))).into_response())
}

/// What the one who asks may do.
#[derive(Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
enum Role {
    /// At this machine: everything.
    Owner,
    /// Let in: reads builds, computes, writes the journal.
    Reader,
    /// Let in and allowed to change builds too.
    Editor,
    /// Not let in yet.
    Stranger,
}

/// Who asks.
#[derive(Serialize, ToSchema)]
struct Me {
    role: Role,
    /// What the device calls itself.
    #[serde(skip_serializing_if = "Option::is_none")]
    name: Option<String>,
}

impl From<Who> for Me {
    fn from(who: Who) -> Self {
        match who {
            Who::Owner => Me { role: Role::Owner, name: None },
            Who::Let(device) => Me { role: if device.may_edit { Role::Editor } else { Role::Reader }, name: Some(device.name) },
            Who::Stranger => Me { role: Role::Stranger, name: None },
        }
    }
}

/// Who the server takes the one who asks for.
#[utoipa::path(get, path = "/api/v1/me", responses((status = 200, body = Me)))]
async fn me(Extension(who): Extension<Who>) -> Json<Me> {
    Json(who.into())
}

/// What a device may do.
#[derive(Deserialize, ToSchema)]
struct Allowed {
    /// Whether it may change builds.
    may_edit: bool,
}

/// Allows a device to change builds, or no longer.
#[utoipa::path(put, path = "/api/v1/garage/devices/{id}", params(("id" = i64, Path)), request_body = Allowed,
    responses((status = 200, body = DeviceEntry), (status = 404, body = Problem)))]
async fn allow(State(store): State<Store>, Id(id): Id, Body(allowed): Body<Allowed>) -> Answer<Json<DeviceEntry>> {
    Ok(Json(store.allow(id, allowed.may_edit).await?.into()))
}

/// Shuts a device out: its cookie opens nothing any more.
#[utoipa::path(delete, path = "/api/v1/garage/devices/{id}", params(("id" = i64, Path)), responses((status = 204), (status = 404, body = Problem)))]
async fn shut_out(State(store): State<Store>, Id(id): Id) -> Answer<StatusCode> {
    store.shut_out(id).await?;
    Ok(StatusCode::NO_CONTENT)
}

fn hashed(token: &str) -> [u8; 32] {
    Sha256::digest(token.as_bytes()).into()
}

fn token(headers: &HeaderMap) -> Option<&str> {
    let cookies = headers.get_all(header::COOKIE).iter().filter_map(|value| value.to_str().ok());
    cookies.flat_map(|line| line.split(';')).find_map(|pair| pair.trim().strip_prefix(COOKIE)?.strip_prefix('='))
}

/// Whether a device that was let in may ask this. Whatever is not named here is the owner's.
fn may(device: &Device, method: &Method, path: &str) -> bool {
    let Some(path) = path.strip_prefix("/api/v1/") else { return true };
    if path.starts_with("garage") || path.starts_with("workshop/") {
        return false;
    }
    let reads = *method == Method::GET || *method == Method::HEAD;
    // What listens on this machine is its owner's to switch.
    if path.starts_with("instruments") || path.starts_with("controller") {
        return reads;
    }
    let computes = path == "jobs" || path.starts_with("jobs/") || (*method == Method::POST && operation(path).is_some());
    let of_build = path.strip_prefix("builds/").and_then(|rest| rest.split_once('/')).map(|(_, rest)| rest);
    let writes_journal = *method == Method::POST && matches!(of_build, Some("journal" | "journal/import"))
        || *method == Method::PUT && of_build.is_some_and(|rest| rest.starts_with("photos/"));
    reads || computes || writes_journal || device.may_edit
}

/// What is handed to a device that is not let in: a page of its own, small, and nothing of the workshop's.
fn for_strangers(path: &str) -> Option<Response> {
    let (kind, text) = match path {
        "/pair.js" => ("text/javascript; charset=utf-8", include_str!("pairing/pair.js")),
        "/pair.css" => ("text/css; charset=utf-8", include_str!("pairing/pair.css")),
        _ if !path.rsplit('/').next().is_some_and(|name| name.contains('.')) => ("text/html; charset=utf-8", include_str!("pairing/pair.html")),
        _ => return None,
    };
    Some(([(header::CONTENT_TYPE, kind), (header::CACHE_CONTROL, "no-store")], text).into_response())
}

/// How long a stranger's request may take, its body included.
const STRANGER: Duration = Duration::from_secs(5);
/// Bytes of a stranger's body: a code and a name.
const STRANGER_BYTES: usize = 1024;

/// A stranger's request: its own page, who it is, a code; never more than a moment.
async fn of_a_stranger(request: Request, next: Next) -> Response {
    let path = request.uri().path().to_owned();
    let pairs = path == "/api/v1/garage/pair";
    if !path.starts_with("/api/")
        && (request.method() == Method::GET || request.method() == Method::HEAD)
        && let Some(page) = for_strangers(&path)
    {
        return page;
    }
    if !pairs && path != "/api/v1/me" {
        let detail = "This device is not let in. Ask for a code at the workshop's own screen and open it here.";
        let mut response = Problem::new(StatusCode::UNAUTHORIZED, "unpaired", "Not let in", detail).into_response();
        // Required with a 401; there is no scheme of HTTP's own for a cookie.
        response.headers_mut().insert(header::WWW_AUTHENTICATE, HeaderValue::from_static("Cookie"));
        return response;
    }
    let late = || Problem::new(StatusCode::REQUEST_TIMEOUT, "late", "Too slow", "The request did not arrive in time. Send it again.").into_response();
    let answered = async {
        let (parts, body) = request.into_parts();
        match axum::body::to_bytes(body, STRANGER_BYTES).await {
            Ok(bytes) => next.run(Request::from_parts(parts, bytes.into())).await,
            Err(_) => Problem::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", "Too large", "Send the code and a name, no more.").into_response(),
        }
    };
    tokio::time::timeout(STRANGER, answered).await.unwrap_or_else(|_| late())
}

/// Lets a request from the local network through if whoever sends it may ask that.
pub(crate) async fn from_the_network(State((store, seats)): State<(Store, Seats)>, mut request: Request, next: Next) -> Response {
    let peer = request.extensions().get::<Peer>().map(|peer| peer.0);
    let who = match token(request.headers()) {
        None => Who::Stranger,
        Some(token) => match store.device(hashed(token)).await {
            Ok(device) => device.map_or(Who::Stranger, Who::Let),
            Err(error) => return Problem::from(error).into_response(),
        },
    };
    let Who::Let(device) = &who else {
        if peer.is_some_and(|address| !seats.may_ask(address, Instant::now())) {
            let detail = "This device asks too often. Wait a minute.";
            return ([(header::RETRY_AFTER, "60")], Problem::new(StatusCode::TOO_MANY_REQUESTS, "often", "Too many requests", detail)).into_response();
        }
        request.extensions_mut().insert(who);
        return of_a_stranger(request, next).await;
    };
    if let Some(address) = peer {
        seats.know(address);
    }
    let path = request.uri().path();
    let open = !path.starts_with("/api/") || matches!(path, "/api/v1/me" | "/api/v1/garage/pair");
    if !open && !may(device, request.method(), path) {
        let detail = "This device may read builds, compute and write the journal. The owner may allow it to edit, at the workshop's own screen.";
        return Problem::new(StatusCode::FORBIDDEN, "role", "Not for this device", detail).into_response();
    }
    request.extensions_mut().insert(who);
    next.run(request).await
}

/// A request from this machine is its owner's.
pub(crate) async fn from_here(mut request: Request, next: Next) -> Response {
    request.extensions_mut().insert(Who::Owner);
    next.run(request).await
}
