//! The routes under `/api`. A handler extracts, authorises, calls and answers.

mod board;
mod cover;
mod hand_in;
mod session;
mod views;
mod week;
mod work;

use actix_web::web;
use utoipa::OpenApi;

use crate::error::{ApiError, Problem};

#[derive(OpenApi)]
#[openapi(
    info(
        title = "Green Slate",
        version = "0.1.0",
        description = "What the front end asks the server."
    ),
    paths(
        session::sign_in,
        session::sign_out,
        session::me,
        week::week,
        cover::cover,
        board::open,
        board::board,
        board::read,
        board::save,
        board::check,
        hand_in::preview,
        hand_in::hand_in,
        hand_in::take_back,
        hand_in::receipt
    ),
    components(schemas(Problem))
)]
struct Doc;

/// The description of the interface, from which the front end's types are made.
pub fn open_api() -> String {
    let mut json = Doc::openapi().to_pretty_json().unwrap_or_default();
    json.push('\n');
    json
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(session::sign_in)
        .service(session::sign_out)
        .service(session::me)
        .service(week::week)
        .service(cover::cover)
        .service(board::open)
        .service(board::board)
        .service(board::read)
        .service(board::save)
        .service(board::check)
        .service(hand_in::preview)
        .service(hand_in::hand_in)
        .service(hand_in::take_back)
        .service(hand_in::receipt);
}

pub(crate) use work::assignment_of as assignment_for;

pub(crate) async fn no_such_route() -> Result<&'static str, ApiError> {
    Err(ApiError::NotFound)
}
