//! Places that each take one thing: what the kinds with gaps, groups and labels have in common.

use super::text_entry::PosedTextEntry;
use super::{
    Known, Member, Posed, Right, Shown, ShownChoice, find, joined, plain_line, share, still, text_of,
};
use crate::bank::Inline;
use crate::mark::Draft;
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

/// Places, in reading order, of which each takes one thing.
pub(super) struct Slots {
    pub slots: Vec<Slot>,
    /// What a place is called, one and many, and what it is while nothing is in it.
    pub noun: (&'static str, &'static str, &'static str),
    /// What can be used once only.
    pub once: Vec<String>,
}

pub(super) struct Slot {
    pub id: String,
    /// What stands for the place where it is named.
    pub label: Vec<Inline>,
    pub takes: Takes,
}

pub(super) enum Takes {
    OneOf {
        from: Vec<ShownChoice>,
        right: Vec<String>,
    },
    Typed(Box<PosedTextEntry>),
}

impl Takes {
    fn marking(&self, given: &str) -> Marking {
        match self {
            Takes::OneOf { right, .. } if right.iter().any(|r| r == given) => Marking::new(Outcome::Correct),
            Takes::OneOf { .. } => Marking::new(Outcome::Incorrect),
            Takes::Typed(posed) => posed
                .mark(&Response::Text(given.to_owned()))
                .unwrap_or_else(|| Marking::new(Outcome::Incorrect)),
        }
    }

    fn key(&self) -> String {
        match self {
            Takes::OneOf { right, .. } => right.first().cloned().unwrap_or_default(),
            Takes::Typed(posed) => text(posed.key()),
        }
    }

    fn typed_key(&self) -> String {
        match self {
            Takes::OneOf { .. } => self.key(),
            Takes::Typed(posed) => text(posed.best_key()),
        }
    }

    /// Something else than what is right.
    fn mistaken(&self) -> Option<String> {
        match self {
            Takes::OneOf { from, right } => {
                from.iter().find(|c| !right.contains(&c.id)).map(|c| c.id.clone())
            }
            Takes::Typed(posed) => Some(text(posed.mistaken())),
        }
    }

    fn shown(&self, given: &str) -> Vec<Inline> {
        match self {
            Takes::OneOf { from, .. } => text_of(from, given),
            Takes::Typed(posed) => {
                let read = posed.read(given).unwrap_or_default();
                match read.problem {
                    None if !read.reads_as.is_empty() => vec![Inline::Math(read.reads_as)],
                    _ => vec![Inline::Text(given.to_owned())],
                }
            }
        }
    }

    fn can_hold(&self, given: &str) -> bool {
        match self {
            Takes::OneOf { from, .. } => find(from, given).is_some(),
            Takes::Typed(_) => true,
        }
    }

    fn answer(&self) -> String {
        match self {
            Takes::OneOf { from, right } => {
                let mut texts: Vec<String> = right.iter().map(|r| plain_line(&text_of(from, r))).collect();
                texts.sort();
                texts.join(" / ")
            }
            Takes::Typed(posed) => posed.answer(),
        }
    }
}

fn text(response: Response) -> String {
    match response {
        Response::Text(t) => t,
        _ => String::new(),
    }
}

impl Slots {
    fn given<'a>(&self, response: &'a Response, id: &str) -> Option<&'a str> {
        let Response::Fields { fields } = response else {
            return None;
        };
        fields.get(id).map(|t| t.trim()).filter(|t| !t.is_empty())
    }

    fn each<'a>(&'a self, response: &'a Response) -> impl Iterator<Item = (&'a Slot, Option<&'a str>)> {
        self.slots.iter().map(|s| (s, self.given(response, &s.id)))
    }

    pub fn filled(&self, with: impl Fn(&Slot) -> String) -> Response {
        Response::Fields {
            fields: self.slots.iter().map(|s| (s.id.clone(), with(s))).collect(),
        }
    }

    /// Empty places, places that hold what is not there, and what cannot be read.
    pub fn unfinished(&self, response: &Response) -> Option<String> {
        if !matches!(response, Response::Fields { .. }) {
            return None;
        }
        let empty = self.each(response).filter(|(_, given)| given.is_none()).count();
        if let Some(words) = still(empty, self.noun.0, self.noun.1, self.noun.2) {
            return Some(words);
        }
        for (slot, given) in self.each(response) {
            let Some(given) = given else { continue };
            if !slot.takes.can_hold(given) {
                return Some("This answer does not belong to this question.".into());
            }
            let marking = slot.takes.marking(given);
            if !marking.outcome.is_judged() {
                let why = marking.notes.first().cloned().unwrap_or_default();
                return Some(self.about(slot, &why));
            }
            // A right value in another form is worth typing anew before a try is used.
            if marking.outcome == Outcome::WrongForm {
                let why = marking.notes.first().cloned().unwrap_or_default();
                return Some(self.about(slot, &why));
            }
        }
        let given: Vec<&str> = self.each(response).filter_map(|(_, g)| g).collect();
        let twice = |id: &&String| given.iter().filter(|g| *g == id).count() > 1;
        let twice = self.once.iter().find(twice)?;
        let from = self.slots.iter().find_map(|s| match &s.takes {
            Takes::OneOf { from, .. } => Some(from),
            Takes::Typed(_) => None,
        })?;
        let text = plain_line(&text_of(from, twice));
        Some(format!("\u{201c}{text}\u{201d} can be used once only."))
    }

    /// What is said of one place, with its name where there are several.
    fn about(&self, slot: &Slot, why: &str) -> String {
        if self.slots.len() == 1 {
            return why.to_owned();
        }
        let label = plain_line(&slot.label);
        let mut letters = label.chars();
        let first = letters
            .next()
            .map(|c| c.to_uppercase().to_string())
            .unwrap_or_default();
        format!("{first}{}: {why}", letters.as_str())
    }

    pub fn mark(&self, response: &Response) -> Option<Marking> {
        if !matches!(response, Response::Fields { .. }) {
            return None;
        }
        let shares = self
            .each(response)
            .map(|(slot, given)| given.map_or(0.0, |g| slot.takes.marking(g).score));
        let sum: f64 = shares.sum();
        let all = share(self.slots.len(), 0, 1);
        // A third of three is all of it, whatever adding thirds comes to.
        let score = if (all - sum).abs() < 1e-9 { 1.0 } else { sum / all };
        let marking = Marking::shared(score);
        let right = self.members(response).iter().filter(|m| m.right).count();
        Some(match marking.outcome {
            Outcome::Partial => marking.note(format!("{right} of {} are right.", self.slots.len())),
            _ => marking,
        })
    }

    pub fn members(&self, response: &Response) -> Vec<Member> {
        let one = |(slot, given): (&Slot, Option<&str>)| {
            let marking = slot.takes.marking(given?);
            Some(Member {
                id: slot.id.clone(),
                right: marking.score >= 1.0,
                reads_as: marking.reads_as,
                speech: marking.speech,
                notes: marking.notes,
            })
        };
        self.each(response).filter_map(one).collect()
    }

    pub fn key(&self) -> Response {
        self.filled(|s| s.takes.key())
    }

    pub fn typed_key(&self) -> Response {
        self.filled(|s| s.takes.typed_key())
    }

    pub fn lines(&self, response: &Response) -> Vec<Vec<Inline>> {
        let line = |(slot, given): (&Slot, Option<&str>)| {
            let shown = slot.takes.shown(given?);
            Some(if slot.label.is_empty() {
                shown
            } else {
                joined(&slot.label, ": ", &shown)
            })
        };
        self.each(response).filter_map(line).collect()
    }

    pub fn right(&self) -> Right {
        Right {
            choices: self.lines(&self.typed_key()),
            ..Right::default()
        }
    }

    pub fn in_words(&self, response: &Response) -> String {
        let line = |(slot, given): (&Slot, Option<&str>)| {
            let given = given?;
            let shown = match &slot.takes {
                Takes::OneOf { from, .. } => plain_line(&text_of(from, given)),
                Takes::Typed(_) => given.to_owned(),
            };
            let label = plain_line(&slot.label);
            Some(if label.is_empty() {
                shown
            } else {
                format!("{label}: {shown}")
            })
        };
        self.each(response)
            .filter_map(line)
            .collect::<Vec<_>>()
            .join("; ")
    }

    /// `id=value; id=value`, or the response as JSON.
    pub fn parse_response(&self, text: &str) -> Option<Response> {
        if is_json(text) {
            return from_json(text).filter(|json| matches!(json, Response::Fields { .. }));
        }
        let mut fields = std::collections::BTreeMap::new();
        for piece in text.split(';') {
            let (id, value) = piece.split_once('=')?;
            let slot = self.slots.iter().find(|s| s.id == id.trim())?;
            fields.insert(slot.id.clone(), value.trim().to_owned());
        }
        Some(Response::Fields { fields })
    }

    /// What is known in its places, and what is right in the others, as far as it is not used up.
    fn completed(&self, known: &Response) -> Response {
        let Response::Fields { fields: known } = known else {
            return known.clone();
        };
        let mut fields = known.clone();
        for slot in self.slots.iter().filter(|s| !known.contains_key(&s.id)) {
            let used = |id: &String| self.once.contains(id) && fields.values().any(|f| f == id);
            let free = match &slot.takes {
                Takes::OneOf { from, right } => {
                    let any = right.iter().chain(from.iter().map(|c| &c.id));
                    any.into_iter().find(|id| !used(id)).cloned()
                }
                Takes::Typed(_) => None,
            };
            fields.insert(slot.id.clone(), free.unwrap_or_else(|| slot.takes.typed_key()));
        }
        Response::Fields { fields }
    }

    /// All right but the first place that can be wrong.
    pub fn mistaken(&self) -> Response {
        let wrong = self
            .slots
            .iter()
            .find_map(|s| Some((s.id.clone(), s.takes.mistaken()?)));
        self.completed(&Response::Fields {
            fields: wrong.into_iter().collect(),
        })
    }

    pub fn answer(&self) -> String {
        let one = |s: &Slot| format!("{}={}", s.id, s.takes.answer());
        self.slots.iter().map(one).collect::<Vec<_>>().join(";")
    }

    pub fn read_at(&self, place: &str, entry: &str) -> Option<Draft> {
        match &self.slots.iter().find(|s| s.id == place)?.takes {
            Takes::Typed(posed) => posed.read(entry),
            Takes::OneOf { .. } => None,
        }
    }

    pub fn faults(&self) -> Vec<String> {
        let one = |s: &Slot| match &s.takes {
            Takes::OneOf { from, .. } => agreeing(from).into_iter().collect(),
            Takes::Typed(posed) => posed.faults(),
        };
        self.slots.iter().flat_map(one).collect()
    }

    /// The reply to something in one place.
    pub fn known_choice(member: &str, value: &str) -> Known {
        let (id, given) = (member.to_owned(), value.to_owned());
        let response = Response::Fields {
            fields: [(id.clone(), given.clone())].into(),
        };
        Known {
            is_it: Box::new(
                move |r| matches!(r, Response::Fields { fields } if fields.get(&id) == Some(&given)),
            ),
            response,
        }
    }
}

/// A part that is nothing but its places.
pub(super) struct PosedSlots {
    pub shown: Shown,
    pub slots: Slots,
    pub faults: Vec<String>,
}

impl Posed for PosedSlots {
    fn shown(&self) -> Shown {
        self.shown.clone()
    }

    fn mark(&self, response: &Response) -> Option<Marking> {
        self.slots.mark(response)
    }

    fn unfinished(&self, response: &Response) -> Option<String> {
        self.slots.unfinished(response)
    }

    fn members(&self, response: &Response) -> Vec<Member> {
        self.slots.members(response)
    }

    fn key(&self) -> Response {
        self.slots.key()
    }

    fn typed_key(&self) -> Response {
        self.slots.typed_key()
    }

    fn right(&self) -> Right {
        self.slots.right()
    }

    fn chosen(&self, response: &Response) -> Vec<Vec<Inline>> {
        self.slots.lines(response)
    }

    fn in_words(&self, response: &Response) -> String {
        self.slots.in_words(response)
    }

    fn read_at(&self, place: &str, entry: &str) -> Option<Draft> {
        self.slots.read_at(place, entry)
    }

    fn is_readable(&self, response: &Response) -> bool {
        self.slots.unfinished(response).is_none()
    }

    fn parse_response(&self, text: &str) -> Option<Response> {
        self.slots.parse_response(text)
    }

    fn completed(&self, known: &Response) -> Response {
        self.slots.completed(known)
    }

    fn mistaken(&self) -> Response {
        self.slots.mistaken()
    }

    fn answer(&self) -> String {
        self.slots.answer()
    }

    fn has_answer_of(&self, other: &dyn Posed) -> bool {
        self.answer() == other.answer()
    }

    fn faults(&self) -> Vec<String> {
        self.slots
            .faults()
            .into_iter()
            .chain(self.faults.iter().cloned())
            .collect()
    }
}

/// A response written as JSON, as against one in a line of text.
pub(super) fn is_json(text: &str) -> bool {
    text.trim_start().starts_with(['{', '['])
}

pub(super) fn from_json(text: &str) -> Option<Response> {
    serde_json::from_str(text.trim()).ok()
}

/// Two of them that show the same.
pub(super) fn agreeing(all: &[ShownChoice]) -> Option<String> {
    let mut rest = all;
    while let [first, others @ ..] = rest {
        if others.iter().any(|o| o.text == first.text) {
            return Some(format!("two choices show the same: {}", plain_line(&first.text)));
        }
        rest = others;
    }
    None
}
