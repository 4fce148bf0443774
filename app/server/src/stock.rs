//! What lies in the drawer.

use crate::problem::{Answer, Problem};
use crate::request::Body;
use crate::services::Services;
use axum::Json;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use orthavis_core::drawer::{Drawer, from_csv, to_csv};
use orthavis_store::Store;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Services> {
    OpenApiRouter::new().routes(routes!(stock, put_stock)).routes(routes!(drawer_as_csv, drawer_from_csv))
}

/// How much of something is in the drawer.
#[derive(Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
struct InDrawer {
    /// What, as the shopping list names it.
    part: String,
    /// Pieces, or metres; 0: none.
    count: f64,
}

/// Everything in the drawer, by the names of the shopping list.
#[utoipa::path(get, path = "/api/v1/stock", responses((status = 200, body = BTreeMap<String, f64>), (status = 500, body = Problem)))]
async fn stock(State(store): State<Store>) -> Answer<Json<BTreeMap<String, f64>>> {
    Ok(Json(store.stock().await?))
}

/// Puts so many of a thing into the drawer, and answers with everything in it.
#[utoipa::path(put, path = "/api/v1/stock", request_body = InDrawer,
    responses((status = 200, body = BTreeMap<String, f64>), (status = 422, body = Problem)))]
async fn put_stock(State(store): State<Store>, Body(put): Body<InDrawer>) -> Answer<Json<BTreeMap<String, f64>>> {
    let refused = |detail: String| Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "stock", "No such stock", detail));
    if put.part.is_empty() || put.part.len() > 200 {
        return refused("`part` names nothing. Give the name that the shopping list has, of at most 200 characters.".into());
    }
    if !put.count.is_finite() || !(0.0..=1e6).contains(&put.count) {
        return refused(format!("`count` is {}. Give 0 to a million.", put.count));
    }
    store.put_stock(put.part, put.count).await?;
    Ok(Json(store.stock().await?))
}

/// Own parts and what is in the drawer as CSV (RFC 4180, UTF-8).
#[utoipa::path(get, path = "/api/v1/drawer/csv", responses((status = 200, body = String, content_type = "text/csv"), (status = 500, body = Problem)))]
async fn drawer_as_csv(State(store): State<Store>) -> Answer<Response> {
    let drawer = Drawer { parts: store.parts().await?, stock: store.stock().await? };
    let head = [(header::CONTENT_TYPE, "text/csv; charset=utf-8; header=present"), (header::CONTENT_DISPOSITION, "attachment; filename=\"drawer.csv\"")];
    Ok((head, to_csv(&drawer)).into_response())
}

/// A drawer as a file has it.
#[derive(Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
struct DrawerFile {
    /// The CSV.
    text: String,
}

/// A line of it that was not taken.
#[derive(Serialize, utoipa::ToSchema)]
struct DrawerLine {
    /// Which, counted from 1; the head is the first.
    line: usize,
    /// What is wrong with it.
    problem: String,
    /// What to do.
    remedy: String,
}

/// What became of a drawer that was taken in.
#[derive(Serialize, utoipa::ToSchema)]
struct DrawerTaken {
    /// Parts that are new or replaced.
    parts: usize,
    /// Things that were counted.
    counted: usize,
    /// What was not taken, by line.
    bad: Vec<DrawerLine>,
}

/// Takes a drawer in: every line that can be read; those that cannot are named. A part with a known id is replaced.
#[utoipa::path(post, path = "/api/v1/drawer/csv", request_body = DrawerFile, responses((status = 200, body = DrawerTaken), (status = 422, body = Problem)))]
async fn drawer_from_csv(State(store): State<Store>, Body(file): Body<DrawerFile>) -> Answer<Json<DrawerTaken>> {
    let (drawer, bad) = from_csv(&file.text);
    let bad = bad.into_iter().map(|bad| DrawerLine {
        line: bad.line,
        problem: format!("{}: {}", bad.fault.pointer.trim_start_matches('/'), bad.fault.problem),
        remedy: bad.fault.remedy,
    });
    let count = (drawer.parts.len(), drawer.stock.len());
    store.take_drawer(drawer.parts, drawer.stock).await?;
    Ok(Json(DrawerTaken { parts: count.0, counted: count.1, bad: bad.collect() }))
}
