//! The rooms of the server, by what a person does. Each has its routes and what they show; what several show is in
//! `shared`. A handler extracts, authorises, calls and answers.

mod bank;
mod board;
mod cards;
mod classes;
mod course;
mod cover;
mod describe;
mod hand_in;
mod loose;
mod marks;
mod own;
mod paper;
mod portal;
mod practice;
mod programs;
mod reading;
mod recordings;
mod result;
mod scores;
mod shared;
mod sign_in;
mod skills;
mod slips;
mod start;
mod suggestions;
mod threads;
mod to_mark;
mod typing;
mod week;
mod welcome;

use actix_web::{HttpRequest, web};
use utoipa::OpenApi;

use crate::http::error::{ApiError, Problem};

/// The list of routes, once: for the router and for the description.
macro_rules! rooms {
    ($($route:path),* $(,)?) => {
        #[derive(OpenApi)]
        #[openapi(
            info(
                title = "Green Slate",
                version = "0.1.0",
                description = "What the front end asks the server."
            ),
            paths($($route),*),
            components(schemas(Problem))
        )]
        struct Doc;

        pub(crate) fn routes(config: &mut web::ServiceConfig) {
            $(config.service($route);)*
        }
    };
}

rooms!(
    sign_in::sign_in,
    sign_in::sign_out,
    sign_in::me,
    week::week,
    cover::cover,
    board::open,
    board::board,
    board::drafts::read,
    board::drafts::save,
    board::check::check,
    board::move_on,
    board::here,
    board::help::hint,
    board::help::working,
    board::help::fresh_numbers,
    board::example::example,
    board::example::example_try,
    practice::closed::practice,
    practice::closed::practice_check,
    board::tools::calculate,
    board::tools::typing_guide,
    board::tools::guide_read,
    board::tools::built,
    board::tools::read_writing,
    board::tools::formula_sheet,
    board::workings::get_workings,
    board::workings::save_workings,
    board::workings::get_shared,
    board::workings::set_shared,
    board::workings::add_picture,
    board::workings::get_picture,
    board::workings::delete_picture,
    board::files::add_file,
    board::files::get_file,
    board::files::delete_file,
    hand_in::preview::preview,
    hand_in::hand_in,
    hand_in::take_back,
    hand_in::receipt,
    result::get_result,
    result::seen,
    scores::get_scores,
    scores::get_scores_csv,
    course::get_my_classes,
    course::get_course,
    course::put_heard,
    recordings::watching::get_recording_view,
    recordings::watching::get_recording_works,
    recordings::media::get_recording_media,
    recordings::watching::note_played,
    recordings::stops::answer_stop,
    recordings::desk::get_bank_recordings,
    recordings::upload::upload_recording,
    recordings::desk::get_bank_recording,
    recordings::desk::save_recording,
    marks::get_marks,
    marks::get_marks_csv,
    marks::get_page_marks,
    marks::add_mark,
    marks::put_mark_note,
    marks::delete_mark,
    cards::get_cards,
    cards::put_card,
    programs::run_program,
    programs::get_program_place,
    start::get_start_point,
    start::begin_start_point,
    start::answer_start_point,
    start::read_in_start_point,
    start::calculate_in_start_point,
    start::put_start_entered,
    paper::get_own_paper,
    paper::save_paper,
    paper::get_paper_stack,
    paper::get_written_paper,
    portal::get_arrival,
    portal::arrive_as_new,
    portal::arrive_by_joining,
    portal::arrive_with_class,
    portal::get_pickable,
    portal::get_portal_scores,
    portal::get_class_portal,
    portal::ask_portal_members,
    portal::compare_with_portal,
    portal::send_scores_again,
    portal::drop_portal_course,
    own::get_own,
    own::make_calendar,
    own::end_calendar,
    own::get_calendar,
    own::make_token,
    own::end_token,
    own::change_password,
    own::end_sessions,
    own::take_everything,
    own::get_description,
    suggestions::get_suggestions,
    suggestions::set_wish,
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
    slips::export::export,
    slips::review::review_choices,
    slips::review::draw_a_review,
    practice::goals::practise_assignment,
    reading::get_page,
    reading::put_place,
    reading::get_figure,
    reading::get_sound,
    loose::loose,
    loose::loose_read,
    typing::get_typing,
    typing::check_typed,
    typing::read_typed,
    to_mark::get_marking,
    to_mark::get_to_mark,
    to_mark::get_student_to_mark,
    to_mark::give::release_kept,
    to_mark::give::give_points,
    welcome::get_start,
    welcome::look_at_link,
    welcome::use_link,
    welcome::look_at_code,
    welcome::join,
    welcome::join_signed_in,
    welcome::welcomed,
    classes::get_classes,
    classes::make_class,
    classes::sheet::get_sheet,
    classes::sheet::get_sheet_csv,
    classes::get_acts,
    classes::as_student,
    classes::end_as_student,
    classes::get_class,
    classes::put_class,
    classes::people::get_people_csv,
    classes::people::add_to_class,
    classes::people::add_teacher_to_class,
    classes::people::make_link,
    classes::people::set_new_password,
    classes::people::change_member,
    classes::people::change_join_code,
    classes::seen::get_work_seen,
    classes::units::get_units,
    classes::units::put_units,
    classes::units::get_materials,
    classes::skills::get_class_skills,
    classes::skills::suggest,
    classes::skills::take_suggestion_back,
    classes::start::get_class_start,
    classes::start::start_again,
    classes::setting::get_set_work,
    classes::setting::make_assignment,
    classes::setting::plan_assignment,
    classes::setting::give_out,
    classes::copy::copy_assignment,
    classes::exceptions::give_exception,
    classes::setting::get_assignment,
    classes::setting::put_assignment,
    classes::setting::delete_assignment,
    classes::went::get_went_json,
    classes::went::get_went_csv,
    classes::went::write_reply,
    classes::went::message_students,
    threads::ask,
    threads::get_threads,
    threads::get_thread,
    threads::answer_thread,
    threads::take_back_message,
    threads::change_thread,
    // Before those with a question's name in their place.
    bank::pages::get_page_text,
    bank::pages::try_page,
    bank::pages::save_page,
    bank::pages::get_skills_text,
    bank::pages::try_skills,
    bank::pages::save_skills,
    bank::pages::export_bank,
    bank::pages::export_bank_qti,
    bank::pages::export_assignment_qti,
    bank::pages::export_class,
    bank::pages::import_bank,
    bank::text::get_starters,
    bank::text::try_text,
    bank::text::read_in_text,
    bank::text::save_text,
    bank::text::get_text,
    bank::correction::get_correction,
    bank::correction::make_correction,
    bank::get_bank,
    bank::before::went_before,
    bank::look_at_question,
    bank::read_in_bank,
);

/// The description of the interface, from which the front end's types are made.
pub fn open_api() -> String {
    let described = serde_json::to_value(Doc::openapi()).unwrap_or_default();
    format!("{:#}\n", describe::with_problems(described))
}

/// The methods of a route, as its description has them.
fn methods_of(pattern: &str) -> Option<String> {
    let item = Doc::openapi().paths.paths.remove(pattern)?;
    let there = [
        ("GET", item.get.is_some()),
        ("POST", item.post.is_some()),
        ("PUT", item.put.is_some()),
        ("DELETE", item.delete.is_some()),
    ];
    let names: Vec<&str> = there
        .into_iter()
        .filter(|(_, there)| *there)
        .map(|(name, _)| name)
        .collect();
    Some(names.join(", "))
}

/// Nothing at all, or nothing by this method.
pub(crate) async fn no_such_route(request: HttpRequest) -> Result<&'static str, ApiError> {
    let pattern = request.resource_map().match_pattern(request.path());
    Err(match pattern.and_then(|p| methods_of(&p)) {
        Some(allowed) => ApiError::NoSuchMethod { allowed },
        None => ApiError::NotFound,
    })
}
