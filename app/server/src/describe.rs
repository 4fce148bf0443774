//! What every operation of the API may answer beside its own, said once.

use utoipa::openapi::path::Operation;
use utoipa::openapi::{ContentBuilder, OpenApi, Ref, RefOr, ResponseBuilder};

/// Answers that any operation may give.
const ANY: [(&str, &str); 4] = [
    ("401", "This device is not let in"),
    ("403", "Not from a page of this server, or not for this device"),
    ("500", "Something broke"),
    ("503", "Too much at once, or closing"),
];
/// Answers that an operation with a path of its own thing may give.
const PATH: [(&str, &str); 1] = [("404", "There is no such thing")];
/// Answers that an operation with a body may give.
const BODY: [(&str, &str); 5] = [
    ("400", "The body cannot be read"),
    ("408", "The body did not arrive in time"),
    ("413", "The body is too large"),
    ("415", "The body is not JSON"),
    ("422", "The body says what cannot be"),
];
/// Answers that an operation on a revision may give.
const REVISION: [(&str, &str); 2] = [("412", "Saved elsewhere meanwhile"), ("428", "The request does not say which revision it was made on")];
/// Answers that an operation which appends to a journal may give.
const JOURNAL: [(&str, &str); 1] = [("409", "An event with this id is there with other content")];
/// Answers that bringing a backup back may give.
const RESTORE: [(&str, &str); 1] = [("409", "What is here is newer than the backup")];
/// Answers that an operation which writes may give.
const WRITES: [(&str, &str); 1] = [("507", "The database file is gone or cannot grow")];

/// Adds to each operation the problems that the parts shared by all may answer with.
pub fn complete(description: &mut OpenApi) {
    for (path, item) in &mut description.paths.paths {
        let operations = [&mut item.get, &mut item.put, &mut item.post, &mut item.delete];
        for operation in operations.into_iter().flatten() {
            let parameters = operation.parameters.as_deref().unwrap_or_default();
            let revision = parameters.iter().any(|parameter| parameter.name == "If-Match");
            let keyed = parameters.iter().any(|parameter| parameter.name == "Idempotency-Key");
            let query = parameters.iter().any(|parameter| parameter.parameter_in == utoipa::openapi::path::ParameterIn::Query);
            let kept = ["/api/v1/builds", "/api/v1/parts", "/api/v1/garage", "/api/v1/workshop", "/api/v1/drawer"].iter().any(|kept| path.starts_with(kept));
            add(operation, &ANY);
            if path.contains('{') {
                add(operation, &PATH);
                // What is kept may be of another version.
                add(operation, &BODY[4..]);
            }
            if operation.request_body.is_some() {
                add(operation, &BODY);
            }
            if keyed {
                add(operation, &BODY[..1]);
            }
            if query {
                add(operation, &BODY[..1]);
            }
            if revision {
                add(operation, &REVISION);
            }
            if path.contains("/journal") && operation.request_body.is_some() {
                add(operation, &JOURNAL);
            }
            if path.ends_with("/workshop/restore") {
                add(operation, &RESTORE);
            }
            if kept {
                add(operation, &WRITES);
            }
        }
    }
}

fn add(operation: &mut Operation, problems: &[(&str, &str)]) {
    for (status, words) in problems {
        let content = ContentBuilder::new().schema(Some(RefOr::Ref(Ref::from_schema_name("Problem")))).build();
        let response = ResponseBuilder::new().description(*words).content("application/problem+json", content).build();
        // What an operation says of its own goes before, but for the kind of its body.
        match operation.responses.responses.get_mut(*status) {
            Some(RefOr::T(known)) => {
                let words = known.description.clone();
                *known = response;
                if !words.is_empty() {
                    known.description = words;
                }
            }
            Some(RefOr::Ref(_)) => {}
            None => {
                operation.responses.responses.insert((*status).to_owned(), RefOr::T(response));
            }
        }
    }
}
