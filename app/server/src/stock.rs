//! What lies in the drawer.

use crate::problem::{Answer, Problem};
use crate::request::Body;
use crate::workshop::Workshop;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use orthavis_store::Store;
use serde::Deserialize;
use std::collections::BTreeMap;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Workshop> {
    OpenApiRouter::new().routes(routes!(stock, put_stock))
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
