//! Forms: how a number or an expression is written, whatever its value.

use maths::{
    Expr, ExpressionForm, Names, NumberForm, ReadOptions, has_expression_form, has_number_form,
    read_expression,
};
use rstest::rstest;

fn number(typed: &str) -> Expr {
    let names = Names::new([]).unwrap();
    read_expression(typed, &ReadOptions::number(&names)).unwrap().tree
}

fn expression(typed: &str) -> Expr {
    let names = Names::new(["x", "y"]).unwrap();
    read_expression(typed, &ReadOptions::new(&names)).unwrap().tree
}

#[rstest]
#[case(NumberForm::Integer, &["12", "-3", "0", "(7)"], &["12.0", "3*4", "6/2", "1e3"])]
#[case(NumberForm::Decimal, &["0.5", "-2.75", "3", "1.5e3"], &["1/2", "2 1/2", "sqrt(2)"])]
#[case(NumberForm::Fraction, &["3/4", "-3/4", "6/8", "5"], &["0.75", "1 1/2", "3/(2+2)"])]
#[case(NumberForm::LowestTerms, &["3/4", "-3/4", "5"], &["6/8", "0.75", "8/4"])]
#[case(NumberForm::Mixed, &["2 1/3", "5", "-1 1/2", "2/3"], &["7/3", "2 4/6", "2.5"])]
#[case(NumberForm::Scientific, &["4.2*10^4", "1*10^-3", "9.99e5", "-2.5*10^2"], &["42*10^3", "0.4*10^5", "42000"])]
fn numbers(#[case] form: NumberForm, #[case] fits: &[&str], #[case] not: &[&str]) {
    for typed in fits {
        assert!(has_number_form(&number(typed), form), "{typed} is {form:?}");
    }
    for typed in not {
        assert!(!has_number_form(&number(typed), form), "{typed} is not {form:?}");
    }
}

#[rstest]
#[case(ExpressionForm::Expanded, &["x^2 + 5x + 6", "3x", "x", "-2x^3 + 1"], &["(x+2)(x+3)", "2(x+1)", "(x+1)^2"])]
#[case(ExpressionForm::Factored, &["(x-3)(x+3)", "2(x+1)", "x(x-1)", "(x+1)^2"], &["x^2-9", "2x+2", "x^2+2x+1"])]
#[case(ExpressionForm::SingleFraction, &["(x+2)/(2x)", "1/x"], &["1/2 + 1/x", "x + 1/x"])]
#[case(ExpressionForm::LowestTerms, &["(x-3)/2", "1/(x+1)"], &["(x^2-9)/(2x+6)", "(2x)/(4x^2)"])]
#[case(ExpressionForm::NoDecimals, &["x/2", "2sqrt(3)", "3x"], &["0.5x", "1.5"])]
fn expressions(#[case] form: ExpressionForm, #[case] fits: &[&str], #[case] not: &[&str]) {
    for typed in fits {
        assert!(
            has_expression_form(&expression(typed), form),
            "{typed} is {form:?}"
        );
    }
    for typed in not {
        assert!(
            !has_expression_form(&expression(typed), form),
            "{typed} is not {form:?}"
        );
    }
}
