//! Parts of the person's own.

use crate::problem::{Answer, Problem};
use crate::request::Body;
use crate::services::Services;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use orthavis_core::document::{Part, parse_part_text};
use orthavis_core::parts;
use orthavis_store::Store;
use serde_json::value::RawValue;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Services> {
    OpenApiRouter::new().routes(routes!(own_parts)).routes(routes!(keep_part, forget_part))
}

/// Parts of the person's own.
#[utoipa::path(get, path = "/api/v1/parts", responses((status = 200, body = Vec<Part>), (status = 500, body = Problem)))]
async fn own_parts(State(store): State<Store>) -> Answer<Json<Vec<Part>>> {
    Ok(Json(store.parts().await?))
}

/// Keeps a part under its id; the one before is replaced.
#[utoipa::path(put, path = "/api/v1/parts/{id}", params(("id" = String, Path)), request_body = Part,
    responses((status = 200, body = Part), (status = 422, body = Problem)))]
async fn keep_part(State(store): State<Store>, Path(id): Path<String>, Body(document): Body<Box<RawValue>>) -> Answer<Json<Part>> {
    let part = parse_part_text(document.get())?;
    let refused = |title: &'static str, detail: String| Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "part", title, detail));
    if part.id != id {
        return refused("Two ids", format!("The part says that it is `{}`, the path `{id}`; give both the same.", part.id));
    }
    if parts::find(&id).is_some() {
        return refused("The id is taken", format!("`{id}` is a part of the library that ships; give yours another id."));
    }
    store.keep_part(part.clone()).await?;
    Ok(Json(part))
}

/// Forgets a part of the person's own.
#[utoipa::path(delete, path = "/api/v1/parts/{id}", params(("id" = String, Path)), responses((status = 204), (status = 404, body = Problem)))]
async fn forget_part(State(store): State<Store>, Path(id): Path<String>) -> Answer<StatusCode> {
    store.forget_part(id).await?;
    Ok(StatusCode::NO_CONTENT)
}
