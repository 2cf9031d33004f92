//! Circuits from the symbols of IEC 60617, on a grid of 70 pixels.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::canvas::{Canvas, Ink, Side};
use super::{At, Drawn, Pen, listed};
use crate::answer::NumberText;
use crate::bank::RenderError;

type Pair = (NumberText, NumberText);

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Circuit {
    /// Each along a line of the grid, from one point to another.
    elements: Vec<Element>,
    /// Lines through points of the grid.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    wires: Vec<Vec<Pair>>,
    /// Where wires are joined.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    joints: Vec<Pair>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct Element {
    symbol: Symbol,
    from: Pair,
    to: Pair,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    label: String,
    #[serde(default)]
    side: At,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
enum Symbol {
    Resistor,
    Lamp,
    Cell,
    /// A source of direct voltage.
    Source,
    /// A generator.
    Generator,
    SwitchOpen,
    SwitchClosed,
    Fuse,
    Ammeter,
    Voltmeter,
    Motor,
    Capacitor,
    Coil,
    Diode,
}

impl Symbol {
    fn words(self) -> &'static str {
        match self {
            Symbol::Resistor => "a resistor",
            Symbol::Lamp => "a lamp",
            Symbol::Cell => "a cell",
            Symbol::Source => "a voltage source",
            Symbol::Generator => "a generator",
            Symbol::SwitchOpen => "an open switch",
            Symbol::SwitchClosed => "a closed switch",
            Symbol::Fuse => "a fuse",
            Symbol::Ammeter => "an ammeter",
            Symbol::Voltmeter => "a voltmeter",
            Symbol::Motor => "a motor",
            Symbol::Capacitor => "a capacitor",
            Symbol::Coil => "a coil",
            Symbol::Diode => "a diode",
        }
    }
}

const GRID: f64 = 70.0;

impl Circuit {
    pub fn draw(&self, pen: &Pen) -> Result<Drawn, RenderError> {
        let mut ends = Vec::new();
        for element in &self.elements {
            ends.push((pen.point(&element.from)?, pen.point(&element.to)?));
        }
        let mut wires = Vec::new();
        for wire in &self.wires {
            wires.push(wire.iter().map(|p| pen.point(p)).collect::<Result<Vec<_>, _>>()?);
        }
        let all = ends
            .iter()
            .flat_map(|(a, b)| [a, b])
            .chain(wires.iter().flatten());
        let (mut x1, mut y1) = (1.0f64, 1.0f64);
        for (x, y) in all {
            (x1, y1) = (x1.max(*x), y1.max(*y));
        }
        let width = x1 * GRID + 120.0;
        let height = y1 * GRID + 84.0;
        let place = move |x: f64, y: f64| (60.0 + x * GRID, 42.0 + (y1 - y) * GRID);
        let mut canvas = Canvas::new(width, height);
        for wire in &wires {
            let on_sheet: Vec<(f64, f64)> = wire.iter().map(|(x, y)| place(*x, *y)).collect();
            canvas.path(&on_sheet, Ink::Line, false);
        }
        let mut said = Vec::new();
        for (element, (from, to)) in self.elements.iter().zip(&ends) {
            let (a, b) = (place(from.0, from.1), place(to.0, to.1));
            symbol(&mut canvas, element.symbol, a, b);
            let label = pen.words(&element.label)?;
            let half = (f64::midpoint(a.0, b.0), f64::midpoint(a.1, b.1));
            let upright = (a.0 - b.0).abs() < (a.1 - b.1).abs();
            let (mut x, mut y) = half;
            match element.side {
                At::Above => y -= 14.0,
                At::Below => y += 14.0,
                At::Left => x -= if upright { 12.0 } else { 24.0 },
                At::Right => x += if upright { 12.0 } else { 24.0 },
            }
            canvas.label(&label, (x, y), element.side.into());
            said.push(if label.is_empty() {
                element.symbol.words().to_owned()
            } else {
                format!("{} {label}", element.symbol.words())
            });
        }
        for joint in &self.joints {
            let (x, y) = pen.point(joint)?;
            canvas.dot(place(x, y), Ink::Line, true);
        }
        Ok(Drawn {
            canvas,
            alt: format!("A circuit with {}.", listed(&said)),
            place: Box::new(place),
        })
    }
}

/// A symbol in the middle between two points, with its wires.
fn symbol(canvas: &mut Canvas, symbol: Symbol, a: (f64, f64), b: (f64, f64)) {
    let (dx, dy) = (b.0 - a.0, b.1 - a.1);
    let length = dx.hypot(dy).max(1e-9);
    let (ux, uy) = (dx / length, dy / length);
    let middle = length / 2.0;
    // Along the line from a, and across it.
    let at = |along: f64, across: f64| (a.0 + along * ux - across * uy, a.1 + along * uy + across * ux);
    let mut wires = |half: f64| {
        canvas.line(a, at(middle - half, 0.0), Ink::Line);
        canvas.line(at(middle + half, 0.0), b, Ink::Line);
    };
    let half = match symbol {
        Symbol::Resistor | Symbol::Fuse | Symbol::Coil => 22.0,
        Symbol::Cell | Symbol::Capacitor => 5.0,
        Symbol::SwitchOpen | Symbol::SwitchClosed => 18.0,
        Symbol::Diode => 11.0,
        _ => 17.0,
    };
    wires(half);
    let centre = at(middle, 0.0);
    let letter = |canvas: &mut Canvas, letter: &str| {
        canvas.circle(centre, 17.0, Ink::Fill);
        canvas.label(letter, centre, Side::On);
    };
    let box_of = |canvas: &mut Canvas| {
        let corners = [
            at(middle - 22.0, -9.0),
            at(middle + 22.0, -9.0),
            at(middle + 22.0, 9.0),
            at(middle - 22.0, 9.0),
        ];
        canvas.path(&corners, Ink::Fill, true);
    };
    match symbol {
        Symbol::Resistor => box_of(canvas),
        Symbol::Fuse => {
            box_of(canvas);
            canvas.line(at(middle - 22.0, 0.0), at(middle + 22.0, 0.0), Ink::Line);
        }
        Symbol::Coil => {
            let mut turns = vec![at(middle - 22.0, 0.0)];
            for n in 0..32u32 {
                let t = f64::from(n) / 31.0;
                turns.push(at(
                    middle - 22.0 + 44.0 * t,
                    -9.0 * (t * 4.0 * std::f64::consts::PI).sin().abs(),
                ));
            }
            canvas.path(&turns, Ink::Line, false);
        }
        Symbol::Lamp => {
            canvas.circle(centre, 17.0, Ink::Fill);
            canvas.line(at(middle - 12.0, -12.0), at(middle + 12.0, 12.0), Ink::Line);
            canvas.line(at(middle - 12.0, 12.0), at(middle + 12.0, -12.0), Ink::Line);
        }
        Symbol::Cell => {
            canvas.line(at(middle - 5.0, -16.0), at(middle - 5.0, 16.0), Ink::Line);
            canvas.line(at(middle + 5.0, -8.0), at(middle + 5.0, 8.0), Ink::Line);
        }
        Symbol::Capacitor => {
            canvas.line(at(middle - 5.0, -15.0), at(middle - 5.0, 15.0), Ink::Line);
            canvas.line(at(middle + 5.0, -15.0), at(middle + 5.0, 15.0), Ink::Line);
        }
        Symbol::Source => {
            canvas.circle(centre, 17.0, Ink::Fill);
            canvas.line(at(middle - 17.0, 0.0), at(middle + 17.0, 0.0), Ink::Line);
        }
        Symbol::Generator => letter(canvas, "G"),
        Symbol::Motor => letter(canvas, "M"),
        Symbol::Ammeter => letter(canvas, "A"),
        Symbol::Voltmeter => letter(canvas, "V"),
        Symbol::SwitchOpen => canvas.line(at(middle - 18.0, 0.0), at(middle + 14.0, -15.0), Ink::Line),
        Symbol::SwitchClosed => canvas.line(at(middle - 18.0, 0.0), at(middle + 20.0, -3.0), Ink::Line),
        Symbol::Diode => {
            canvas.path(
                &[
                    at(middle - 11.0, -11.0),
                    at(middle + 11.0, 0.0),
                    at(middle - 11.0, 11.0),
                ],
                Ink::Fill,
                true,
            );
            canvas.line(at(middle + 11.0, -11.0), at(middle + 11.0, 11.0), Ink::Line);
        }
    }
}
