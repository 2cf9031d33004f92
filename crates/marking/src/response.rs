//! What a student gives for a part, within bounds: whatever comes from outside is parsed here before it is kept or marked.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::program::LONGEST_PROGRAM;
use crate::written::{AttachedFile, Written};

/// Characters of one typed response that are kept. The marker reads [`maths::MAX_CHARS`] of them; the rest is room for
/// what was pasted by mistake, so that it can still be shortened where it stands.
pub const LONGEST_RESPONSE: usize = 2_100;
/// Choices in one response: no question shows so many.
pub const MOST_CHOICES: usize = 64;
/// Characters of the id of a part or of a choice.
pub const LONGEST_ID: usize = 64;
/// Characters of all fields of one response.
pub const LONGEST_FIELDS: usize = 8_000;
/// Rows, and columns, of a grid.
pub const LARGEST_GRID: usize = 12;
/// Parts in one request: no question has so many.
pub const MOST_PARTS: usize = 50;

/// What a student gives for a part. How each is kept never changes; a new kind that fits none of these brings its own.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(untagged)]
#[schema(as = ResponseView)]
pub enum Response {
    /// One field.
    Text(String),
    /// What was picked, by id; in any order.
    Choices(Vec<String>),
    /// Ids in the order in which they were put.
    Ordered { order: Vec<String> },
    /// What stands in each of several places, by the place's id.
    Fields { fields: BTreeMap<String, String> },
    /// What was joined, two ids at a time.
    Pairs {
        #[schema(value_type = Vec<Vec<String>>)]
        pairs: Vec<(String, String)>,
    },
    /// The cells of a grid, row by row.
    Grid { grid: Vec<Vec<String>> },
    /// What was set on a plane, by id.
    Plotted { objects: BTreeMap<String, Plot> },
    /// What was written, attached and linked.
    Written { written: Written },
    /// A program.
    Program { program: String },
}

/// An object on a plane: its points as they were typed or set, and which of its ends or edges are open.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = PlotView)]
pub struct Plot {
    #[schema(value_type = Vec<Vec<String>>)]
    pub points: Vec<(String, String)>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub open: Vec<bool>,
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
    #[error("This grid has more rows or columns than any question.")]
    TooLarge,
    #[error("This is more than can be kept here: ten pages of writing at most.")]
    TooMuchWritten,
    #[error("A program can have 20,000 characters at most. Shorten it; it still stands in the editor.")]
    ProgramTooLong,
    #[error("At most six files and six links can be added to an answer.")]
    TooManyAttached,
    #[error("A link has to be a whole address that begins with https:// or http://.")]
    NoLink,
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
        let blank = |t: &String| t.trim().is_empty();
        match self {
            Response::Text(t) | Response::Program { program: t } => blank(t),
            Response::Choices(c) => c.is_empty(),
            Response::Ordered { order } => order.is_empty(),
            Response::Fields { fields } => fields.values().all(blank),
            Response::Pairs { pairs } => pairs.is_empty(),
            Response::Grid { grid } => grid.iter().flatten().all(blank),
            Response::Plotted { objects } => {
                let mut points = objects.values().flat_map(|o| &o.points);
                points.all(|(x, y)| blank(x) && blank(y))
            }
            Response::Written { written } => written.is_empty(),
        }
    }

    /// Something typed, not chosen.
    pub fn is_typed(&self) -> bool {
        matches!(self, Response::Text(_) | Response::Grid { .. })
    }

    /// The files that go with it.
    pub fn files(&self) -> &[AttachedFile] {
        match self {
            Response::Written { written } => &written.files,
            _ => &[],
        }
    }

    /// Whether two responses are the same but for blanks and an order that says nothing.
    pub fn is_same(&self, other: &Response) -> bool {
        self.bare() == other.bare()
    }

    /// Without what makes no difference.
    fn bare(&self) -> Response {
        let bare = |t: &String| t.split_whitespace().collect::<Vec<_>>().join(" ");
        match self {
            Response::Text(t) => Response::Text(bare(t)),
            Response::Choices(ids) => {
                let mut ids = ids.clone();
                ids.sort();
                Response::Choices(ids)
            }
            // Lines and blanks can make a difference in a program.
            Response::Ordered { .. } | Response::Written { .. } | Response::Program { .. } => self.clone(),
            Response::Fields { fields } => {
                let fields = fields.iter().map(|(id, t)| (id.clone(), bare(t)));
                Response::Fields {
                    fields: fields.filter(|(_, t)| !t.is_empty()).collect(),
                }
            }
            Response::Pairs { pairs } => {
                let turned = |(a, b): &(String, String)| (a.min(b).clone(), a.max(b).clone());
                let mut pairs: Vec<_> = pairs.iter().map(turned).collect();
                pairs.sort();
                Response::Pairs { pairs }
            }
            Response::Grid { grid } => Response::Grid {
                grid: grid.iter().map(|row| row.iter().map(bare).collect()).collect(),
            },
            Response::Plotted { objects } => {
                let one = |o: &Plot| Plot {
                    points: o.points.iter().map(|(x, y)| (bare(x), bare(y))).collect(),
                    open: o.open.clone(),
                };
                Response::Plotted {
                    objects: objects.iter().map(|(id, o)| (id.clone(), one(o))).collect(),
                }
            }
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
            Response::Text(text) => Ok(Response::Text(bounded(text)?)),
            Response::Choices(ids) => Ok(Response::Choices(few_ids(ids)?)),
            Response::Ordered { order } => Ok(Response::Ordered {
                order: few_ids(order)?,
            }),
            Response::Fields { fields } => {
                if fields.len() > MOST_CHOICES {
                    return Err(ResponseFault::TooManyChoices);
                }
                bounded_together(fields.values())?;
                let one = |(id, text): (String, String)| {
                    check_id(&id)?;
                    Ok((id, bounded(text)?))
                };
                Ok(Response::Fields {
                    fields: fields
                        .into_iter()
                        .map(one)
                        .collect::<Result<_, ResponseFault>>()?,
                })
            }
            Response::Pairs { pairs } => {
                if pairs.len() > MOST_CHOICES {
                    return Err(ResponseFault::TooManyChoices);
                }
                let both = pairs.iter().flat_map(|(a, b)| [a, b]);
                both.into_iter().try_for_each(|id| check_id(id))?;
                Ok(Response::Pairs { pairs })
            }
            Response::Grid { grid } => {
                if grid.len() > LARGEST_GRID || grid.iter().any(|row| row.len() > LARGEST_GRID) {
                    return Err(ResponseFault::TooLarge);
                }
                bounded_together(grid.iter().flatten())?;
                let row = |row: Vec<String>| row.into_iter().map(bounded).collect::<Result<Vec<_>, _>>();
                Ok(Response::Grid {
                    grid: grid.into_iter().map(row).collect::<Result<_, _>>()?,
                })
            }
            Response::Plotted { objects } => {
                let many = objects
                    .values()
                    .any(|o| o.points.len() > MOST_CHOICES || o.open.len() > MOST_CHOICES);
                if objects.len() > MOST_CHOICES || many {
                    return Err(ResponseFault::TooManyChoices);
                }
                let mut points = objects.values().flat_map(|o| &o.points);
                bounded_together(points.by_ref().flat_map(|(x, y)| [x, y]))?;
                objects.keys().try_for_each(|id| check_id(id))?;
                let clean = |mut plot: Plot| {
                    for (x, y) in &mut plot.points {
                        *x = without_nul(std::mem::take(x));
                        *y = without_nul(std::mem::take(y));
                    }
                    plot
                };
                Ok(Response::Plotted {
                    objects: objects.into_iter().map(|(id, o)| (id, clean(o))).collect(),
                })
            }
            Response::Written { written } => Ok(Response::Written {
                written: written.within_bounds()?,
            }),
            Response::Program { program } if program.chars().count() > LONGEST_PROGRAM => {
                Err(ResponseFault::ProgramTooLong)
            }
            Response::Program { program } => Ok(Response::Program {
                program: without_nul(program),
            }),
        }
    }
}

fn bounded(text: String) -> Result<String, ResponseFault> {
    // Four bytes are the longest character; counted only where it could matter.
    if text.len() > LONGEST_RESPONSE && text.chars().count() > LONGEST_RESPONSE {
        return Err(ResponseFault::TooLong);
    }
    Ok(without_nul(text))
}

fn bounded_together<'a>(texts: impl Iterator<Item = &'a String>) -> Result<(), ResponseFault> {
    let all: usize = texts.map(String::len).sum();
    if all > LONGEST_FIELDS {
        Err(ResponseFault::TooLong)
    } else {
        Ok(())
    }
}

fn few_ids(ids: Vec<String>) -> Result<Vec<String>, ResponseFault> {
    if ids.len() > MOST_CHOICES {
        return Err(ResponseFault::TooManyChoices);
    }
    ids.iter().try_for_each(|id| check_id(id))?;
    Ok(ids)
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

    #[rstest]
    #[case::many_fields(Response::Fields { fields: (0..70).map(|n| (n.to_string(), String::new())).collect() })]
    #[case::long_fields(Response::Fields { fields: (0..9).map(|n| (n.to_string(), "7".repeat(1_000))).collect() })]
    #[case::a_long_id(Response::Fields { fields: BTreeMap::from([("a".repeat(70), String::new())]) })]
    #[case::many_pairs(Response::Pairs { pairs: vec![("a".into(), "b".into()); 65] })]
    #[case::a_bad_pair(Response::Pairs { pairs: vec![("a".into(), "b\0".into())] })]
    #[case::a_long_order(Response::Ordered { order: vec!["a".into(); 65] })]
    #[case::many_rows(Response::Grid { grid: vec![Vec::new(); 13] })]
    #[case::long_rows(Response::Grid { grid: vec![vec![String::new(); 13]] })]
    #[case::full_cells(Response::Grid { grid: vec![vec!["7".repeat(900); 10]] })]
    fn whatever_has_members_is_bounded(#[case] given: Response) {
        assert!(given.within_bounds().is_err());
    }

    #[rstest]
    #[case::text("1/2", "\"1/2\"")]
    #[case::choices("a, b", "[\"a\",\"b\"]")]
    #[case::order("order", "{\"order\":[\"a\",\"b\"]}")]
    #[case::fields("fields", "{\"fields\":{\"g1\":\"5\"}}")]
    #[case::pairs("pairs", "{\"pairs\":[[\"a\",\"b\"]]}")]
    #[case::program("program", "{\"program\":\"print(1)\"}")]
    #[case::grid("grid", "{\"grid\":[[\"1\",\"2\"],[\"3\",\"4\"]]}")]
    fn what_was_kept_is_read_as_it_was(#[case] what: &str, #[case] kept: &str) {
        let read: Response = serde_json::from_str(kept).unwrap();
        assert_eq!(serde_json::to_string(&read).unwrap(), kept, "{what}");
        assert!(!read.is_empty() && read.is_same(&read), "{what}");
    }

    #[test]
    fn blanks_and_an_order_that_says_nothing_make_no_difference() {
        let read = |text: &str| serde_json::from_str::<Response>(text).unwrap();
        let same = [
            (r#"{"fields":{"a":" 1 ","b":""}}"#, r#"{"fields":{"a":"1"}}"#),
            (
                r#"{"pairs":[["a","b"],["c","d"]]}"#,
                r#"{"pairs":[["d","c"],["a","b"]]}"#,
            ),
            (r#"{"grid":[["1 "]]}"#, r#"{"grid":[["1"]]}"#),
        ];
        for (a, b) in same {
            assert!(read(a).is_same(&read(b)), "{a} {b}");
        }
        let turned = (r#"{"order":["a","b"]}"#, r#"{"order":["b","a"]}"#);
        assert!(!read(turned.0).is_same(&read(turned.1)));
        assert!(read(r#"{"fields":{"a":" "}}"#).is_empty());
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
