//! A build as one page of HTML that opens from anywhere without a server: page, style, core and build in one file.

use crate::page;
use crate::problem::{Answer, Problem};
use crate::request::Id;
use crate::services::Services;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use orthavis_core::document::Build;
use orthavis_store::Store;
use serde_json::json;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// What the page may do: nothing that leaves it.
const POLICY: &str = "default-src 'none'; script-src 'unsafe-inline' 'wasm-unsafe-eval'; style-src 'unsafe-inline'; font-src data:; img-src data: blob:";

/// Unpacks the page's script, which goes on with the rest; every browser that knows WebAssembly's streams can.
const UNPACK: &str = r#"(async () => {
  const packed = Uint8Array.from(atob(document.getElementById("program").textContent), (letter) => letter.charCodeAt(0));
  const script = document.createElement("script");
  script.textContent = await new Response(new Blob([packed]).stream().pipeThrough(new DecompressionStream("gzip"))).text();
  document.body.append(script);
})().catch((error) => {
  document.getElementById("root").textContent = `This browser cannot open the sheet (${error}). Use a newer one.`;
});"#;

/// This program has no core for pages, which a sheet is nothing without.
#[derive(Debug, thiserror::Error)]
#[error(
    "the core for pages, which a sheet carries along, is not there: either it is still being built (look again in a few minutes), or this program was built without it, where no compiler for WebAssembly could be had"
)]
pub struct NoCore;

/// A revision that is kept.
pub struct Of<'a> {
    /// Counts up from 1.
    pub revision: i64,
    /// When it was saved, RFC 3339.
    pub saved_at: &'a str,
}

/// The sheet of a build; `of` where it is kept in a workshop.
///
/// # Errors
/// [`NoCore`].
pub fn sheet(build: &Build, of: Option<Of<'_>>) -> Result<String, NoCore> {
    let file = |name: &str| page::file(&format!("sheet/{name}")).ok_or(NoCore);
    let text = |name: &str| Ok(String::from_utf8_lossy(&file(name)?).into_owned());
    let mut taken = json!({ "document": build });
    if let Some(of) = of {
        taken["revision"] = of.revision.into();
        taken["saved_at"] = of.saved_at.into();
    }
    // Nothing within a script may read like its end, or like a comment's beginning.
    let document = taken.to_string().replace('<', "\\u003c");
    let script = STANDARD.encode(file("sheet.js.gz")?);
    let style = text("sheet.css")?.replace("</style", "<\\/style");
    let core = STANDARD.encode(file("core.wasm.zst")?);
    let name = escaped(&build.name);
    Ok(format!(
        "<!doctype html>\n<html lang=\"en\" class=\"dark\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n\
         <meta name=\"color-scheme\" content=\"dark light\">\n<meta http-equiv=\"Content-Security-Policy\" content=\"{POLICY}\">\n<title>{name} · Orthavis</title>\n<style>{style}</style>\n</head>\n\
         <body>\n<div id=\"root\"><noscript>This sheet works its figures out by a script; allow scripts for it.</noscript></div>\n\
         <script type=\"application/json\" id=\"build\">{document}</script>\n<script type=\"text/plain\" id=\"core\">{core}</script>\n<script type=\"text/plain\" id=\"program\">{script}</script>\n<script>{UNPACK}</script>\n</body>\n</html>\n"
    ))
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;")
}

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Services> {
    OpenApiRouter::new().routes(routes!(sheet_of))
}

/// A build to take along: one page of HTML that opens without a server.
#[utoipa::path(get, path = "/api/v1/builds/{id}/sheet", params(("id" = i64, Path)),
    responses((status = 200, body = String, content_type = "text/html"), (status = 404, body = Problem), (status = 501, body = Problem, content_type = "application/problem+json")))]
async fn sheet_of(State(store): State<Store>, Id(id): Id) -> Answer<Response> {
    let stored = store.open_build(id).await?;
    let page = sheet(&stored.build, Some(Of { revision: stored.revision, saved_at: &stored.saved_at }));
    let page = page.map_err(|error| Problem::new(StatusCode::NOT_IMPLEMENTED, "no-core", "No core to take along", format!("{error}.")))?;
    let name = format!("attachment; filename=\"sheet-{id}.html\"");
    Ok(([(header::CONTENT_TYPE, "text/html; charset=utf-8".to_owned()), (header::CONTENT_DISPOSITION, name)], page).into_response())
}
