//! The routes under `/api`. A handler extracts, authorises, calls and answers.

mod board;
mod cover;
mod goals;
mod hand_in;
mod help;
mod loose;
mod pages;
mod practice;
mod result;
mod review;
mod session;
mod skills;
mod slip_export;
mod slips;
mod tools;
mod typing;
mod views;
mod week;
mod work;
mod workings;

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
        board::move_on,
        board::here,
        help::hint,
        help::working,
        help::fresh_numbers,
        help::example,
        help::example_try,
        help::practice,
        help::practice_check,
        tools::calculate,
        tools::typing_guide,
        tools::guide_read,
        tools::formula_sheet,
        workings::get_workings,
        workings::save_workings,
        workings::add_picture,
        workings::get_picture,
        workings::delete_picture,
        hand_in::preview,
        hand_in::hand_in,
        hand_in::take_back,
        hand_in::receipt,
        result::get_result,
        result::seen,
        result::get_scores,
        skills::get_skills,
        practice::start,
        practice::get_run,
        practice::check_answer,
        practice::read_entry,
        practice::go_on,
        practice::put_entered,
        slips::get_slips,
        slips::put_note,
        slips::try_again,
        slip_export::export,
        review::review_choices,
        review::draw_a_review,
        goals::practise_assignment,
        pages::get_page,
        pages::put_place,
        pages::get_figure,
        loose::loose,
        loose::loose_read,
        typing::get_typing,
        typing::check_typed,
        typing::read_typed
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
        .service(board::move_on)
        .service(board::here)
        .service(help::hint)
        .service(help::working)
        .service(help::fresh_numbers)
        .service(help::example)
        .service(help::example_try)
        .service(help::practice)
        .service(help::practice_check)
        .service(tools::calculate)
        .service(tools::typing_guide)
        .service(tools::guide_read)
        .service(tools::formula_sheet)
        .service(workings::get_workings)
        .service(workings::save_workings)
        .service(workings::add_picture)
        .service(workings::get_picture)
        .service(workings::delete_picture)
        .service(hand_in::preview)
        .service(hand_in::hand_in)
        .service(hand_in::take_back)
        .service(hand_in::receipt)
        .service(result::get_result)
        .service(result::seen)
        .service(result::get_scores)
        .service(skills::get_skills)
        .service(practice::start)
        .service(practice::get_run)
        .service(practice::check_answer)
        .service(practice::read_entry)
        .service(practice::go_on)
        .service(practice::put_entered)
        .service(slips::get_slips)
        .service(slips::put_note)
        .service(slips::try_again)
        .service(slip_export::export)
        .service(review::review_choices)
        .service(review::draw_a_review)
        .service(goals::practise_assignment)
        .service(pages::get_page)
        .service(pages::put_place)
        .service(pages::get_figure)
        .service(loose::loose)
        .service(loose::loose_read)
        .service(typing::get_typing)
        .service(typing::check_typed)
        .service(typing::read_typed);
}

pub(crate) use practice::drawn;
pub(crate) use work::{Desk, assignment_of as assignment_for, entered, first_seeds, mark_parts, set_derived};
pub(crate) use workings::LARGEST_PICTURE;

pub(crate) async fn no_such_route() -> Result<&'static str, ApiError> {
    Err(ApiError::NotFound)
}
