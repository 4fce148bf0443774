//! The pure questions over HTTP: each hands the bytes of its body to the core and the core's answer back.

use crate::compute::Hands;
use crate::problem::{Answer, Problem};
use crate::request::Raw;
use crate::services::Services;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use orthavis_operations::{every_operation, operation};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// An operation of the core, off the executor and on a budget.
async fn asked(hands: Hands, name: &'static str, request: Vec<u8>) -> Answer<Response> {
    let Some(operation) = operation(name) else {
        return Err(Problem::internal());
    };
    let quick = operation.is_quick(&request);
    let work = move || Ok(operation.ask(&request)?);
    let answer = if quick { hands.compute(work).await? } else { hands.compute_long(work).await? };
    Ok(([(header::CONTENT_TYPE, operation.media.of())], answer).into_response())
}

/// The media type that an answer is described by; JSON is what is meant without one.
macro_rules! described {
    (Json $($rest:tt)+) => { described!(@ ["application/json"] $($rest)+); };
    (Csv $($rest:tt)+) => { described!(@ ["text/csv"] $($rest)+); };
    (Calendar $($rest:tt)+) => { described!(@ ["text/calendar"] $($rest)+); };
    (Svg $($rest:tt)+) => { described!(@ ["image/svg+xml"] $($rest)+); };
    (Text $($rest:tt)+) => { described!(@ ["text/plain"] $($rest)+); };
    (@ [$media:literal] get $about:literal $function:ident $name:literal ($request:ty) -> $answer:ty) => {
        #[doc = $about]
        #[utoipa::path(get, path = concat!("/api/v1/", $name), responses((status = 200, body = $answer, content_type = $media)))]
        async fn $function(hands: Hands) -> Answer<Response> {
            asked(hands, $name, b"{}".to_vec()).await
        }
    };
    (@ [$media:literal] post $about:literal $function:ident $name:literal ($request:ty) -> $answer:ty) => {
        #[doc = $about]
        #[utoipa::path(post, path = concat!("/api/v1/", $name), request_body = $request,
            responses((status = 200, body = $answer, content_type = $media), (status = 422, body = Problem)))]
        async fn $function(hands: Hands, Raw(request): Raw) -> Answer<Response> {
            asked(hands, $name, request).await
        }
    };
    // Jobs have paths of their own.
    (@ [$media:literal] job $about:literal $function:ident $name:literal ($request:ty) -> $answer:ty) => {};
}

/// Adds the path of a question.
macro_rules! with {
    (job $router:ident $function:ident) => {
        $router
    };
    ($door:ident $router:ident $function:ident) => {
        $router.routes(routes!($function))
    };
}

macro_rules! questions {
    ($(#[doc = $about:literal] $door:ident $function:ident $pace:ident $media:ident $name:literal ($request:ty) -> $answer:ty = $($path:ident)::+;)+) => {
        $(described!($media $door $about $function $name ($request) -> $answer);)+

        /// The paths of this module.
        pub(crate) fn router() -> OpenApiRouter<Services> {
            let router = OpenApiRouter::new();
            $(let router = with!($door router $function);)+
            router
        }
    };
}

every_operation!(questions);
