//! Mistakes that people make when they write their first programs, and what they are told.

use marking::program::{Case, Job, ProgramError};
use rstest::rstest;

/// What is said of the error.
fn said(source: &str) -> String {
    let job = Job {
        source: source.into(),
        cases: vec![Case::default()],
        ..Job::default()
    };
    let report = runner::run(&job);
    let of_case = report.cases.iter().find_map(|c| c.error.as_ref());
    let error = report.start.as_ref().or(report.ended.as_ref()).or(of_case);
    error.map(ProgramError::words).unwrap_or_default()
}

#[rstest]
#[case::twice(
    "const a = 1;\nconst a = 2;",
    "Line 2: a name is declared here for the second time."
)]
#[case::twice_let(
    "let a = 1;\nlet a = 2;",
    "Line 2: a name is declared here for the second time."
)]
#[case::no_value("const a;", "Line 1: a “const” needs its value at once")]
#[case::constant("const a = 1;\na = 2;", "Line 2: “a” is a constant and keeps its value.")]
#[case::open_bracket(
    "print('a'",
    "Line 1: the program ends before everything that was opened is closed."
)]
#[case::open_function(
    "function f() {\n return 1;\n",
    "Line 3: the program ends before everything that was opened is closed."
)]
#[case::open_condition(
    "if (1 > 0) {\n print(1);",
    "Line 2: the program ends before everything that was opened is closed."
)]
#[case::open_loop(
    "while (false) {\n if (true) {\n }\n",
    "Line 4: the program ends before everything that was opened is closed."
)]
#[case::open_call(
    "print(1 +",
    "Line 1: the program ends before everything that was opened is closed."
)]
#[case::open_text("print('a)", "Line 1: a text is not closed.")]
#[case::open_text_of_two("print(\"a);\nprint(1)", "Line 1: a text is not closed.")]
#[case::open_template("let a = `abc", "Line 1: a text is not closed.")]
#[case::no_bracket("print 'a';", "Line 1: a statement should end here, but more follows.")]
#[case::misspelt_word("fuction f() {}", "Line 1: a statement should end here, but more follows.")]
#[case::two_on_a_line(
    "let x = 3 let y = 4",
    "Line 1: a statement should end here, but more follows."
)]
#[case::quotation("let a = 'it's';", "Line 1: a statement should end here, but more follows.")]
#[case::one_too_many("print(1));", "Line 1: a statement should end here, but more follows.")]
#[case::condition("if (1 > 0 {\n print(1); }", "Line 1: “{” can't stand here.")]
#[case::loop_head("for (let i = 0; i < 3; i++ {\n}", "Line 1: “{” can't stand here.")]
#[case::commas(
    "for (let i = 0, i < 3, i++) {}",
    "Line 1: the three parts of a “for” have semicolons"
)]
#[case::list("let x = [1, 2;", "Line 1: “;” can't stand here.")]
#[case::nothing_after("if (a = ) {}", "Line 1: “)” can't stand here.")]
#[case::operator("let a = 5 +;", "Line 1: “;” can't stand here.")]
#[case::alone("else { print(1) }", "Line 1: “else” can't stand here.")]
#[case::closed_twice("print(1);\n}", "Line 2: “}” can't stand here.")]
#[case::other_language("for i in range(3): print(i)", "Line 1: “i” can't stand here.")]
#[case::number_first("let 3a = 1;", "Line 1: a number runs straight into letters here.")]
#[case::curly("print(“a”)", "Line 1: there is a character here that a program can't have.")]
#[case::outside("return 3;", "Line 1: “return” stands outside every function.")]
#[case::outside_loop("break;", "Line 1: “break” stands outside every loop.")]
#[case::outside_loop_too("continue;", "Line 1: “continue” stands outside every loop.")]
#[case::misspelt("prnt(1)", "Line 1: prnt is not defined. Check its spelling")]
#[case::number_called("let f = 3;\nf();", "Line 2: what is called here is not a function.")]
#[case::no_method("'abc'.foo()", "Line 1: what is called here is not a function.")]
#[case::of_nothing(
    "let a;\na.length",
    "Line 2: “length” is asked of something that has no value: it is undefined."
)]
#[case::of_null(
    "let a = null;\n\na.b.c",
    "Line 3: “b” is asked of something that has no value: it is null."
)]
#[case::length(
    "new Array(-1)",
    "Line 1: invalid array length. A number here is larger or smaller"
)]
#[case::own("throw new Error('own')", "Line 1: the program stopped with an error: own.")]
#[case::left_out("let s = 3", "")]
fn a_mistake_is_told_at_its_line_with_what_it_means(#[case] source: &str, #[case] words: &str) {
    let told = said(source);
    assert!(told.starts_with(words), "{source:?}: {told}");
    assert_eq!(told.is_empty(), words.is_empty());
    // Nothing of it is how the language talks to its makers.
    for jargon in [
        "lexical",
        "identifier",
        "token",
        "literal",
        "destructuring",
        "this can't be read",
    ] {
        assert!(!told.contains(jargon), "{source:?}: {told}");
    }
}
