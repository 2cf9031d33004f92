use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::read::{Names, ReadOptions, read_expression};
use crate::tree::{Constant, Factor, Function, Joint, Term};

fn read(typed: &str) -> Expr {
    let names = Names::new(["x", "y", "theta", "x_1"]).unwrap();
    read_expression(
        typed,
        &ReadOptions {
            mixed: true,
            ..ReadOptions::new(&names)
        },
    )
    .unwrap()
    .tree
}

#[rstest]
#[case("x^2/(2x+1)", r"\frac{x^{2}}{2\,x + 1}")]
#[case("1/2x", r"\frac{1}{2}\,x")]
#[case("sqrt 2x", r"\sqrt{2\,x}")]
#[case("-x^2", r"-x^{2}")]
#[case("2theta + x_1", r"2\,\theta + x_{1}")]
#[case("|x|", r"\left|x\right|")]
#[case("2 1/3", r"2\tfrac{1}{3}")]
#[case("30°", r"30^{\circ}")]
#[case("1.5e3", r"1.5\times 10^{3}")]
#[case("12345678", r"12\,345\,678")]
#[case("x^(y+1)", r"x^{y + 1}")]
#[case("(x+1)^2", r"\left(x + 1\right)^{2}")]
#[case("log_2(8)", r"\log_{2}\left(8\right)")]
fn latex_shows_what_was_read(#[case] typed: &str, #[case] expected: &str) {
    assert_eq!(latex(&read(typed)), expected);
}

#[rstest]
#[case("x^2/(2x+1)", "x squared over 2 x plus 1, end of fraction")]
#[case("1/2", "1 over 2")]
#[case("sqrt(x+1)", "square root of x plus 1, end of root")]
#[case("-x^3", "minus x cubed")]
#[case("x^(y+1)", "x to the power y plus 1, end of power")]
#[case("(x+1)y", "open bracket x plus 1, close bracket y")]
#[case("sin(x)", "sine of x")]
fn speech_can_be_followed(#[case] typed: &str, #[case] expected: &str) {
    assert_eq!(speech(&read(typed)), expected);
}

/// Trees as a reader could have made them.
fn trees() -> impl Strategy<Value = Expr> {
    let leaf = prop_oneof![
        (0..40i64).prop_map(Expr::whole),
        prop::sample::select(vec!["x", "y", "theta", "x_1"]).prop_map(Expr::variable),
        Just(Expr::Constant(Constant::Pi)),
        Just(Expr::Constant(Constant::E)),
    ];
    leaf.prop_recursive(5, 40, 4, |inner| {
        let term = (any::<bool>(), inner.clone()).prop_map(|(minus, expr)| Term { minus, expr });
        let joint = prop::sample::select(vec![Joint::Times, Joint::Implied, Joint::Over]);
        let factor = (joint, inner.clone()).prop_map(|(joint, expr)| Factor { joint, expr });
        let function = prop::sample::select(vec![
            Function::Sin,
            Function::Ln,
            Function::Sqrt,
            Function::Abs,
            Function::Arctan,
        ]);
        prop_oneof![
            prop::collection::vec(term, 2..4).prop_map(|mut terms| {
                terms[0].minus = false;
                Expr::Sum(terms)
            }),
            prop::collection::vec(factor, 2..4).prop_map(|mut factors| {
                factors[0].joint = Joint::Times;
                Expr::Product(factors)
            }),
            (inner.clone(), inner.clone()).prop_map(|(a, b)| Expr::power(a, b)),
            inner.clone().prop_map(|e| e.negate()),
            (function, inner.clone()).prop_map(|(f, e)| Expr::call(f, e)),
            inner.clone().prop_map(|e| Expr::Degrees(Box::new(e))),
            inner.prop_map(|e| Expr::Factorial(Box::new(e))),
        ]
    })
}

proptest! {
    #[test]
    fn text_reads_back_to_the_same_tree(tree in trees()) {
        let typed = text(&tree);
        let again = read(&typed).without_groups();
        // A printed `*` between letters may stand for nothing at all.
        prop_assert_eq!(implied_as_times(&again), implied_as_times(&tree.without_groups()), "{}", typed);
    }
}

fn implied_as_times(e: &Expr) -> Expr {
    match e {
        Expr::Product(factors) => Expr::Product(
            factors
                .iter()
                .map(|f| Factor {
                    joint: if f.joint == Joint::Implied {
                        Joint::Times
                    } else {
                        f.joint
                    },
                    expr: implied_as_times(&f.expr),
                })
                .collect(),
        ),
        other => other.map_children(&mut implied_as_times),
    }
}
