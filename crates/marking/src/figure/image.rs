//! A picture that came from elsewhere, as a figure: its bytes stand in the question's file.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::canvas::Canvas;
use super::{Drawn, Pen};
use crate::bank::RenderError;

/// A sheet is no wider.
const WIDEST: f64 = 640.0;
/// Characters of base64.
const LONGEST: usize = 48_000;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
enum ImageKind {
    #[serde(rename = "image/png")]
    Png,
    #[serde(rename = "image/jpeg")]
    Jpeg,
    #[serde(rename = "image/gif")]
    Gif,
    /// Shown as a picture: nothing in it runs or is fetched.
    #[serde(rename = "image/svg+xml")]
    Svg,
}

impl ImageKind {
    fn name(self) -> &'static str {
        match self {
            ImageKind::Png => "image/png",
            ImageKind::Jpeg => "image/jpeg",
            ImageKind::Gif => "image/gif",
            ImageKind::Svg => "image/svg+xml",
        }
    }
}

/// Places on it are given in pixels from its upper left corner.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Image {
    kind: ImageKind,
    /// Its bytes in base64.
    data: String,
    /// In pixels.
    width: f64,
    height: f64,
}

impl Image {
    pub fn draw(&self, _: &Pen) -> Result<Drawn, RenderError> {
        let is_base64 = self
            .data
            .bytes()
            .all(|c| c.is_ascii_alphanumeric() || matches!(c, b'+' | b'/' | b'='));
        let sane = |n: f64| (1.0..=10_000.0).contains(&n);
        if !is_base64
            || self.data.is_empty()
            || self.data.len() > LONGEST
            || !sane(self.width)
            || !sane(self.height)
        {
            return Err(RenderError::unfit(
                "a picture without bytes or size, or one that is too large",
            ));
        }
        let scale = (WIDEST / self.width).min(1.0);
        let mut canvas = Canvas::new(self.width * scale, self.height * scale);
        canvas.image(self.kind.name(), &self.data);
        Ok(Drawn {
            canvas,
            alt: "A picture.".into(),
            place: Box::new(move |x, y| (x * scale, y * scale)),
        })
    }
}

#[cfg(test)]
mod tests {
    use crate::bank::{parse_question, render};

    fn question(picture: &str) -> String {
        format!(
            "id: q\ntitle: Q\npoints: 1\nfew_answers: true\ntext: 'x ![](p)'\nfigures: {{p: {picture}}}\nparts:\n  - {{id: a, \
             interaction: text_entry, answer: {{kind: number, key: '1'}}}}\n"
        )
        .replace("x ![](p)", "x\n\n\n  ![](p)")
    }

    #[test]
    fn nothing_but_base64_gets_into_the_page() {
        let sound =
            "{figure: image, kind: image/png, data: 'iVBORw0KGgo=', width: 1280, height: 400, alt: a cat}";
        let item = render(&parse_question(&question(sound)).unwrap(), 1).unwrap();
        let shown = serde_json::to_string(&item.text).unwrap();
        assert!(shown.contains("data:image/png;base64,iVBORw0KGgo="), "{shown}");
        for bad in [
            "{figure: image, kind: image/png, data: '\"/><script>', width: 10, height: 10}",
            "{figure: image, kind: image/png, data: '', width: 10, height: 10}",
            "{figure: image, kind: image/png, data: 'AAAA', width: 0, height: 10}",
        ] {
            let question = parse_question(&question(bad)).unwrap();
            assert!(render(&question, 1).is_err(), "{bad}");
        }
        let odd = "{figure: image, kind: text/html, data: 'AAAA', width: 10, height: 10}";
        assert!(parse_question(&question(odd)).is_err());
    }
}
