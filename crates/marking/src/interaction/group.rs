//! Items that are sorted into groups (a matchInteraction in which each row takes one column, shown as boxes).

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::slots::{PosedSlots, Slot, Slots, Takes};
use super::{
    Known, Named, Posed, Shape, Shown, ShownChoice, Spec, chance, check_ids, check_replies, faulty,
    member_and_value, one_line, pose_named,
};
use crate::bank::{Drawn, FormatError, RenderError, Reply, Set};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Group {
    pub groups: Vec<Named>,
    pub items: Vec<Grouped>,
    #[serde(default = "yes")]
    pub shuffle: bool,
}

fn yes() -> bool {
    true
}

/// An item, with the group that it belongs to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Grouped {
    pub id: String,
    pub text: String,
    pub group: String,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct GroupView {
    groups: Vec<ShownChoice>,
    items: Vec<ShownChoice>,
}

impl Spec for Group {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        check_ids(part, self.groups.iter().map(|g| g.id.as_str()))?;
        check_ids(part, self.items.iter().map(|i| i.id.as_str()))?;
        let is_group = |id: &str| self.groups.iter().any(|g| g.id == id);
        if self.groups.len() < 2 || self.items.is_empty() {
            return Err(faulty(part, "sorting needs items, and two groups at least"));
        }
        if let Some(item) = self.items.iter().find(|i| !is_group(&i.group)) {
            return Err(faulty(
                part,
                format!("`{}`: there is no group `{}`", item.id, item.group),
            ));
        }
        check_replies(part, replies, |to| {
            member_and_value(to)
                .is_some_and(|(item, group)| self.items.iter().any(|i| i.id == item) && is_group(group))
        })
    }

    fn guess(&self, _typed: f64) -> f64 {
        chance(self.items.iter().map(|_| self.groups.len()))
    }

    fn shape(&self) -> Shape {
        let items = self.items.iter().map(|i| i.id.clone());
        Shape {
            kind: "group",
            ids: items.chain(self.groups.iter().map(|g| g.id.clone())).collect(),
            shuffled: self.shuffle,
        }
    }

    fn may_vary(&self) -> bool {
        self.items.iter().any(|i| i.text.contains("{{"))
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let groups = pose_named(set, &self.groups)?;
        let mut slots = Vec::new();
        for item in &self.items {
            slots.push(Slot {
                id: item.id.clone(),
                label: one_line(set.prose(&item.text)?)?,
                takes: Takes::OneOf {
                    from: groups.clone(),
                    right: vec![item.group.clone()],
                },
            });
        }
        if self.shuffle {
            set.shuffle(&mut slots);
        }
        let item = |s: &Slot| ShownChoice {
            id: s.id.clone(),
            text: s.label.clone(),
        };
        let shown = Shown::Group(GroupView {
            groups,
            items: slots.iter().map(item).collect(),
        });
        Ok(Box::new(PosedSlots {
            shown,
            faults: Vec::new(),
            slots: Slots {
                slots,
                noun: ("item", "items", "unsorted"),
                once: Vec::new(),
            },
        }))
    }

    fn known(&self, _part: &str, to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        let (item, group) = member_and_value(to).unwrap_or_default();
        Ok(Slots::known_choice(item, group))
    }
}
