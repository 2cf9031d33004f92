//! What a student gives for a part, within bounds: whatever comes from outside is parsed here before it is kept or marked.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Characters of one typed response that are kept. The marker reads [`maths::MAX_CHARS`] of them; the rest is room for
/// what was pasted by mistake, so that it can still be shortened where it stands.
pub const LONGEST_RESPONSE: usize = 2_100;
/// Choices in one response: no question shows so many.
pub const MOST_CHOICES: usize = 64;
/// Characters of the id of a part or of a choice.
pub const LONGEST_ID: usize = 64;
/// Parts in one request: no question has so many.
pub const MOST_PARTS: usize = 50;

/// What a student gives for a part: text for a field, ids for choices.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(untagged)]
#[schema(as = ResponseView)]
pub enum Response {
    Text(String),
    Choices(Vec<String>),
}

/// Nothing given yet.
impl Default for Response {
    fn default() -> Self {
        Response::Text(String::new())
    }
}

/// Why what was given cannot be taken in. The words are for the student.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum ResponseFault {
    #[error("An answer can have 2,000 characters at most. Shorten it; it still stands in its field.")]
    TooLong,
    #[error("More was chosen here than this question can have.")]
    TooManyChoices,
    #[error("This names a part or a choice that no question can have.")]
    BadId,
    #[error("This has more parts than any question.")]
    TooManyParts,
    #[error("The same part is given twice.")]
    PartTwice,
}

impl Response {
    /// Nothing was entered or chosen.
    pub fn is_empty(&self) -> bool {
        match self {
            Response::Text(t) => t.trim().is_empty(),
            Response::Choices(c) => c.is_empty(),
        }
    }

    /// Something typed, not chosen.
    pub fn is_typed(&self) -> bool {
        matches!(self, Response::Text(_))
    }

    /// Whether two responses are the same but for blanks and the order of choices.
    pub fn is_same(&self, other: &Response) -> bool {
        match (self, other) {
            (Response::Text(a), Response::Text(b)) => a.split_whitespace().eq(b.split_whitespace()),
            (Response::Choices(a), Response::Choices(b)) => {
                let sorted = |ids: &Vec<String>| {
                    let mut ids = ids.clone();
                    ids.sort();
                    ids
                };
                sorted(a) == sorted(b)
            }
            _ => false,
        }
    }

    /// The response, if it is within bounds. NUL is dropped: PostgreSQL keeps none in JSON, and nobody means one.
    ///
    /// # Errors
    /// Which bound it breaks.
    ///
    /// ```
    /// use marking::{Response, ResponseFault};
    /// let given = Response::Text("x".repeat(3_000));
    /// assert_eq!(given.within_bounds(), Err(ResponseFault::TooLong));
    /// ```
    pub fn within_bounds(self) -> Result<Response, ResponseFault> {
        match self {
            Response::Text(text) => {
                // Four bytes are the longest character; counted only where it could matter.
                if text.len() > LONGEST_RESPONSE && text.chars().count() > LONGEST_RESPONSE {
                    return Err(ResponseFault::TooLong);
                }
                Ok(Response::Text(without_nul(text)))
            }
            Response::Choices(ids) => {
                if ids.len() > MOST_CHOICES {
                    return Err(ResponseFault::TooManyChoices);
                }
                ids.iter().try_for_each(|id| check_id(id))?;
                Ok(Response::Choices(ids))
            }
        }
    }
}

fn without_nul(text: String) -> String {
    if text.contains('\0') {
        text.replace('\0', "")
    } else {
        text
    }
}

fn check_id(id: &str) -> Result<(), ResponseFault> {
    let fits = id.len() <= LONGEST_ID && !id.contains('\0');
    if fits { Ok(()) } else { Err(ResponseFault::BadId) }
}

/// The responses to one question, each part once, all within bounds.
///
/// # Errors
/// Which bound is broken.
pub fn parse_responses(
    given: impl IntoIterator<Item = (String, Response)>,
) -> Result<Vec<(String, Response)>, ResponseFault> {
    let mut parts: Vec<(String, Response)> = Vec::new();
    for (id, response) in given {
        check_id(&id)?;
        if parts.len() == MOST_PARTS {
            return Err(ResponseFault::TooManyParts);
        }
        if parts.iter().any(|(known, _)| *known == id) {
            return Err(ResponseFault::PartTwice);
        }
        parts.push((id, response.within_bounds()?));
    }
    Ok(parts)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn text(t: &str) -> Response {
        Response::Text(t.to_owned())
    }

    #[rstest]
    #[case::as_long_as_it_may_be("7".repeat(LONGEST_RESPONSE), true)]
    #[case::one_too_many("7".repeat(LONGEST_RESPONSE + 1), false)]
    #[case::counted_in_characters_not_bytes("√".repeat(LONGEST_RESPONSE), true)]
    #[case::megabytes("x".repeat(3_000_000), false)]
    #[case::nothing(String::new(), true)]
    fn a_typed_response_is_as_long_as_a_field_allows(#[case] given: String, #[case] fits: bool) {
        let wanted = if fits {
            Ok(Response::Text(given.clone()))
        } else {
            Err(ResponseFault::TooLong)
        };
        assert_eq!(Response::Text(given).within_bounds(), wanted);
    }

    #[test]
    fn a_nul_is_dropped_from_text_and_refused_in_names() {
        assert_eq!(text("1\x002").within_bounds(), Ok(text("12")));
        let chosen = Response::Choices(vec!["a\0".into()]);
        assert_eq!(chosen.within_bounds(), Err(ResponseFault::BadId));
        assert_eq!(
            parse_responses([("a\0".to_owned(), text("1"))]),
            Err(ResponseFault::BadId)
        );
    }

    #[test]
    fn choices_are_bounded_in_number_and_length() {
        let many = Response::Choices(vec!["a".into(); MOST_CHOICES + 1]);
        assert_eq!(many.within_bounds(), Err(ResponseFault::TooManyChoices));
        let long = Response::Choices(vec!["a".repeat(LONGEST_ID + 1)]);
        assert_eq!(long.within_bounds(), Err(ResponseFault::BadId));
    }

    #[test]
    fn a_part_comes_once_and_parts_are_bounded_in_number() {
        let twice = [("a".to_owned(), text("1")), ("a".to_owned(), text("2"))];
        assert_eq!(parse_responses(twice), Err(ResponseFault::PartTwice));
        let many = (0..=MOST_PARTS).map(|n| (n.to_string(), text("1")));
        assert_eq!(parse_responses(many), Err(ResponseFault::TooManyParts));
        let good = [("a".to_owned(), text("1")), ("b".to_owned(), text(""))];
        assert_eq!(parse_responses(good.clone()), Ok(good.to_vec()));
    }
}
