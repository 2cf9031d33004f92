//! Gaps in a sentence or a table: something is typed in, or picked from a list (QTI's textEntryInteraction and
//! inlineChoiceInteraction in the midst of text).

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::slots::{PosedSlots, Slot, Slots, Takes};
use super::text_entry::{Field, TextEntry};
use super::{
    Known, Named, Posed, Shape, Shown, ShownChoice, Spec, chance, check_ids, check_replies, faulty,
    member_and_value, plain_line, pose_named,
};
use crate::answer::AnswerBlock;
use crate::bank::{Block, Drawn, FormatError, Inline, RenderError, Reply, Set, gaps};
use crate::response::Response;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct InlineGaps {
    /// Markdown with `[[id]]` where a gap is, in a table too.
    pub passage: String,
    pub gaps: BTreeMap<String, GapSpec>,
}

/// What goes into a gap.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum GapSpec {
    List(ListGap),
    Typed(TypedGap),
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ListGap {
    /// What the gap is called, for a screen reader and where its answer is named.
    pub label: String,
    pub choices: Vec<Named>,
    /// The id of the right one; or, where that depends on the numbers, what must hold for each one to be right.
    pub correct: RightOne,
    #[serde(default)]
    pub shuffle: bool,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum RightOne {
    Id(String),
    If(BTreeMap<String, String>),
}

impl RightOne {
    fn ids(&self) -> Vec<&str> {
        match self {
            RightOne::Id(id) => vec![id],
            RightOne::If(conditions) => conditions.keys().map(String::as_str).collect(),
        }
    }

    fn find(&self, set: &Set) -> Result<String, RenderError> {
        let conditions = match self {
            RightOne::Id(id) => return Ok(id.clone()),
            RightOne::If(conditions) => conditions,
        };
        let mut right = None;
        for (id, condition) in conditions {
            if set.holds(condition)? {
                if right.is_some() {
                    return Err(RenderError::unfit(
                        "a list with two right choices for the same numbers",
                    ));
                }
                right = Some(id.clone());
            }
        }
        right.ok_or_else(|| RenderError::unfit("a list with no right choice for some numbers"))
    }
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TypedGap {
    pub label: String,
    pub answer: Box<AnswerBlock>,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct InlineGapsView {
    passage: Vec<Block>,
    gaps: Vec<InlineGapView>,
}

/// A gap: a list where there are choices, else a field.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct InlineGapView {
    id: String,
    label: String,
    choices: Vec<ShownChoice>,
    field: Option<Field>,
}

impl GapSpec {
    fn label(&self) -> &str {
        match self {
            GapSpec::List(gap) => &gap.label,
            GapSpec::Typed(gap) => &gap.label,
        }
    }

    fn typed(&self) -> Option<TextEntry> {
        match self {
            GapSpec::List(_) => None,
            GapSpec::Typed(gap) => Some(TextEntry {
                answer: gap.answer.clone(),
                label: gap.label.clone(),
            }),
        }
    }
}

impl Spec for InlineGaps {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        check_ids(part, self.gaps.keys().map(String::as_str))?;
        if self.gaps.is_empty() {
            return Err(faulty(part, "a passage needs a gap"));
        }
        for (id, gap) in &self.gaps {
            if gap.label().trim().is_empty() {
                return Err(faulty(part, format!("gap `{id}` needs a label")));
            }
            if let GapSpec::List(list) = gap {
                check_ids(part, list.choices.iter().map(|c| c.id.as_str()))?;
                let known = |right: &&str| list.choices.iter().any(|c| c.id == **right);
                if let Some(right) = list.correct.ids().into_iter().find(|r| !known(r)) {
                    return Err(faulty(part, format!("gap `{id}`: there is no choice `{right}`")));
                }
                if list.choices.iter().any(|c| c.text.contains('$')) {
                    return Err(faulty(
                        part,
                        format!("gap `{id}`: a list inside a sentence takes no maths; write x² or ½"),
                    ));
                }
            }
        }
        check_replies(part, replies, |to| {
            member_and_value(to).is_some_and(|(id, value)| match self.gaps.get(id) {
                Some(GapSpec::List(list)) => list.choices.iter().any(|c| c.id == value),
                Some(GapSpec::Typed(_)) => true,
                None => false,
            })
        })
    }

    fn guess(&self, typed: f64) -> f64 {
        let one = |gap: &GapSpec| match gap {
            GapSpec::List(list) => chance([list.choices.len()].into_iter()),
            GapSpec::Typed(_) => typed,
        };
        self.gaps.values().map(one).product()
    }

    fn is_typed(&self) -> bool {
        self.gaps.values().any(|g| matches!(g, GapSpec::Typed(_)))
    }

    fn shape(&self) -> Shape {
        let choices = |(id, gap): (&String, &GapSpec)| match gap {
            GapSpec::List(list) => list.choices.iter().map(|c| format!("{id}={}", c.id)).collect(),
            GapSpec::Typed(_) => vec![id.clone()],
        };
        let shuffled = |g: &GapSpec| matches!(g, GapSpec::List(list) if list.shuffle);
        Shape {
            kind: "inline",
            ids: self.gaps.iter().flat_map(choices).collect(),
            shuffled: self.gaps.values().any(shuffled),
        }
    }

    fn may_vary(&self) -> bool {
        let right = |list: &ListGap| match &list.correct {
            RightOne::Id(id) => list.choices.iter().any(|c| c.id == *id && c.text.contains("{{")),
            RightOne::If(_) => true,
        };
        self.gaps.values().any(|g| match g {
            GapSpec::List(list) => right(list),
            GapSpec::Typed(_) => true,
        })
    }

    fn pose(&self, part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let passage = set.passage(&self.passage)?;
        let mut slots = Vec::new();
        for gap in gaps(&passage) {
            let spec = self.gaps.get(&gap.id);
            let spec = spec
                .ok_or_else(|| RenderError::unfit(&format!("the gap `{}`, which is not listed,", gap.id)))?;
            let takes = match spec {
                GapSpec::List(list) => {
                    let mut from = pose_named(set, &list.choices)?;
                    if list.shuffle {
                        set.shuffle(&mut from);
                    }
                    Takes::OneOf {
                        from,
                        right: vec![list.correct.find(set)?],
                    }
                }
                GapSpec::Typed(typed) => {
                    let entry = TextEntry {
                        answer: typed.answer.clone(),
                        label: typed.label.clone(),
                    };
                    Takes::Typed(Box::new(entry.posed(part, set)?))
                }
            };
            slots.push(Slot {
                id: gap.id.clone(),
                label: vec![Inline::Text(set.words(spec.label())?)],
                takes,
            });
        }
        if slots.len() != self.gaps.len() {
            return Err(RenderError::unfit(
                "a gap that is listed but not in the passage, or there twice,",
            ));
        }
        let shown = Shown::Inline(InlineGapsView {
            gaps: slots.iter().map(shown_gap).collect(),
            passage,
        });
        let noun = ("box", "boxes", "empty");
        Ok(Box::new(PosedSlots {
            shown,
            faults: Vec::new(),
            slots: Slots {
                slots,
                noun,
                once: Vec::new(),
            },
        }))
    }

    fn known(&self, part: &str, to: &str, drawn: &Drawn) -> Result<Known, RenderError> {
        let (member, value) = member_and_value(to).unwrap_or_default();
        let Some(typed) = self.gaps.get(member).and_then(GapSpec::typed) else {
            return Ok(Slots::known_choice(member, value));
        };
        let inner = typed.known(part, value, drawn)?;
        let id = member.to_owned();
        let typed = match &inner.response {
            Response::Text(t) => t.clone(),
            _ => String::new(),
        };
        Ok(Known {
            response: Response::Fields {
                fields: [(id.clone(), typed)].into(),
            },
            is_it: Box::new(move |r| match r {
                Response::Fields { fields } => fields
                    .get(&id)
                    .is_some_and(|given| (inner.is_it)(&Response::Text(given.clone()))),
                _ => false,
            }),
        })
    }
}

fn shown_gap(slot: &Slot) -> InlineGapView {
    let (choices, field) = match &slot.takes {
        Takes::OneOf { from, .. } => (from.clone(), None),
        Takes::Typed(posed) => (Vec::new(), Some(posed.field())),
    };
    InlineGapView {
        id: slot.id.clone(),
        label: plain_line(&slot.label),
        choices,
        field,
    }
}
