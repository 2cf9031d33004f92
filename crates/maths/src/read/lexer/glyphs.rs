//! Look-alikes that phones, word processors and PDFs produce, as the characters they stand for.

/// One character with the place it came from.
#[derive(Clone, Copy, Debug)]
pub(super) struct Glyph {
    pub(super) ch: char,
    pub(super) at: usize,
}

/// Look-alikes → the character that is meant; invisible ones are dropped; blanks become `' '`.
pub(super) fn fold(text: &str) -> Vec<Glyph> {
    let mut glyphs = Vec::with_capacity(text.len());
    for (at, c) in text.chars().enumerate() {
        let ch = match c {
            '−' | '–' | '—' | '‒' | '‐' | '‑' | '﹣' | '－' => '-',
            '×' | '·' | '⋅' | '∗' | '•' | '∙' | '✕' | '＊' => '*',
            '÷' | '∕' | '⁄' | '／' => '/',
            '＋' => '+',
            '＝' => '=',
            '（' => '(',
            '）' => ')',
            '［' => '[',
            '］' => ']',
            '｛' => '{',
            '｝' => '}',
            '，' => ',',
            '．' => '.',
            '＜' => '<',
            '＞' => '>',
            '∣' | '｜' | '❘' => '|',
            'ˆ' | '＾' => '^',
            '⩽' => '≤',
            '⩾' => '≥',
            '；' => ';',
            '！' => '!',
            '％' => '%',
            'º' | '˚' => '°',
            '′' | '’' | '‘' => '\'',
            '０'..='９' => char::from_u32('0' as u32 + (c as u32 - '０' as u32)).unwrap_or(c),
            'ａ'..='ｚ' => char::from_u32('a' as u32 + (c as u32 - 'ａ' as u32)).unwrap_or(c),
            'Ａ'..='Ｚ' => char::from_u32('A' as u32 + (c as u32 - 'Ａ' as u32)).unwrap_or(c),
            '\u{ad}'
            | '\u{200b}'..='\u{200f}'
            | '\u{202a}'..='\u{202e}'
            | '\u{2060}'..='\u{206f}'
            | '\u{feff}' => {
                continue;
            }
            c if c.is_whitespace() => ' ',
            c => c,
        };
        if let Some(low) = subscript(ch) {
            let continues = glyphs.last().is_some_and(|g: &Glyph| {
                g.at + 1 == at && text.chars().nth(g.at).is_some_and(|p| subscript(p).is_some())
            });
            if !continues {
                glyphs.push(Glyph { ch: '_', at });
            }
            glyphs.push(Glyph { ch: low, at });
        } else {
            glyphs.push(Glyph { ch, at });
        }
    }
    glyphs
}

pub(super) fn subscript(c: char) -> Option<char> {
    Some(match c {
        '₀'..='₉' => char::from_u32('0' as u32 + (c as u32 - '₀' as u32))?,
        'ₐ' => 'a',
        'ₑ' => 'e',
        'ₕ' => 'h',
        'ᵢ' => 'i',
        'ⱼ' => 'j',
        'ₖ' => 'k',
        'ₗ' => 'l',
        'ₘ' => 'm',
        'ₙ' => 'n',
        'ₒ' => 'o',
        'ₚ' => 'p',
        'ᵣ' => 'r',
        'ₛ' => 's',
        'ₜ' => 't',
        'ₓ' => 'x',
        _ => return None,
    })
}

pub(super) fn superscript_digit(c: char) -> Option<u32> {
    Some(match c {
        '⁰' => 0,
        '¹' => 1,
        '²' => 2,
        '³' => 3,
        '⁴'..='⁹' => 4 + (c as u32 - '⁴' as u32),
        _ => return None,
    })
}

pub(super) fn vulgar(c: char) -> Option<(i64, i64)> {
    Some(match c {
        '½' => (1, 2),
        '⅓' => (1, 3),
        '⅔' => (2, 3),
        '¼' => (1, 4),
        '¾' => (3, 4),
        '⅕' => (1, 5),
        '⅖' => (2, 5),
        '⅗' => (3, 5),
        '⅘' => (4, 5),
        '⅙' => (1, 6),
        '⅚' => (5, 6),
        '⅐' => (1, 7),
        '⅛' => (1, 8),
        '⅜' => (3, 8),
        '⅝' => (5, 8),
        '⅞' => (7, 8),
        '⅑' => (1, 9),
        '⅒' => (1, 10),
        '↉' => (0, 3),
        _ => return None,
    })
}
