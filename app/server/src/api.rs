//! The API. Documents travel as text to the one parser in the core; nothing of the job is decided here.

use crate::services::Services;
use crate::{builds, controller, devices, instruments, jobs, journal, own_parts, questions, sheet, stock, whole};
use utoipa::OpenApi;
use utoipa_axum::router::OpenApiRouter;

#[derive(OpenApi)]
#[openapi(info(title = "Orthavis", description = "Builds of lights on small vehicles: kept, solved and judged."))]
struct Description;

/// All paths with their description.
pub(crate) fn router() -> OpenApiRouter<Services> {
    OpenApiRouter::with_openapi(Description::openapi())
        .merge(builds::router())
        .merge(devices::router())
        .merge(sheet::router())
        .merge(journal::router())
        .merge(questions::router())
        .merge(jobs::router())
        .merge(own_parts::router())
        .merge(stock::router())
        .merge(whole::router())
        .merge(instruments::router())
        .merge(controller::router())
}
